import {
  copyDocument,
  localeTags,
  mainRegion,
  printValues,
  readValues,
  referencesOf,
  regionNames,
  regionOf,
  typeNamed,
  type ContentType,
  type CopyMap,
  type CopyPlan,
  type Document,
} from '@wisteria/core'
import { assetsWithIds, type Site, type WorkingCopy } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { chooseEntries, copiesOf, type CopyOrder } from './choosing.js'

/**
 * A document of one site as another one has it: by the names of its fields, since their ids differ.
 * @returns why it does not fit, in a sentence.
 */
export function documentFor(
  kernel: Pick<Kernel, 'environment'>,
  source: Site,
  target: Site,
  copy: WorkingCopy,
  map: Omit<CopyMap, 'locale'>,
): { readonly type: ContentType; readonly document: Document } | string {
  const type = typeNamed(target.model, copy.type.name)
  if (!type) return `This site has no type ${copy.type.name}. Copy the model first.`
  const region = regionOf(copy.type, copy.region) ?? mainRegion
  if (region !== mainRegion && !(type.regional && regionNames(target.settings).includes(region)))
    return `This site has no region ${region} for ${type.name}. Add it first.`
  const tags = localeTags(target.settings)
  const copied = copyDocument(source.model, copy.type, copy.document, {
    ...map,
    locale: (tag) => tags.includes(tag),
  })
  const values = printValues(source.model, copy.type, copied)
  const { document, problems } = readValues(target.model, type, values, tags, kernel.environment.random)
  return problems.length === 0 ? { type, document } : problems[0]!.message
}

/** What a copy would do, without doing it. */
export async function planCopy(kernel: Kernel, source: Site, target: Site, order: CopyOrder): Promise<CopyPlan> {
  const ids = await chooseEntries(kernel, source, order)
  const wanted = new Set(ids)
  const types = new Map<string, { entries: number; refused: Map<string, number> }>()
  const assets = new Set<string>()
  const locales = new Set<string>()
  const tags = localeTags(source.settings)
  const lacking = tags.filter((tag) => !localeTags(target.settings).includes(tag))
  let referencesLeftOut = 0
  for await (const copy of copiesOf(kernel.database, source, ids)) {
    const counted = types.get(copy.type.name) ?? { entries: 0, refused: new Map<string, number>() }
    types.set(copy.type.name, counted)
    counted.entries++
    const fitting = documentFor(kernel, source, target, copy, { entry: (id) => id, asset: (id) => id })
    if (typeof fitting === 'string') counted.refused.set(fitting, (counted.refused.get(fitting) ?? 0) + 1)
    for (const { to, target: id } of referencesOf(source.model, copy.type, copy.document, tags)) {
      if (to === 'asset') assets.add(id)
      else if (!wanted.has(id)) referencesLeftOut++
    }
    const text = JSON.stringify(copy.document)
    for (const tag of lacking) if (text.includes(`"${tag}":`)) locales.add(tag)
  }
  const files = await assetsWithIds(kernel.database, source.id, [...assets])
  return {
    from: source.name,
    types: [...types].map(([type, { entries, refused }]) => ({
      type,
      entries,
      refused: [...refused].map(([message, count]) => ({ message, entries: count })),
    })),
    assets: { count: files.length, bytes: files.reduce((sum, { size }) => sum + size, 0) },
    localesLeftOut: lacking.filter((tag) => locales.has(tag)),
    referencesLeftOut,
  }
}
