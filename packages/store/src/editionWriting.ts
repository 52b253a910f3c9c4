import {
  draftRows,
  parentOf,
  publicRows,
  statesOf,
  summaryOf,
  typeWithId,
  upgradeDocument,
  type ContentType,
  type Document,
  type EditionRow,
  type ParentPath,
  type PublicHistory,
  type PublicLayers,
  type State,
} from '@wisteria/core'
import type { Reader, Transaction } from './database.js'
import { columnsOf, sideRowsOf, type SideRows } from './editionColumns.js'
import { editionTables, type Edition } from './editionTables.js'
import { publicHistoryOf } from './publicHistory.js'
import type { Site } from './sites.js'
import type { EditionTableRow } from './tables.js'

/** What writing an entry's rows of the published edition changed. */
export interface RowsChanged {
  /** Locales whose bytes differ from before, or that came or went. */
  readonly locales: readonly string[]
  /** Old and new path, for locales where they differ. */
  readonly paths: Readonly<Record<string, { readonly from: string | null; readonly to: string | null }>>
  /** Whether any path differs from where it was, on this shelf or on the one it came from. */
  readonly moved?: boolean
}

/**
 * Rebuilds an entry's rows of the published edition from its layers; without layers they go. While a model is being adopted
 * the rows that it will have are rebuilt too.
 * @param layers as the site's own model reads them.
 */
export async function writePublicRows(
  transaction: Transaction,
  site: Site,
  type: ContentType,
  entry: string,
  layers: PublicLayers | undefined,
  at: string,
): Promise<RowsChanged> {
  const changed = await shelvePublic(transaction, site, type, entry, layers, at)
  const next = nextOf(site, type)
  if (next) {
    const upgraded = layers && upgradeLayers(next.site, next.type, layers, site.model.version)
    await shelvePublic(transaction, next.site, next.type, entry, upgraded, at, site.shelf)
  }
  return changed
}

/** The site as it is becoming, with a type as it will be; undefined when nothing is being adopted, or the type goes. */
function nextOf(site: Site, type: ContentType): { site: Site; type: ContentType } | undefined {
  const next = site.next && typeWithId(site.next.model, type.id)
  return next && site.next ? { site: site.next, type: next } : undefined
}

const upgradeLayers = (site: Site, type: ContentType, layers: PublicLayers, version: number): PublicLayers => ({
  shared: upgradeDocument(site.model, type, layers.shared, version),
  locales: Object.fromEntries(
    Object.entries(layers.locales).map(([tag, document]) => [
      tag,
      upgradeDocument(site.model, type, document, version),
    ]),
  ),
})

/** Puts an entry's published rows on the shelf of one site, as that has its model. `from` is the shelf that they have a past on. */
export async function shelvePublic(
  transaction: Transaction,
  site: Site,
  type: ContentType,
  entry: string,
  layers: PublicLayers | undefined,
  at: string,
  from?: string,
): Promise<RowsChanged> {
  const parent = layers ? parentOf(type, layers.shared) : undefined
  const parentPath = await parentPathsOf(transaction, site, 'published', parent)
  const rows = layers ? publicRows(site.model, type, site.settings, layers, parentPath) : []
  return writeRows(
    transaction,
    'published',
    site,
    type,
    entry,
    rows,
    at,
    (row, before) => ({
      ...row,
      published_at: before?.published_at ?? at,
    }),
    from,
  )
}

/** Rebuilds an entry's rows of the draft edition from its working copy. @returns the state in each locale. */
export async function writeDraftRows(
  transaction: Transaction,
  site: Site,
  type: ContentType,
  entry: { readonly id: string; readonly version: number },
  document: Document,
  history: PublicHistory,
  at: string,
): Promise<Record<string, State>> {
  const states = await shelveDraft(transaction, site, type, entry, document, history, at)
  const next = nextOf(site, type)
  if (next) {
    const layers = history.layers && upgradeLayers(next.site, next.type, history.layers, site.model.version)
    const upgraded = upgradeDocument(next.site.model, next.type, document, site.model.version)
    await shelveDraft(transaction, next.site, next.type, entry, upgraded, { ...history, layers }, at, site.shelf)
  }
  return states
}

/** Puts an entry's draft rows on the shelf of one site, as that has its model. */
export async function shelveDraft(
  transaction: Transaction,
  site: Site,
  type: ContentType,
  entry: { readonly id: string; readonly version: number },
  document: Document,
  history: PublicHistory,
  at: string,
  from?: string,
): Promise<Record<string, State>> {
  const parentPath = await parentPathsOf(transaction, site, 'draft', parentOf(type, document))
  const rows = draftRows(site.model, type, site.settings, document, parentPath)
  const states = statesOf(site.model, type, document, history, site.settings)
  const summary = summaryOf(states)
  await writeRows(
    transaction,
    'draft',
    site,
    type,
    entry.id,
    rows,
    at,
    (row, before) => ({
      ...row,
      published_at: before?.published_at ?? null,
      state: states[row.locale]!,
      summary,
      version: entry.version,
    }),
    from,
  )
  return states
}

/** The paths of a parent in an edition, by locale: null everywhere without a parent. */
export async function parentPathsOf(
  reader: Reader,
  site: Site,
  edition: Edition,
  parent: string | undefined,
): Promise<ParentPath> {
  if (parent === undefined) return () => null
  const rows = await reader.all<{ locale: string; path: string | null }>(
    `select locale, path from ${editionTables[edition].rows} where shelf = ? and entry = ?`,
    [site.shelf, parent],
  )
  const paths = new Map(rows.map((row) => [row.locale, row.path]))
  return (locale) => paths.get(locale) ?? undefined
}

async function writeRows<Row extends EditionTableRow>(
  transaction: Transaction,
  edition: Edition,
  site: Site,
  type: ContentType,
  entry: string,
  rows: readonly EditionRow[],
  at: string,
  complete: (row: EditionTableRow, before: Row | undefined) => EditionTableRow,
  from?: string,
): Promise<RowsChanged> {
  const { rows: table, values, refs } = editionTables[edition]
  const { shelf } = site
  // On a new shelf, what is known of a row's past stands on the old one.
  const shelves = from === undefined ? [shelf] : [shelf, from]
  const found = await transaction.all<Row>(
    `select * from ${table} where shelf in (${shelves.map(() => '?').join(', ')}) and entry = ?`,
    [...shelves, entry],
  )
  const on = (of: string) => new Map(found.filter((row) => row.shelf === of).map((row) => [row.locale, row]))
  const before = on(shelf)
  const past = from === undefined ? before : on(from)
  const fresh: EditionTableRow[] = []
  const movedFrom: string[] = []
  const changed: string[] = []
  const paths: Record<string, { from: string | null; to: string | null }> = {}
  for (const row of rows) {
    const old = before.get(row.locale)
    const was = past.get(row.locale) ?? old
    before.delete(row.locale)
    const own: EditionTableRow = {
      shelf,
      type: type.id,
      entry,
      ...columnsOf(row),
      published_at: null,
      updated_at: at,
    }
    const isSame = was !== undefined && was.doc === own.doc && was.path === own.path
    const next = complete({ ...own, updated_at: isSame ? was.updated_at : later(was?.updated_at, at) }, was)
    if (!isSame) changed.push(row.locale)
    if ((was?.path ?? null) !== row.path) movedFrom.push(row.locale)
    if ((old?.path ?? null) !== row.path) paths[row.locale] = { from: old?.path ?? null, to: row.path }
    if (old && sameRow(old, next)) continue
    const columns = Object.keys(next) as (keyof EditionTableRow)[]
    const bindings = columns.map((column) => next[column])
    if (old)
      await transaction.run(
        `update ${table} set ${columns.map((column) => `${column} = ?`).join(', ')} where shelf = ? and entry = ? and locale = ?`,
        [...bindings, shelf, entry, row.locale],
      )
    else fresh.push(next)
    if (old)
      for (const side of [values, refs])
        await transaction.run(`delete from ${side} where shelf = ? and entry = ? and locale = ?`, [
          shelf,
          entry,
          row.locale,
        ])
    if (old) await writeSideRows(transaction, edition, shelf, entry, row.locale, sideRowsOf(row))
  }
  if (fresh.length > 0) {
    const columns = Object.keys(fresh[0]!) as (keyof EditionTableRow)[]
    await transaction.run(
      `insert into ${table} (${columns.join(', ')}) values ${fresh.map(() => `(${columns.map(() => '?').join(', ')})`).join(', ')}`,
      fresh.flatMap((row) => columns.map((column) => row[column])),
    )
    const isFresh = new Set(fresh.map((row) => row.locale))
    for (const row of rows)
      if (isFresh.has(row.locale)) await writeSideRows(transaction, edition, shelf, entry, row.locale, sideRowsOf(row))
  }
  for (const locale of past.keys())
    if (from !== undefined && !rows.some((row) => row.locale === locale)) changed.push(locale)
  for (const gone of before.values()) {
    if (from === undefined) changed.push(gone.locale)
    if (gone.path !== null) paths[gone.locale] = { from: gone.path, to: null }
    await transaction.run(`delete from ${table} where shelf = ? and entry = ? and locale = ?`, [
      shelf,
      entry,
      gone.locale,
    ])
  }
  return {
    locales: changed,
    paths,
    moved:
      movedFrom.length > 0 ||
      [...past.values()].some((row) => row.path !== null && !rows.some((one) => one.locale === row.locale)),
  }
}

/** An adoption's rows have changed when it began, unless somebody published since. */
export const later = (one: string | undefined, other: string): string =>
  one !== undefined && one > other ? one : other

const sameRow = (a: object, b: object): boolean =>
  Object.entries(b).every(([column, value]) => (a as Record<string, unknown>)[column] === value)

/** How many rows one statement may bring. */
const maxRowsAtOnce = 100

export async function writeSideRows(
  transaction: Transaction,
  edition: Edition,
  shelf: string,
  entry: string,
  locale: string,
  side: SideRows,
): Promise<void> {
  const { values, refs } = editionTables[edition]
  for (let from = 0; from < side.values.length; from += maxRowsAtOnce) {
    const some = side.values.slice(from, from + maxRowsAtOnce)
    await transaction.run(
      `insert into ${values} (shelf, entry, locale, field, value) values ${some.map(() => '(?, ?, ?, ?, ?)').join(', ')}`,
      some.flatMap(({ field, value }) => [shelf, entry, locale, field, value]),
    )
  }
  for (let from = 0; from < side.refs.length; from += maxRowsAtOnce) {
    const some = side.refs.slice(from, from + maxRowsAtOnce)
    await transaction.run(
      `insert into ${refs} (shelf, entry, locale, field, target, direct) values ${some.map(() => '(?, ?, ?, ?, ?, ?)').join(', ')}`,
      some.flatMap(({ field, target, direct }) => [shelf, entry, locale, field, target, direct]),
    )
  }
}

/** The ids of entries that stand directly under another in an edition. */
export async function childrenOf(
  reader: Reader,
  site: Site,
  edition: Edition,
  parents: readonly string[],
): Promise<{ id: string; type: ContentType }[]> {
  const fields = site.model.types.flatMap((type) =>
    type.fields.filter((field) => field.name === type.parent).map((field) => field.id),
  )
  if (fields.length === 0 || parents.length === 0) return []
  const { refs, rows } = editionTables[edition]
  const found = await reader.all<{ entry: string; type: string }>(
    `select distinct r.entry, t.type from ${refs} r join ${rows} t on t.shelf = r.shelf and t.entry = r.entry and t.locale = r.locale
     where r.shelf = ? and r.direct = 1 and r.field in (${fields.map(() => '?').join(', ')}) and r.target in (${parents.map(() => '?').join(', ')}) order by r.entry`,
    [site.shelf, ...fields, ...parents],
  )
  return found.map(({ entry, type }) => ({ id: entry, type: typeWithId(site.model, type)! }))
}

/** Everything below an entry, nearest first. A circle is walked once. */
export async function descendantsOf(
  reader: Reader,
  site: Site,
  edition: Edition,
  entry: string,
): Promise<{ id: string; type: ContentType }[]> {
  const all: { id: string; type: ContentType }[] = []
  const seen = new Set([entry])
  let level = [entry]
  while (level.length > 0) {
    const next = (await childrenOf(reader, site, edition, level)).filter(({ id }) => !seen.has(id))
    for (const child of next) seen.add(child.id)
    all.push(...next)
    level = next.map(({ id }) => id)
  }
  return all
}

/** Writes again the published rows of everything below an entry whose path has changed. @returns what changed, by entry. */
export async function rewriteDescendants(
  transaction: Transaction,
  site: Site,
  entry: string,
  at: string,
): Promise<{ id: string; type: ContentType; changed: RowsChanged }[]> {
  const rewritten = []
  for (const { id, type } of await descendantsOf(transaction, site, 'published', entry)) {
    const { layers } = await publicHistoryOf(transaction, site, type, id)
    const changed = await writePublicRows(transaction, site, type, id, layers, at)
    if (changed.locales.length > 0) rewritten.push({ id, type, changed })
  }
  return rewritten
}
