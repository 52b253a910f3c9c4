import { isRecord } from '@wisteria/core'
import { namedPublicRows, namesOf, type Reader, type Site } from '@wisteria/store'

/** A value before and after, as a change or a difference has it. */
interface Changed {
  readonly kind: string
  readonly before: unknown
  readonly after: unknown
}

/** The titles of added and removed entries and the names of assets, by id. */
export async function namesIn(
  reader: Reader,
  site: Site,
  changes: readonly Changed[],
): Promise<Readonly<Record<string, string>>> {
  const ids = changes
    .filter(({ kind }) => kind === 'entry' || kind === 'asset' || kind === 'metadata')
    .flatMap(({ before, after }) => [before, after].flat())
    .map((item: unknown) => (isRecord(item) ? (item['value'] ?? item['image']) : item))
    .filter((item) => typeof item === 'string')
  return namesOf(reader, site, ids)
}

/** The titles of public entries: in the default locale, or in any in which they can be read. */
export async function publicTitles(
  reader: Reader,
  site: Site,
  ids: readonly string[],
): Promise<{ id: string; title: string }[]> {
  const rows = await namedPublicRows(reader, site, ids)
  return ids.flatMap((id) => {
    const row = rows.get(id)
    return row ? [{ id, title: row.title }] : []
  })
}
