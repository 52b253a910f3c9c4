import {
  idPattern,
  localeTags,
  printValues,
  regionOf,
  summaryOf,
  titleOf,
  typeNamed,
  WisteriaError,
  type EditableEntry,
} from '@wisteria/core'
import { onlyEntryOf, standingOf, workingCopyOf, type Reader, type Site, type WorkingCopy } from '@wisteria/store'

/** @throws WisteriaError `notFound` with the id. */
export async function requireEntry(reader: Reader, site: Site, id: string): Promise<WorkingCopy> {
  // A type with exactly one entry may stand for its id.
  const type = idPattern.test(id) ? undefined : typeNamed(site.model, id)
  const only = type?.cardinality === 'one' ? await onlyEntryOf(reader, site, type.id) : undefined
  const copy = await workingCopyOf(reader, site, only ?? id)
  if (!copy) throw new WisteriaError('notFound', `There is no entry \`${id.slice(0, 60)}\` on ${site.settings.label}.`)
  return copy
}

export async function viewEntry(reader: Reader, site: Site, copy: WorkingCopy): Promise<EditableEntry> {
  const order = localeTags(site.settings)
  const { states, freshness, paths } = copy.standing ?? (await standingOf(reader, site, copy.id))
  const inOrder = <Value>(all: Readonly<Record<string, Value>>): Record<string, Value> =>
    Object.fromEntries(order.flatMap((locale) => (all[locale] === undefined ? [] : [[locale, all[locale]]])))
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
    region: regionOf(copy.type, copy.region),
    state: summaryOf(states),
    states: inOrder(states),
    freshness: inOrder(freshness),
    paths: inOrder(paths),
    values: printValues(site.model, copy.type, copy.document),
  }
}

/** The ETag of an entry: its version. */
export const etagOf = (copy: Pick<WorkingCopy, 'version'>): string => `"v${copy.version}"`
