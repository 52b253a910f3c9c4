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
  insertEntries,
  isIdTaken,
  parentPathsOf,
  workingCopyOf,
  writeDrafts,
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
  entry: NewEntry,
): Promise<WorkingCopy> {
  return storeNew(kernel, transaction, site, author, await readNew(kernel, transaction, site, author, entry))
}

/** An entry that can be stored: everything that could refuse it was looked at. */
export type ReadyEntry = Stored & { readonly id: string }

/** Looks at everything that could refuse a new entry, and stores nothing. */
export async function prepareEntry(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  entry: NewEntry,
): Promise<ReadyEntry> {
  const stored = await readNew(kernel, transaction, site, author, entry)
  await requireStorable(transaction, site, author, stored, true)
  return { ...stored, id: stored.id ?? makeId(kernel.environment) }
}

/** Stores entries that were prepared, all at once: none of them may refer to another. */
export async function storeEntries(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  entries: readonly ReadyEntry[],
): Promise<WorkingCopy[]> {
  const act = new Act(transaction, site, author.actor, kernel.environment)
  const whole = entries.map((entry) => {
    const { type, document, copied = {} } = entry
    const written = originsAfter(site.model, type, {}, document, {}, 1, act.at, site.settings)
    const origins = Object.fromEntries(
      Object.entries(written).map(([locale, units]) => [locale, { ...units, ...copied[locale] }]),
    )
    return { ...entry, origins }
  })
  const copies = await insertEntries(transaction, site, whole, author.actor, act.at)
  const history = { layers: undefined, withdrawn: [] }
  const drafts = copies.map((copy) => ({ ...copy, history }))
  await writeDrafts(transaction, site, drafts, act.at)
  await act.tellAll(
    'entry.created',
    copies.map((copy) => ({
      data: { entry: { id: copy.id, type: copy.type.name }, version: copy.version },
      change: draftChange(site, copy, undefined, { document: copy.document, history }),
    })),
  )
  return copies
}

/** A new entry as it would be stored. @throws WisteriaError `invalid` or `conflict`. */
async function readNew(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  { type: typeName, values = {}, id, region: wanted }: NewEntry,
): Promise<Stored> {
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
  return { type, document, id, region }
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
  stored: Stored,
  looksAtReferences = true,
): Promise<WorkingCopy> {
  await requireStorable(transaction, site, author, stored, looksAtReferences)
  const entry = { ...stored, id: stored.id ?? makeId(kernel.environment) }
  const [copy] = await storeEntries(kernel, transaction, site, author, [entry])
  return copy!
}

/** @throws WisteriaError where its author may not create it, its id is taken, or it refers to what is not there. */
async function requireStorable(
  transaction: Transaction,
  site: Site,
  { caller }: Author,
  { type, document, id, region = null }: Stored,
  looksAtReferences: boolean,
): Promise<void> {
  // An entry is there for all locales, whatever was written in it so far.
  requireMay(caller, 'entry.write', { ...onEntry({ type, region }), shared: true })
  if (id !== undefined && (await isIdTaken(transaction, id)))
    throw new WisteriaError('conflict', `The id \`${id}\` is taken. Choose another, or send none.`)
  if (looksAtReferences) await requireReferences(transaction, site, { id, type, document })
}
