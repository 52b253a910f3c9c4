import {
  copiedOrigins,
  didYouMean,
  draftRows,
  duplicateOf,
  localeTags,
  mainRegion,
  makeId,
  originsAfter,
  parentOf,
  readValues,
  regionLimitOf,
  storedRegion,
  typeNamed,
  withDefaults,
  withSlugs,
  WisteriaError,
  type ContentType,
  type Document,
  type Origins,
} from '@wisteria/core'
import {
  Act,
  hasDraftAtPath,
  insertEntry,
  isIdTaken,
  parentPathsOf,
  workingCopyOf,
  writeDraftRows,
  type CounterpartSource,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { draftChange } from './changeSeen.js'
import { onEntry, requireMay } from '../kernel/permission.js'
import { requireRegion } from './regions.js'
import { invalid, requireReferences, type Author } from './saving.js'

/** A new entry as a request describes it. */
interface NewEntry {
  readonly type: string
  readonly values?: unknown
  /** Chosen before, or made. */
  readonly id?: string | undefined
  /** The name of its region: where left out, that of its parent, or the first that its author is limited to, or the main one. */
  readonly region?: string | undefined
}

/** Creates an entry with its first working copy. */
export async function createEntry(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  { type: typeName, values = {}, id, region: wanted }: NewEntry,
): Promise<WorkingCopy> {
  const type = typeNamed(site.model, typeName)
  if (!type) {
    const names = site.model.types.map((type) => type.name)
    const message = `\`${typeName}\` is not a type of ${site.settings.label}.${didYouMean(typeName, names)}`
    throw new WisteriaError('invalid', message, { problems: [{ code: 'unknownType', pointer: '/type', message }] })
  }
  const { document: read, problems } = readValues(
    site.model,
    type,
    values,
    localeTags(site.settings),
    kernel.environment.random,
  )
  if (problems.length > 0) throw invalid(problems)
  if (type.cardinality === 'one')
    throw new WisteriaError(
      'conflict',
      `${type.label} has exactly one entry, which exists already: change it at \`entries/${type.name}\`.`,
    )
  const moment = { now: kernel.now, timeZone: site.settings.timeZone }
  const document = withSlugs(
    type,
    withDefaults(site.model, type, read, site.settings, moment, kernel.environment.random),
  )
  const region = await regionFor(transaction, site, author, type, document, wanted)
  return storeNew(kernel, transaction, site, author, { type, document, id, region })
}

/** The region of a new entry, as it is stored. @throws WisteriaError `invalid`. */
async function regionFor(
  transaction: Transaction,
  site: Site,
  { caller }: Author,
  type: ContentType,
  document: Document,
  wanted: string | undefined,
): Promise<string | null> {
  if (wanted !== undefined) return requireRegion(site, type, wanted)
  if (!type.regional) return null
  const parent = parentOf(type, document)
  const above = parent === undefined ? undefined : await workingCopyOf(transaction, site, parent)
  if (above?.type.regional) return above.region
  return storedRegion(regionLimitOf(caller)?.[0] ?? mainRegion)
}

/** Copies an entry: its working copy, with slugs whose paths are free. The copy is not public. */
export async function duplicateEntry(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  { type, document, origins, region }: Pick<WorkingCopy, 'type' | 'document' | 'origins' | 'region'>,
): Promise<WorkingCopy> {
  if (type.cardinality === 'one')
    throw new WisteriaError('conflict', `${type.label} has exactly one entry, which cannot be duplicated.`)
  const parentPath = await parentPathsOf(transaction, site, 'draft', parentOf(type, document))
  const pathsOf = (of: Document): string[] =>
    draftRows(site.model, type, site.settings, of, parentPath, { region }).flatMap(({ path }) => path ?? [])
  // A path without a slug in it is the same for any number: publishing the copy reports it.
  const taken = new Set(pathsOf(document))
  for (let number = 2; ; number++) {
    const copied = duplicateOf(type, document, number)
    const paths = pathsOf(copied).filter((path) => !taken.has(path))
    if (!(await hasDraftAtPath(transaction, site, paths)))
      return storeNew(kernel, transaction, site, author, {
        type,
        document: copied,
        copied: copiedOrigins(origins ?? {}),
        region,
      })
  }
}

/**
 * Stores a copy of an entry under an id that was chosen before. What it refers to may be copied later, so its references are not looked at.
 */
export const createCopy = (
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: Stored & { readonly id: string },
): Promise<WorkingCopy> => storeNew(kernel, transaction, site, author, copy, false)

/** A new entry as it is stored. */
interface Stored {
  readonly type: ContentType
  readonly document: Document
  readonly id?: string | undefined
  /** Of units that are translated from another text than the one that is there. */
  readonly copied?: Origins | undefined
  readonly region?: string | null | undefined
  readonly counterpart?: CounterpartSource | undefined
  readonly counterpartRoot?: string | undefined
}

async function storeNew(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  { type, document, id, copied = {}, region = null, counterpart, counterpartRoot }: Stored,
  looksAtReferences = true,
): Promise<WorkingCopy> {
  // An entry is there for all locales, whatever was written in it so far.
  requireMay(author.caller, 'entry.write', { ...onEntry({ type, region }), shared: true })
  const act = new Act(transaction, site, author.actor, kernel.environment)
  const written = originsAfter(site.model, type, {}, document, {}, 1, act.at, site.settings)
  const origins = Object.fromEntries(
    Object.entries(written).map(([locale, units]) => [locale, { ...units, ...copied[locale] }]),
  )
  const head = { region, counterpart, counterpartRoot }
  const entry = { id: id ?? makeId(kernel.environment), type, document, origins, ...head }
  if (id !== undefined && (await isIdTaken(transaction, id)))
    throw new WisteriaError('conflict', `The id \`${id}\` is taken. Choose another, or send none.`)
  const copy = await insertEntry(transaction, site, entry, author.actor, act.at)
  if (looksAtReferences) await requireReferences(transaction, site, copy)
  const history = { layers: undefined, withdrawn: [] }
  await writeDraftRows(transaction, site, type, copy, document, history, act.at)
  const change = draftChange(site, copy, undefined, { document, history })
  await act.tell('entry.created', { entry: { id: copy.id, type: type.name }, version: copy.version }, undefined, change)
  return copy
}
