import {
  sameContent,
  toldValues,
  type ContentType,
  type EditionRow,
  type Fallbacks,
  type LocaleChange,
} from '@wisteria/core'
import type { Transaction } from '../connection/reader.js'
import { columnsOf, sideRowsOf, type SideRows } from './editionColumns.js'
import { editionTables, type Edition } from './editionTables.js'
import { insertMany } from '../connection/inserting.js'
import { writeWords, type TextRow } from './words.js'
import type { DraftRow, EditionTableRow } from '../tables/tables.js'

/** The rows that an entry is to have in an edition. */
export interface EntryRows {
  readonly entry: string
  readonly type: ContentType
  readonly rows: readonly EditionRow[]
  /** Adds values that depend on the earlier row, if there was one, and on when it became public. */
  readonly complete: (row: EditionTableRow, before: StoredRow | undefined) => EditionTableRow
}

export type StoredRow = EditionTableRow &
  Partial<Pick<DraftRow, 'work_since'>> & { readonly public_since: string | null }

/** Columns of the states and not of the content: where only these differ, words and references stay. */
const standingColumns = [
  'state',
  'freshness',
  'summary',
  'version',
  'updated_at',
  'published_at',
  'units_missing',
  'units_outdated',
  'units_done',
  'words_missing',
  'words_outdated',
  'words_done',
  'work_since',
] as const

/** The changes made by writing an entry's rows of the published edition. */
export interface RowsChanged {
  /** Of locales whose bytes differ from before, or that came or went. */
  readonly locales: readonly LocaleChange[]
  /** Old and new path, for locales where they differ. */
  readonly paths: Readonly<Record<string, { readonly from: string | null; readonly to: string | null }>>
  /** Whether any path differs from the earlier one, in this projection set or in the one with its history. */
  readonly moved: boolean
  /** Where it can be read now, by locale. */
  readonly standing: Readonly<Record<string, string>>
}

/** Side rows with the row that they belong to. */
export interface BesideRow {
  readonly entry: string
  readonly locale: string
  readonly side: SideRows
}

/**
 * Writes the rows of some entries in a projection set: unchanged rows are not touched. New rows are inserted together, many in a
 * statement.
 * @param from the projection set with the history of the entries, when this one is new.
 * @returns the changes, in the order of the entries.
 */
export async function writeRows(
  transaction: Transaction,
  edition: Edition,
  projection: string,
  entries: readonly EntryRows[],
  at: string,
  from?: string,
): Promise<RowsChanged[]> {
  const { rows: table } = editionTables[edition]
  const storedRows = await transaction.all<StoredRow>(
    `select o.*, ${edition === 'draft' ? '(select p.published_at from published p where p.projection = o.projection and p.entry = o.entry and p.locale = o.locale)' : 'null'} as public_since
     from ${table} o where o.projection in (?, ?) and o.entry in (select value from json_each(?))`,
    [projection, from ?? projection, JSON.stringify(entries.map(({ entry }) => entry))],
  )
  const byEntry = new Map<string, StoredRow[]>(entries.map(({ entry }) => [entry, []]))
  for (const row of storedRows) byEntry.get(row.entry)!.push(row)
  const fresh: EditionTableRow[] = []
  /** Entry and locale of rows that are deleted or rewritten. */
  const gone: [entry: string, locale: string][] = []
  const standing: EditionTableRow[] = []
  const beside: BesideRow[] = []
  const texts: TextRow[] = []
  const all: RowsChanged[] = []
  for (const { entry, type, rows, complete } of entries) {
    const on = (of: string) =>
      new Map(byEntry.get(entry)!.flatMap((row) => (row.projection === of ? [[row.locale, row] as const] : [])))
    const before = on(projection)
    const past = from === undefined ? before : on(from)
    const changed: LocaleChange[] = []
    const paths: Record<string, { from: string | null; to: string | null }> = {}
    let moved = false
    for (const row of rows) {
      const old = before.get(row.locale)
      const was = past.get(row.locale) ?? old
      const columns = { projection, type: type.id, entry, ...columnsOf(row), published_at: null, updated_at: at }
      const isSame = was !== undefined && readsTheSame(was, columns)
      const next = complete({ ...columns, updated_at: isSame ? was.updated_at : later(was?.updated_at, at) }, was)
      if (!isSame) changed.push(changeBetween(type, row.locale, was, columns, from === undefined))
      moved ||= (was?.path ?? null) !== row.path
      if ((old?.path ?? null) !== row.path) paths[row.locale] = { from: old?.path ?? null, to: row.path }
      if (old && sameRow(old, next)) continue
      if (old && saysTheSame(old, next)) {
        standing.push(next)
        continue
      }
      if (old) gone.push([entry, row.locale])
      fresh.push(next)
      beside.push({ entry, locale: row.locale, side: sideRowsOf(row) })
      texts.push({ entry, row })
    }
    const stays = new Set(rows.map((row) => row.locale))
    for (const left of past.values())
      if (!stays.has(left.locale)) {
        changed.push(changeBetween(type, left.locale, left, undefined, from === undefined))
        moved ||= left.path !== null
      }
    for (const left of before.values())
      if (!stays.has(left.locale)) {
        if (left.path !== null) paths[left.locale] = { from: left.path, to: null }
        gone.push([entry, left.locale])
      }
    const now = Object.fromEntries(rows.flatMap((row) => (row.path === null ? [] : [[row.locale, row.path]])))
    all.push({ locales: changed, paths, moved, standing: now })
  }
  // Words, values and references are deleted and inserted with their row.
  if (gone.length > 0)
    await transaction.run(
      `delete from ${table} where rowid in (
         select o.rowid from json_each(?) g cross join ${table} o on o.projection = ? and o.entry = g.value ->> 0 and o.locale = g.value ->> 1)`,
      [JSON.stringify(gone), projection],
    )
  await standAnew(transaction, table, projection, standing)
  await insertMany(transaction, table, fresh)
  await writeSideRows(transaction, edition, projection, beside)
  await writeWords(transaction, edition, projection, texts)
  return all
}

/** The later of two times; the second where the first is missing. */
export const later = (time: string | undefined, other: string): string =>
  time !== undefined && time > other ? time : other

/**
 * What readers of a locale see changed between two rows.
 * @param isOneModel whether both rows are of one model: otherwise their fields are not compared.
 */
function changeBetween(
  type: ContentType,
  locale: string,
  was: Readable | undefined,
  is: Readable | undefined,
  isOneModel: boolean,
): LocaleChange {
  const path = { from: was?.path ?? null, to: is?.path ?? null }
  const came = !was || !is || was.content_locale !== is.content_locale || was.region !== is.region
  if (!isOneModel) return { locale, came, fields: [], values: [], path }
  const docs = [was, is].map((row) => JSON.parse(row?.doc ?? '{}') as Readonly<Record<string, unknown>>)
  const [before, after] = docs as [(typeof docs)[0], (typeof docs)[0]]
  const differing = came ? undefined : changedFields(before, after, was, is)
  const values = type.fields.flatMap((field) => {
    if (differing && !differing.has(field.name)) return []
    const all = docs.flatMap((doc) => toldValues(field, doc[field.name]))
    return all.length > 0 ? [{ field: field.name, values: [...new Set(all)] }] : []
  })
  return { locale, came, fields: [...(differing ?? [])], values, path }
}

/** The top-level fields whose values differ, or come from another locale than before. */
function changedFields(
  before: Readonly<Record<string, unknown>>,
  after: Readonly<Record<string, unknown>>,
  was: Readable,
  is: Readable,
): ReadonlySet<string> {
  const names = Object.keys({ ...before, ...after })
  const differing = new Set(names.filter((name) => !sameContent(before[name] ?? null, after[name] ?? null)))
  if (was.fallbacks !== is.fallbacks)
    for (const { fallbacks } of [was, is])
      for (const pointer of Object.values(JSON.parse(fallbacks) as Fallbacks).flat())
        differing.add(pointer.split('/')[1]!)
  return differing
}

interface Readable {
  readonly doc: string
  readonly fallbacks: string
  readonly path: string | null
  readonly region: string | null
  readonly content_locale: string
}

/** Whether readers get the same of two rows, also where an earlier version wrote one in another form. */
export const readsTheSame = (was: Readable, is: Readable): boolean =>
  was.content_locale === '' ||
  (was.doc === is.doc &&
    was.path === is.path &&
    was.region === is.region &&
    was.content_locale === is.content_locale &&
    was.fallbacks === is.fallbacks)

const sameRow = (a: object, b: object): boolean =>
  Object.entries(b).every(([column, value]) => (a as Record<string, unknown>)[column] === value)

const saysTheSame = (a: object, b: object): boolean =>
  Object.entries(b).every(
    ([column, value]) =>
      (standingColumns as readonly string[]).includes(column) || (a as Record<string, unknown>)[column] === value,
  )

/** Writes the states of rows, all at once. */
async function standAnew(
  transaction: Transaction,
  table: string,
  projection: string,
  rows: readonly EditionTableRow[],
): Promise<void> {
  const [first] = rows
  if (!first) return
  const columns = standingColumns.filter((column) => column in first)
  const list = rows.map((row) => [row.entry, row.locale, ...columns.map((column) => (row as never)[column])])
  await transaction.run(
    `update ${table} set ${columns.map((column, index) => `${column} = g.value ->> ${index + 2}`).join(', ')}
     from json_each(?) g where +${table}.projection = ? and ${table}.entry = g.value ->> 0 and ${table}.locale = g.value ->> 1`,
    [JSON.stringify(list), projection],
  )
}

/** Inserts the values and references of rows. */
export async function writeSideRows(
  transaction: Transaction,
  edition: Edition,
  projection: string,
  rows: readonly BesideRow[],
): Promise<void> {
  const { values, refs } = editionTables[edition]
  await insertMany(
    transaction,
    values,
    rows.flatMap(({ entry, locale, side }) => side.values.map((value) => ({ projection, entry, locale, ...value }))),
  )
  await insertMany(
    transaction,
    refs,
    rows.flatMap(({ entry, locale, side }) => side.refs.map((ref) => ({ projection, entry, locale, ...ref }))),
  )
}
