import { wordFitting } from './wordFitting.js'
import { isShownAt, fieldRuleState } from '../documents/fieldRules.js'
import { holdsLocales, type Document } from '../documents/document.js'
import { storedReader } from '../documents/facts.js'
import { printValues } from '../documents/names.js'
import { project } from '../documents/project.js'
import { resolveReferences } from '../documents/resolveReferences.js'
import { validate } from '../publishing/validate.js'
import { withSlugs } from '../documents/slugs.js'
import type { Problem } from '../base/errors.js'
import { makeId } from '../base/ids.js'
import type { Listing } from '../fields/listing.js'
import { chainOf, type SiteSettings } from '../locales/settings.js'
import {
  insideGroup,
  kindOf,
  shapeOf,
  blockTypeNamed,
  typeNamed,
  type ContentType,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { acceptsMediaType } from '../fields/asset.js'
import { regionOf } from '../publishing/editionRows.js'
import { pathIn } from '../publishing/entryPath.js'

/** An entry as REST prints it. */
export interface SampleEntry {
  readonly id: string
  readonly type: string
  readonly locale: string
  readonly path: string | null
  readonly contentLocale: string
  readonly publishedAt: string
  readonly updatedAt: string
  readonly values: Readonly<Record<string, unknown>>
}

export interface Samples {
  readonly entries: Readonly<Record<string, readonly SampleEntry[]>>
  /** The fields without a sample. */
  readonly problems: readonly Problem[]
}

const maxDepth = 3
const at = '2031-01-01T12:00:00.000Z'

/** The ids that a sample may refer to, by the name of the type. */
type SampleIds = ReadonlyMap<string, readonly string[]>

/** The id of a sample asset has its media type, as the place in the list. */
const sampleTypes = [
  'image/png',
  'application/pdf',
  'text/plain',
  'video/mp4',
  'audio/mpeg',
  'text/csv',
  'application/zip',
  'image/svg+xml',
] as const
const assetId = (number: number, accepts: readonly string[]): string => {
  const type = accepts.length === 0 ? 0 : sampleTypes.findIndex((media) => acceptsMediaType(accepts, media))
  // A media type that is not in the list is shown as the first one.
  return `000000000000000000${Math.max(type, 0)}${number % 10}`
}
const sampleTypeOf = (id: string): string => sampleTypes[Number(id.at(-2))] ?? 'image/png'

/** Makes the stored document of a sample; the same for the same number. */
function sampler(
  model: Model,
  settings: SiteSettings,
  ids: SampleIds,
): (owner: FieldOwner, number: number, depth: number) => Document {
  /** A stored value of a field, undefined where there can be none. */
  const value = (field: Field, number: number): unknown => {
    const kind = kindOf(field)
    const shape = shapeOf(field)
    if (shape.is === 'reference' && !shape.filled) {
      const candidates = shape.to.flatMap((name) => ids.get(typeNamed(model, name)?.name ?? '') ?? [])
      return candidates.length > 0 ? candidates[number % candidates.length] : undefined
    }
    if (shape.is === 'asset') return assetId(number, shape.accepts)
    const value = kind.sample(field.options, number)
    const fits = (candidate: unknown) =>
      candidate !== undefined &&
      kind.checkForm(candidate, field.options) === undefined &&
      kind.checkRules(candidate, field.options).length === 0
    if (fits(value)) return value
    const { pattern } = field.options as { pattern?: { matches: string } }
    return [field.example, pattern ? wordFitting(pattern.matches, number) : undefined].find(fits) ?? value
  }
  const content = (field: Field, number: number, depth: number): unknown => {
    const group = insideGroup(field)
    if (group && !field.many) return fieldsOf(group, number, depth)
    const wanted =
      field.many || field.kind === 'block'
        ? Math.min(Math.max(field.count?.min ?? 1, field.many ? 2 : 1), field.count?.max ?? 2)
        : 1
    const id = (index: number) => `${field.id}-${number}-${index}`
    if (group)
      return Array.from({ length: wanted }, (_, index) => ({
        id: id(index),
        values: fieldsOf(group, number + index, depth + 1),
      }))
    if (field.kind === 'block') return blocks(field, wanted, number, depth, id)
    if (!field.many) return value(field, number)
    const all = Array.from({ length: wanted }, (_, index) => value(field, number + index)).filter(
      (value) => value !== undefined,
    )
    const different = [...new Set(all)]
    return different.length > 0 ? different.map((value, index) => ({ id: id(index), value: value })) : undefined
  }
  const blocks = (
    field: Field,
    wanted: number,
    number: number,
    depth: number,
    id: (index: number) => string,
  ): unknown => {
    const shape = shapeOf(field)
    if (shape.is !== 'blocks' || (depth >= maxDepth && !field.required)) return undefined
    const each = (field.options['each'] ?? {}) as Record<string, { min?: number; max?: number } | undefined>
    const needed = shape.of.flatMap((name) => Array.from({ length: each[name]?.min ?? 0 }, () => name))
    for (let index = 0; needed.length < wanted && index < wanted + shape.of.length; index++) {
      const name = shape.of[(number + index) % shape.of.length]!
      if (needed.filter((other) => other === name).length < (each[name]?.max ?? Infinity)) needed.push(name)
    }
    return needed.map((name, index) => {
      const block = blockTypeNamed(model, name)!
      return { id: id(index), block: block.id, values: fieldsOf(block, number + index, depth + 1) }
    })
  }
  const fieldsOf = (owner: FieldOwner, number: number, depth: number, insideLocale = false): Document => {
    const values: Record<string, unknown> = {}
    // Fields that rules of others read come first, so that hidden fields are known in time.
    for (const field of byRules(model, owner)) {
      const read = storedReader(chainOf(settings, settings.defaultLocale), insideLocale)
      if (!isShownAt(model, owner, field, values, read)) continue
      // An entry has no parent here: its parent may have no sample before it.
      if (field.kind === 'entry' && (owner as ContentType).parent === field.name) continue
      const isWanted = fieldRuleState(model, owner, field, values, read).isRequired || depth < maxDepth
      const value = isWanted ? content(field, number, depth) : undefined
      if (value === undefined) continue
      values[field.id] = holdsLocales(field, insideLocale)
        ? Object.fromEntries([[settings.defaultLocale, value]])
        : value
    }
    return values
  }
  return fieldsOf
}

/** Values for a form, as the Edit API has them: plausible ones in every field, referring to nothing. */
export function sampleValues(
  model: Model,
  type: FieldOwner,
  settings: SiteSettings,
  seed = 1,
): Record<string, unknown> {
  return printValues(model, type, sampler(model, settings, new Map())(type, seed, 0))
}

/**
 * Sample entries made from the model, valid as published ones and the same for the same seed: `each` of every type (one of a type
 * with exactly one entry), as a reader of the locale gets them. The entries that they refer to are among them.
 */
export function sampleEntries(
  model: Model,
  settings: SiteSettings,
  { seed = 1, each = 3, locale = settings.defaultLocale }: { seed?: number; each?: number; locale?: string } = {},
): Samples {
  let moment = Date.parse(at)
  const environment = { now: () => moment++, random: chance(seed) }
  const ids = new Map(
    model.types.map((type) => [
      type.name,
      Array.from({ length: type.cardinality === 'one' ? 1 : each }, () => makeId(environment)),
    ]),
  )
  const problems: Problem[] = []
  const fieldsOf = sampler(model, settings, ids)
  const typeOfId = new Map([...ids].flatMap(([name, all]) => all.map((id) => [id, name] as const)))
  const reachable = {
    typeOf: (id: string) => typeOfId.get(id),
    asset: (id: string) => {
      const mediaType = sampleTypeOf(id)
      const isPicture = mediaType.startsWith('image/')
      const name = `sample-${id.at(-1)}.${mediaType.split('/')[1]!.split('+')[0]}`
      return {
        id,
        name,
        address: `/${name}`,
        mediaType,
        size: 1024,
        width: isPicture ? 640 : null,
        height: isPicture ? 480 : null,
        alt: isPicture ? 'A sample' : null,
        title: null,
        caption: null,
      }
    },
    listed: ({ type, first }: Listing) =>
      (ids.get(typeNamed(model, type)?.name ?? '') ?? []).slice(0, first).map((id) => ({ id, type })),
    richText: 'document' as const,
    links: { entry: () => undefined, asset: () => undefined },
  }
  const entries: Record<string, SampleEntry[]> = {}
  for (const type of model.types)
    entries[type.name] = ids.get(type.name)!.map((id, index) => {
      const document = withSlugs(type, fieldsOf(type, seed + index, 0))
      const layers = { shared: document, locales: { [settings.defaultLocale]: document } }
      for (const problem of validate(model, type, layers, settings))
        problems.push({
          ...problem,
          message: `${type.name}: ${problem.message} Give the field an \`example\` that fits.`,
        })
      const { values } = project(model, type, document, chainOf(settings, locale))
      return {
        id,
        type: type.name,
        locale,
        contentLocale: locale,
        path: pathIn(type, document, settings, locale, null, regionOf(type, null)) ?? null,
        publishedAt: at,
        updatedAt: at,
        values: resolveReferences(model, type, values, reachable),
      }
    })
  return {
    entries,
    problems: problems.filter(
      (problem, index) => problems.findIndex((other) => other.message === problem.message) === index,
    ),
  }
}

/** Fields that rules of others read come before these. */
function byRules(model: Model, owner: FieldOwner): Field[] {
  const asked = new Set<string>()
  const texts = [...owner.fields, ...(owner.sections ?? [])].flatMap((labelled) =>
    [labelled.showIf ?? [], labelled.requireIf ?? []].flat(),
  )
  for (const field of owner.fields)
    if (texts.some((text) => new RegExp(`\\b${field.name}\\b`).test(text))) asked.add(field.id)
  return [...owner.fields].sort((a, b) => Number(asked.has(b.id)) - Number(asked.has(a.id)))
}

/** Bytes that only look like chance: the same for the same seed. */
function chance(seed: number): (bytes: number) => Uint8Array {
  let state = (Math.abs(seed) % 2147483646) + 1
  return (bytes) => Uint8Array.from({ length: bytes }, () => (state = (state * 48271) % 2147483647) % 256)
}
