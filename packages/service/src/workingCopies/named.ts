import { isRecord } from '@wisteria/core'
import type { Reader, Site } from '@wisteria/store'

/** A value before and after, as a change or a difference has it. */
interface Changed {
  readonly kind: string
  readonly before: unknown
  readonly after: unknown
}

/** What the entries and assets that come or go are called, by id: an id says nothing to people. */
export async function namesIn(
  reader: Reader,
  site: Site,
  changes: readonly Changed[],
): Promise<Readonly<Record<string, string>>> {
  const ids = changes
    .filter(({ kind }) => kind === 'entry' || kind === 'asset' || kind === 'metadata')
    .flatMap(({ before, after }) => [before, after].flat())
    .map((one: unknown) => (isRecord(one) ? (one['value'] ?? one['image']) : one))
    .filter((one) => typeof one === 'string')
  return namesOf(reader, site, ids)
}

/** What entries and assets are called, by id, in the default locale. */
export async function namesOf(
  reader: Reader,
  site: Site,
  ids: readonly string[],
): Promise<Readonly<Record<string, string>>> {
  if (ids.length === 0) return {}
  const rows = await reader.all<{ id: string; name: string }>(
    `select entry as id, title as name from drafts where shelf = ? and locale = ? and entry in (select value from json_each(?))
     union all select id, name from assets where id in (select value from json_each(?)) and +site = ?`,
    [site.shelf, site.settings.defaultLocale, JSON.stringify(ids), JSON.stringify(ids), site.id],
  )
  return Object.fromEntries(rows.map(({ id, name }) => [id, name]))
}

/** What public entries are called: in the default locale, or in any that they can be read in. */
export async function publicTitles(
  reader: Reader,
  site: Site,
  ids: readonly string[],
): Promise<{ id: string; title: string }[]> {
  const rows = await reader.all<{ id: string; title: string }>(
    `select entry as id, title from published where shelf = ? and entry in (select value from json_each(?)) order by locale = ?, entry`,
    [site.shelf, JSON.stringify(ids), site.settings.defaultLocale],
  )
  const named = new Map(rows.map(({ id, title }) => [id, title]))
  return ids.flatMap((id) => (named.has(id) ? [{ id, title: named.get(id)! }] : []))
}
