import {
  holdsListings,
  holdsRichText,
  listingsIn,
  settleReferences,
  typeWithId,
  type Links,
  type RichTextForm,
} from '@wisteria/core'
import {
  editionTables,
  type DraftRow,
  type Edition,
  type EditionTableRow,
  type Reader,
  type Site,
} from '@wisteria/store'
import { assetLinks, readAssets } from '../assets/reading.js'
import type { Kernel } from '../kernel.js'
import { fillListings } from './listings.js'

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
  kernel: Kernel,
  site: Site,
  edition: Edition,
  locale: string,
  rows: readonly EditionTableRow[],
  richText: RichTextForm = 'document',
): Promise<{ texts: string[]; depends: Dependence[]; types: string[]; time: boolean }> {
  const reader = kernel.database
  const idsIn = (column: 'refs' | 'assets') =>
    new Set(rows.flatMap((row) => (row[column] === '[]' ? [] : (JSON.parse(row[column]) as string[]))))
  const wanted = idsIn('refs')
  const parsed = new Map<EditionTableRow, Record<string, unknown>>()
  const parse = (row: EditionTableRow): Record<string, unknown> => {
    const values = parsed.get(row) ?? (JSON.parse(row.doc) as Record<string, unknown>)
    parsed.set(row, values)
    return values
  }
  const filled = await fillListings(
    kernel,
    site,
    edition,
    locale,
    rows.flatMap((row) => {
      const type = typeWithId(site.model, row.type)!
      return holdsListings(site.model, type) ? listingsIn(site.model, type, parse(row)) : []
    }),
  )
  const [readable, assets] = await Promise.all([
    readableEntries(reader, site, edition, locale, wanted),
    readAssets(reader, kernel, site, locale, [...idsIn('assets')]),
  ])
  const links: Links = {
    entry: (id) => {
      const found = readable.get(id)
      return found && { address: found.path, title: found.title }
    },
    asset: assetLinks(assets),
  }
  const reachable = {
    typeOf: (id: string) => readable.get(id)?.type,
    asset: (id: string) => assets.get(id),
    listed: filled.listed,
    richText,
    links,
  }
  const texts = rows.map((row) => {
    const type = typeWithId(site.model, row.type)!
    const asStored =
      row.refs === '[]' &&
      row.assets === '[]' &&
      !holdsListings(site.model, type) &&
      (richText === 'document' || !holdsRichText(site.model, type))
    const values = asStored ? row.doc : JSON.stringify(settleReferences(site.model, type, parse(row), reachable))
    return `{${headOf(row, type.name)},"values":${values}}`
  })
  const own = rows.map((row) => ({ id: row.entry, type: typeWithId(site.model, row.type)!.name }))
  const seen = [...readable].map(([id, { type }]) => ({ id, type }))
  return {
    texts,
    depends: [...own, ...seen, ...filled.depends],
    time: filled.time,
    types: [
      ...filled.types,
      ...(await typesOfHidden(
        reader,
        site,
        [...wanted].filter((id) => !readable.has(id)),
      )),
    ],
  }
}

/**
 * The types of entries that are referred to and cannot be read: an answer depends on them, for they may become readable,
 * but must not name them.
 */
export async function typesOfHidden(reader: Reader, site: Site, ids: readonly string[]): Promise<string[]> {
  if (ids.length === 0) return []
  const rows = await reader.all<{ type: string }>(
    'select distinct type from entries where id in (select value from json_each(?)) and +site = ?',
    [JSON.stringify(ids), site.id],
  )
  return rows.flatMap((row) => typeWithId(site.model, row.type)?.name ?? [])
}

/** What those who refer to an entry may know of it. */
export interface ReadableEntry {
  readonly type: string
  readonly path: string | null
  readonly title: string
}

/** Those entries that can be read in the edition and locale. */
export async function readableEntries(
  reader: Reader,
  site: Site,
  edition: Edition,
  locale: string,
  ids: ReadonlySet<string>,
): Promise<Map<string, ReadableEntry>> {
  if (ids.size === 0) return new Map()
  const rows = await reader.all<{ entry: string; type: string; path: string | null; title: string }>(
    `select entry, type, path, title from ${editionTables[edition].rows} where shelf = ? and locale = ? and entry in (select value from json_each(?))`,
    [site.shelf, locale, JSON.stringify([...ids])],
  )
  return new Map(
    rows.map(({ entry, type, path, title }) => [
      entry,
      { type: typeWithId(site.model, type)?.name ?? '', path, title },
    ]),
  )
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
