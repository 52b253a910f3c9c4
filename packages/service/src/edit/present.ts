import {
  idPattern,
  localeTags,
  printValues,
  summaryOf,
  titleOf,
  typeNamed,
  WisteriaError,
  type EditableEntry,
  type Freshness,
  type State,
} from '@wisteria/core'
import { onlyEntryOf, workingCopyOf, type DraftRow, type Reader, type Site, type WorkingCopy } from '@wisteria/store'

/** @throws WisteriaError `notFound` that says what was looked for. */
export async function requireEntry(reader: Reader, site: Site, id: string): Promise<WorkingCopy> {
  // A type with exactly one entry is as good a name for it as its id.
  const type = idPattern.test(id) ? undefined : typeNamed(site.model, id)
  const only = type?.cardinality === 'one' ? await onlyEntryOf(reader, site, type.id) : undefined
  const copy = await workingCopyOf(reader, site, only ?? id)
  if (!copy) throw new WisteriaError('notFound', `There is no entry \`${id.slice(0, 60)}\` on ${site.settings.label}.`)
  return copy
}

export async function viewEntry(reader: Reader, site: Site, copy: WorkingCopy): Promise<EditableEntry> {
  const rows = await reader.all<Pick<DraftRow, 'locale' | 'path' | 'state' | 'freshness'>>(
    'select locale, path, state, freshness from drafts where shelf = ? and entry = ?',
    [site.shelf, copy.id],
  )
  const order = localeTags(site.settings)
  const sorted = [...rows].sort((a, b) => order.indexOf(a.locale) - order.indexOf(b.locale))
  const states = Object.fromEntries(sorted.map((row) => [row.locale, row.state as State]))
  return {
    id: copy.id,
    type: copy.type.name,
    title: titleOf(copy.type, copy.document, [site.settings.defaultLocale, ...order]),
    version: copy.version,
    revision: copy.revision,
    createdAt: copy.createdAt,
    createdBy: copy.createdBy,
    updatedAt: copy.updatedAt,
    updatedBy: copy.updatedBy,
    state: summaryOf(states),
    states,
    freshness: Object.fromEntries(
      sorted.flatMap(({ locale, freshness }) => (freshness === '' ? [] : [[locale, freshness as Freshness]])),
    ),
    paths: Object.fromEntries(sorted.flatMap((row) => (row.path === null ? [] : [[row.locale, row.path]]))),
    values: printValues(site.model, copy.type, copy.document),
  }
}

/** The ETag of an entry: its version. */
export const etagOf = (copy: Pick<WorkingCopy, 'version'>): string => `"v${copy.version}"`
