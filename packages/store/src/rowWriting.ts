import type { ContentType, EditionRow } from '@wisteria/core'
import type { Binding, Transaction } from './database.js'
import { columnsOf, sideRowsOf, type SideRows } from './editionColumns.js'
import { editionTables, type Edition } from './editionTables.js'
import { insertMany } from './inserting.js'
import { writeWords, type TextRow } from './search.js'
import type { EditionTableRow } from './tables.js'

/** The rows that an entry is to have in an edition. */
export interface EntryRows {
  readonly entry: string
  readonly type: ContentType
  readonly rows: readonly EditionRow[]
  /** Adds what depends on the row as it was before, if it was. */
  readonly complete: (row: EditionTableRow, before: EditionTableRow | undefined) => EditionTableRow
}

/** What writing an entry's rows of the published edition changed. */
export interface RowsChanged {
  /** Locales whose bytes differ from before, or that came or went. */
  readonly locales: readonly string[]
  /** Old and new path, for locales where they differ. */
  readonly paths: Readonly<Record<string, { readonly from: string | null; readonly to: string | null }>>
  /** Whether any path differs from where it was, on this shelf or on the one it came from. */
  readonly moved: boolean
}

/** Side rows with the row that they belong to. */
export interface BesideRow {
  readonly entry: string
  readonly locale: string
  readonly side: SideRows
}

/**
 * Makes the rows of some entries on a shelf what they are to be: rows that stay the same are not touched. Rows that are
 * new are brought together, many in a statement.
 * @param from the shelf that the entries have a past on, when this one is new.
 * @returns what changed, in the order of the entries.
 */
export async function writeRows(
  transaction: Transaction,
  edition: Edition,
  shelf: string,
  entries: readonly EntryRows[],
  at: string,
  from?: string,
): Promise<RowsChanged[]> {
  const { rows: table, values, refs, texts: words } = editionTables[edition]
  const found = await transaction.all<EditionTableRow>(
    `select * from ${table} where shelf in (?, ?) and entry in (select value from json_each(?))`,
    [shelf, from ?? shelf, JSON.stringify(entries.map(({ entry }) => entry))],
  )
  const byEntry = new Map<string, EditionTableRow[]>(entries.map(({ entry }) => [entry, []]))
  for (const row of found) byEntry.get(row.entry)!.push(row)
  const fresh: EditionTableRow[] = []
  const beside: BesideRow[] = []
  const texts: TextRow[] = []
  const all: RowsChanged[] = []
  for (const { entry, type, rows, complete } of entries) {
    const on = (of: string) =>
      new Map(byEntry.get(entry)!.flatMap((row) => (row.shelf === of ? [[row.locale, row] as const] : [])))
    const before = on(shelf)
    const past = from === undefined ? before : on(from)
    const changed: string[] = []
    const paths: Record<string, { from: string | null; to: string | null }> = {}
    let moved = false
    for (const row of rows) {
      const old = before.get(row.locale)
      const was = past.get(row.locale) ?? old
      const own = { shelf, type: type.id, entry, ...columnsOf(row), published_at: null, updated_at: at }
      const isSame = was !== undefined && was.doc === own.doc && was.path === own.path
      const next = complete({ ...own, updated_at: isSame ? was.updated_at : later(was?.updated_at, at) }, was)
      if (!isSame) changed.push(row.locale)
      moved ||= (was?.path ?? null) !== row.path
      if ((old?.path ?? null) !== row.path) paths[row.locale] = { from: old?.path ?? null, to: row.path }
      if (old && sameRow(old, next)) continue
      if (old) await replaceRow(transaction, table, next, [values, refs, words])
      else fresh.push(next)
      beside.push({ entry, locale: row.locale, side: sideRowsOf(row) })
      texts.push({ entry, row })
    }
    const stays = new Set(rows.map((row) => row.locale))
    for (const gone of past.values())
      if (!stays.has(gone.locale)) {
        changed.push(gone.locale)
        moved ||= gone.path !== null
      }
    for (const gone of before.values())
      if (!stays.has(gone.locale)) {
        if (gone.path !== null) paths[gone.locale] = { from: gone.path, to: null }
        await transaction.run(`delete from ${table} where shelf = ? and entry = ? and locale = ?`, [
          shelf,
          entry,
          gone.locale,
        ])
      }
    all.push({ locales: changed, paths, moved })
  }
  await insertMany(transaction, table, fresh)
  await writeSideRows(transaction, edition, shelf, beside)
  await writeWords(transaction, edition, shelf, texts)
  return all
}

/** Rows at other times than now have changed when that began, unless somebody published since. */
export const later = (one: string | undefined, other: string): string =>
  one !== undefined && one > other ? one : other

const sameRow = (a: object, b: object): boolean =>
  Object.entries(b).every(([column, value]) => (a as Record<string, unknown>)[column] === value)

async function replaceRow(
  transaction: Transaction,
  table: string,
  row: EditionTableRow,
  sides: readonly string[],
): Promise<void> {
  const columns = Object.entries(row as unknown as Record<string, Binding>)
  const key = [row.shelf, row.entry, row.locale]
  await transaction.run(
    `update ${table} set ${columns.map(([column]) => `${column} = ?`).join(', ')} where shelf = ? and entry = ? and locale = ?`,
    [...columns.map(([, value]) => value), ...key],
  )
  for (const side of sides)
    await transaction.run(`delete from ${side} where shelf = ? and entry = ? and locale = ?`, key)
}

/** Puts the values and references of rows beside them. */
export async function writeSideRows(
  transaction: Transaction,
  edition: Edition,
  shelf: string,
  rows: readonly BesideRow[],
): Promise<void> {
  const { values, refs } = editionTables[edition]
  await insertMany(
    transaction,
    values,
    rows.flatMap(({ entry, locale, side }) => side.values.map((value) => ({ shelf, entry, locale, ...value }))),
  )
  await insertMany(
    transaction,
    refs,
    rows.flatMap(({ entry, locale, side }) => side.refs.map((ref) => ({ shelf, entry, locale, ...ref }))),
  )
}
