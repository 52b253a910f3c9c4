import {
  draftRows,
  parentOf,
  publicRows,
  statesOf,
  summaryOf,
  typeWithId,
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
}

/** Rebuilds an entry's rows of the published edition from its layers; without layers they go. */
export async function writePublicRows(
  transaction: Transaction,
  site: Site,
  type: ContentType,
  entry: string,
  layers: PublicLayers | undefined,
  at: string,
): Promise<RowsChanged> {
  const parent = layers ? parentOf(type, layers.shared) : undefined
  const parentPath = await parentPathsOf(transaction, 'published', parent)
  const rows = layers ? publicRows(site.model, type, site.settings, layers, parentPath) : []
  return writeRows(transaction, 'published', site, type, entry, rows, at, (row, before) => ({
    ...row,
    published_at: before?.published_at ?? at,
  }))
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
  const parentPath = await parentPathsOf(transaction, 'draft', parentOf(type, document))
  const rows = draftRows(site.model, type, site.settings, document, parentPath)
  const states = statesOf(
    site.model,
    type,
    document,
    history,
    rows.map((row) => row.locale),
  )
  const summary = summaryOf(states)
  await writeRows(transaction, 'draft', site, type, entry.id, rows, at, (row, before) => ({
    ...row,
    published_at: before?.published_at ?? null,
    state: states[row.locale]!,
    summary,
    version: entry.version,
  }))
  return states
}

/** The paths of a parent in an edition, by locale: null everywhere without a parent. */
export async function parentPathsOf(reader: Reader, edition: Edition, parent: string | undefined): Promise<ParentPath> {
  if (parent === undefined) return () => null
  const rows = await reader.all<{ locale: string; path: string | null }>(
    `select locale, path from ${editionTables[edition].rows} where entry = ?`,
    [parent],
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
): Promise<RowsChanged> {
  const { rows: table, values, refs } = editionTables[edition]
  const before = new Map(
    (await transaction.all<Row>(`select * from ${table} where entry = ?`, [entry])).map((row) => [row.locale, row]),
  )
  const changed: string[] = []
  const paths: Record<string, { from: string | null; to: string | null }> = {}
  for (const row of rows) {
    const old = before.get(row.locale)
    before.delete(row.locale)
    const own: EditionTableRow = {
      site: site.id,
      type: type.id,
      entry,
      ...columnsOf(row),
      published_at: null,
      updated_at: at,
    }
    const isSame = old !== undefined && old.doc === own.doc && old.path === own.path
    const next = complete({ ...own, updated_at: isSame ? old.updated_at : at }, old)
    if (!isSame) changed.push(row.locale)
    if ((old?.path ?? null) !== row.path) paths[row.locale] = { from: old?.path ?? null, to: row.path }
    if (old && sameRow(old, next)) continue
    const columns = Object.keys(next) as (keyof EditionTableRow)[]
    const bindings = columns.map((column) => next[column])
    if (old)
      await transaction.run(
        `update ${table} set ${columns.map((column) => `${column} = ?`).join(', ')} where entry = ? and locale = ?`,
        [...bindings, entry, row.locale],
      )
    else
      await transaction.run(
        `insert into ${table} (${columns.join(', ')}) values (${columns.map(() => '?').join(', ')})`,
        bindings,
      )
    if (old)
      for (const side of [values, refs])
        await transaction.run(`delete from ${side} where entry = ? and locale = ?`, [entry, row.locale])
    await writeSideRows(transaction, edition, site.id, entry, row.locale, sideRowsOf(row))
  }
  for (const gone of before.values()) {
    changed.push(gone.locale)
    if (gone.path !== null) paths[gone.locale] = { from: gone.path, to: null }
    await transaction.run(`delete from ${table} where entry = ? and locale = ?`, [entry, gone.locale])
  }
  return { locales: changed, paths }
}

const sameRow = (a: object, b: object): boolean =>
  Object.entries(b).every(([column, value]) => (a as Record<string, unknown>)[column] === value)

export async function writeSideRows(
  transaction: Transaction,
  edition: Edition,
  site: string,
  entry: string,
  locale: string,
  side: SideRows,
): Promise<void> {
  const { values, refs } = editionTables[edition]
  for (const { field, value } of side.values)
    await transaction.run(`insert into ${values} (site, entry, locale, field, value) values (?, ?, ?, ?, ?)`, [
      site,
      entry,
      locale,
      field,
      value,
    ])
  for (const { field, target, direct } of side.refs)
    await transaction.run(
      `insert into ${refs} (site, entry, locale, field, target, direct) values (?, ?, ?, ?, ?, ?)`,
      [site, entry, locale, field, target, direct],
    )
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
    `select distinct r.entry, t.type from ${refs} r join ${rows} t on t.entry = r.entry and t.locale = r.locale
     where r.direct = 1 and r.field in (${fields.map(() => '?').join(', ')}) and r.target in (${parents.map(() => '?').join(', ')}) order by r.entry`,
    [...fields, ...parents],
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
    const { layers } = await publicHistoryOf(transaction, id)
    const changed = await writePublicRows(transaction, site, type, id, layers, at)
    if (changed.locales.length > 0) rewritten.push({ id, type, changed })
  }
  return rewritten
}
