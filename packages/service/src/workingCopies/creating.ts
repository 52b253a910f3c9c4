import {
  copiedOrigins,
  didYouMean,
  draftRows,
  duplicateOf,
  localeTags,
  makeId,
  originsAfter,
  parentOf,
  readValues,
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
  writeDraftRows,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { requireMay } from '../kernel/permission.js'
import { invalid, requireReferences, type Author } from './saving.js'

/** Creates an entry with its first working copy. */
export async function createEntry(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  typeName: string,
  values: unknown,
  id?: string,
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
  return storeNew(kernel, transaction, site, author, type, document, {}, id)
}

/** Copies an entry: its working copy, with slugs whose paths are free. The copy is not public. */
export async function duplicateEntry(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  { type, document, origins }: Pick<WorkingCopy, 'type' | 'document' | 'origins'>,
): Promise<WorkingCopy> {
  if (type.cardinality === 'one')
    throw new WisteriaError('conflict', `${type.label} has exactly one entry, which cannot be duplicated.`)
  const parentPath = await parentPathsOf(transaction, site, 'draft', parentOf(type, document))
  const pathsOf = (of: Document): string[] =>
    draftRows(site.model, type, site.settings, of, parentPath).flatMap(({ path }) => path ?? [])
  // A path without a slug in it is the same for any number: publishing the copy reports it.
  const taken = new Set(pathsOf(document))
  for (let number = 2; ; number++) {
    const copied = duplicateOf(type, document, number)
    const paths = pathsOf(copied).filter((path) => !taken.has(path))
    if (!(await hasDraftAtPath(transaction, site, paths)))
      return storeNew(kernel, transaction, site, author, type, copied, copiedOrigins(origins ?? {}))
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
  { type, document, id }: { readonly type: ContentType; readonly document: Document; readonly id: string },
): Promise<WorkingCopy> => storeNew(kernel, transaction, site, author, type, document, {}, id, false)

async function storeNew(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  type: ContentType,
  document: Document,
  /** Of units that are translated from another text than the one that is there. */
  copied: Origins,
  id?: string,
  looksAtReferences = true,
): Promise<WorkingCopy> {
  // An entry is there for all locales, whatever was written in it so far.
  requireMay(author.caller, 'entry.write', { type: type.name, shared: true })
  const act = new Act(transaction, site, author.actor, kernel.environment)
  const written = originsAfter(site.model, type, {}, document, {}, 1, act.at, site.settings)
  const origins = Object.fromEntries(
    Object.entries(written).map(([locale, units]) => [locale, { ...units, ...copied[locale] }]),
  )
  const entry = { id: id ?? makeId(kernel.environment), type, document, origins }
  if (id !== undefined && (await isIdTaken(transaction, id)))
    throw new WisteriaError('conflict', `The id \`${id}\` is taken. Choose another, or send none.`)
  const copy = await insertEntry(transaction, site, entry, author.actor, act.at)
  if (looksAtReferences) await requireReferences(transaction, site, copy)
  await writeDraftRows(transaction, site, type, copy, document, { layers: undefined, withdrawn: [] }, act.at)
  await act.tell('entry.created', { entry: { id: copy.id, type: type.name }, version: copy.version })
  return copy
}
