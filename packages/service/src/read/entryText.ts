import { settleReferences, typeWithId } from '@wisteria/core'
import {
  editionTables,
  type DraftRow,
  type Edition,
  type EditionTableRow,
  type Reader,
  type Site,
} from '@wisteria/store'

/** An entry that an answer depends on, since it shows it or refers to it. */
export interface Dependence {
  readonly id: string
  readonly type: string
}

/**
 * Prints rows as readers get them. The stored text is used as it is where nothing is referred to; references are
 * settled now, since whether they may be seen is no business of the row that holds them.
 */
export async function printEntries(
  reader: Reader,
  site: Site,
  edition: Edition,
  locale: string,
  rows: readonly EditionTableRow[],
): Promise<{ texts: string[]; depends: Dependence[]; types: string[] }> {
  const wanted = new Set(rows.flatMap((row) => (row.refs === '[]' ? [] : (JSON.parse(row.refs) as string[]))))
  const types = await readableTypes(reader, site, edition, locale, wanted)
  const texts = rows.map((row) => {
    const type = typeWithId(site.model, row.type)!
    const values =
      row.refs === '[]'
        ? row.doc
        : JSON.stringify(
            settleReferences(site.model, type, JSON.parse(row.doc) as Record<string, unknown>, (id) => types.get(id)),
          )
    return `{${headOf(row, type.name)},"values":${values}}`
  })
  const own = rows.map((row) => ({ id: row.entry, type: typeWithId(site.model, row.type)!.name }))
  const seen = [...types].map(([id, type]) => ({ id, type }))
  return {
    texts,
    depends: [...own, ...seen],
    types: await typesOfHidden(
      reader,
      site,
      [...wanted].filter((id) => !types.has(id)),
    ),
  }
}

/**
 * The types of entries that are referred to and cannot be read: an answer depends on them, for they may become readable,
 * but must not name them.
 */
export async function typesOfHidden(reader: Reader, site: Site, ids: readonly string[]): Promise<string[]> {
  if (ids.length === 0) return []
  const rows = await reader.all<{ type: string }>(
    'select distinct type from entries where site = ? and id in (select value from json_each(?))',
    [site.id, JSON.stringify(ids)],
  )
  return rows.flatMap((row) => typeWithId(site.model, row.type)?.name ?? [])
}

/** The types of those entries that can be read in the edition and locale. */
export async function readableTypes(
  reader: Reader,
  site: Site,
  edition: Edition,
  locale: string,
  ids: ReadonlySet<string>,
): Promise<Map<string, string>> {
  if (ids.size === 0) return new Map()
  const rows = await reader.all<{ entry: string; type: string }>(
    `select entry, type from ${editionTables[edition].rows} where site = ? and locale = ? and entry in (select value from json_each(?))`,
    [site.id, locale, JSON.stringify([...ids])],
  )
  return new Map(rows.map((row) => [row.entry, typeWithId(site.model, row.type)?.name ?? '']))
}

function headOf(row: EditionTableRow, type: string): string {
  const head: Record<string, unknown> = {
    id: row.entry,
    type,
    locale: row.locale,
    path: row.path,
    publishedAt: row.published_at,
    updatedAt: row.updated_at,
  }
  if ('version' in row) {
    const { state, version } = row as DraftRow
    head['state'] = state
    head['version'] = version
  }
  return JSON.stringify(head).slice(1, -1)
}
