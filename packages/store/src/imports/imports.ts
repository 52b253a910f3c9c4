import type { ImportMapping, RowOutcome, RowProblem } from '@wisteria/core'
import { insertMany } from '../connection/inserting.js'
import type { Reader, Transaction } from '../connection/reader.js'
import { jsonOf, setColumns } from '../connection/updating.js'
import type { Site } from '../sites/sites.js'
import type { ImportMappingRow, ImportRow, ImportRowRow } from '../tables/importTables.js'

/** A table whose rows become entries. */
export interface EntryImport {
  readonly id: string
  readonly site: string
  /** The name of the file. */
  readonly name: string
  /** How the file was read, as JSON of the service. */
  readonly source: unknown
  readonly heads: readonly string[]
  /** null where no type fits the heads. */
  readonly mapping: ImportMapping | null
  readonly state: ImportRow['state']
  readonly rows: number
  /** How many rows have which outcome: would have, once it is checked. */
  readonly outcomes: Partial<Record<RowOutcome, number>>
  readonly undone: { readonly undone: number; readonly refused: number }
  /** The job that checks, imports or undoes. */
  readonly job: string | null
  readonly actor: string
  readonly createdAt: string
  readonly finishedAt: string | null
  /** How many files came with it in a ZIP file; null where none did. */
  readonly files: number | null
}

/** A row of it. */
export interface EntryImportRow {
  readonly position: number
  /** In the file; counts from 1. */
  readonly line: number
  readonly cells: readonly unknown[]
  readonly outcome: RowOutcome | null
  readonly entry: string | null
  readonly title: string
  readonly problems: readonly RowProblem[]
  /** What undoing it needs, as JSON of the service. */
  readonly before: string | null
  /** The version that the entry was left at. */
  readonly after: number | null
  /** Empty where it was undone; else why it was not. Null where nobody tried. */
  readonly undone: string | null
}

/** The result of a row. */
export type RowResult = Pick<
  EntryImportRow,
  'position' | 'outcome' | 'entry' | 'title' | 'problems' | 'before' | 'after'
>

const importFrom = (row: ImportRow): EntryImport => ({
  id: row.id,
  site: row.site,
  name: row.name,
  source: JSON.parse(row.source) as unknown,
  heads: JSON.parse(row.heads) as string[],
  mapping: row.mapping === null ? null : (JSON.parse(row.mapping) as ImportMapping),
  state: row.state,
  rows: row.rows,
  outcomes: JSON.parse(row.outcomes) as EntryImport['outcomes'],
  undone: JSON.parse(row.undone) as EntryImport['undone'],
  job: row.job,
  actor: row.actor,
  createdAt: row.created_at,
  finishedAt: row.finished_at,
  files: row.files,
})

const rowFrom = (row: ImportRowRow): EntryImportRow => ({
  position: row.position,
  line: row.line,
  cells: JSON.parse(row.cells) as unknown[],
  outcome: row.outcome,
  entry: row.entry,
  title: row.title,
  problems: JSON.parse(row.problems) as RowProblem[],
  before: row.before,
  after: row.after,
  undone: row.undone,
})

export async function insertImport(transaction: Transaction, made: EntryImport): Promise<void> {
  await transaction.tables.imports.create({
    id: made.id,
    site: made.site,
    name: made.name,
    source: JSON.stringify(made.source),
    heads: JSON.stringify(made.heads),
    mapping: made.mapping && JSON.stringify(made.mapping),
    state: made.state,
    rows: made.rows,
    outcomes: JSON.stringify(made.outcomes),
    undone: JSON.stringify(made.undone),
    job: made.job,
    actor: made.actor,
    created_at: made.createdAt,
    finished_at: made.finishedAt,
    files: made.files,
  })
}

/** What changes of an import. */
export type ImportChange = Partial<
  Pick<
    EntryImport,
    'source' | 'heads' | 'mapping' | 'state' | 'rows' | 'outcomes' | 'undone' | 'job' | 'finishedAt' | 'files'
  >
>

export const changeImport = (transaction: Transaction, id: string, change: ImportChange): Promise<void> =>
  setColumns(transaction, 'imports', id, {
    source: jsonOf(change.source),
    heads: jsonOf(change.heads),
    mapping: jsonOf(change.mapping),
    state: change.state,
    rows: change.rows,
    outcomes: jsonOf(change.outcomes),
    undone: jsonOf(change.undone),
    job: change.job,
    finished_at: change.finishedAt,
    files: change.files,
  })

export async function deleteImport(transaction: Transaction, id: string): Promise<void> {
  await transaction.run('delete from imports where id = ?', [id])
}

export async function importOnSite(reader: Reader, site: Site, id: string): Promise<EntryImport | undefined> {
  const [row] = await reader.all<ImportRow>('select * from imports where site = ? and id = ?', [site.id, id])
  return row && importFrom(row)
}

export async function importWithId(reader: Reader, id: string): Promise<EntryImport | undefined> {
  const [row] = await reader.all<ImportRow>('select * from imports where id = ?', [id])
  return row && importFrom(row)
}

/** The newest imports of a site. */
export async function importsOf(reader: Reader, site: Site, most: number): Promise<EntryImport[]> {
  const rows = await reader.all<ImportRow>(
    'select * from imports where site = ? order by created_at desc, id desc limit ?',
    [site.id, most],
  )
  return rows.map(importFrom)
}

/** Adds rows as they were read. */
export async function insertImportRows(
  transaction: Transaction,
  id: string,
  rows: readonly Pick<EntryImportRow, 'position' | 'line' | 'cells'>[],
): Promise<void> {
  const stored = rows.map(({ position, line, cells }) => ({
    import: id,
    position,
    line,
    cells: JSON.stringify(cells),
    title: '',
    problems: '[]',
  }))
  await insertMany(transaction, 'import_rows', stored)
}

/** The rows from a position on, in the order of the file. */
export async function importRowsFrom(
  reader: Reader,
  id: string,
  position: number,
  most: number,
  outcome?: RowOutcome,
): Promise<EntryImportRow[]> {
  const rows = await reader.all<ImportRowRow>(
    `select * from import_rows where import = ? and position >= ? ${outcome ? 'and outcome = ?' : ''} order by position limit ?`,
    outcome ? [id, position, outcome, most] : [id, position, most],
  )
  return rows.map(rowFrom)
}

/** The rows before a position, the last one first: those that changed something. */
export async function importRowsBefore(
  reader: Reader,
  id: string,
  position: number,
  most: number,
): Promise<EntryImportRow[]> {
  const rows = await reader.all<ImportRowRow>(
    'select * from import_rows where import = ? and position < ? and before is not null order by position desc limit ?',
    [id, position, most],
  )
  return rows.map(rowFrom)
}

/** Stores the results of rows. */
export async function storeRowResults(
  transaction: Transaction,
  id: string,
  results: readonly RowResult[],
): Promise<void> {
  const values = results.map((result) => ({ ...result, problems: JSON.stringify(result.problems) }))
  await transaction.run(
    // The rows are there: only their results change.
    `insert into import_rows (import, position, line, cells, outcome, entry, title, problems, before, after)
     select ?1, value ->> 'position', 0, '[]', value ->> 'outcome', value ->> 'entry', value ->> 'title', value ->> 'problems',
       value ->> 'before', value ->> 'after' from json_each(?2) where true
     on conflict (import, position) do update set outcome = excluded.outcome, entry = excluded.entry, title = excluded.title,
       problems = excluded.problems, before = excluded.before, after = excluded.after, undone = null`,
    [id, JSON.stringify(values)],
  )
}

/** Notes whether a row was undone: why not, or nothing. */
export async function noteRowUndone(
  transaction: Transaction,
  id: string,
  position: number,
  refused: string,
): Promise<void> {
  await transaction.run('update import_rows set undone = ? where import = ? and position = ?', [refused, id, position])
}

/** A mapping that is kept by its name. */
export interface KeptMapping {
  readonly name: string
  readonly mapping: ImportMapping
  readonly actor: string
  readonly at: string
}

export async function keptMappings(reader: Reader, site: Site): Promise<KeptMapping[]> {
  const rows = await reader.all<ImportMappingRow>('select * from import_mappings where site = ? order by name', [
    site.id,
  ])
  return rows.map(({ name, mapping, actor, at }) => ({
    name,
    mapping: JSON.parse(mapping) as ImportMapping,
    actor,
    at,
  }))
}

export async function keepMapping(transaction: Transaction, site: Site, kept: KeptMapping): Promise<void> {
  await transaction.run(
    `insert into import_mappings (site, name, mapping, actor, at) values (?, ?, ?, ?, ?)
     on conflict (site, name) do update set mapping = excluded.mapping, actor = excluded.actor, at = excluded.at`,
    [site.id, kept.name, JSON.stringify(kept.mapping), kept.actor, kept.at],
  )
}

/** @returns whether it was there. */
export const deleteMapping = async (transaction: Transaction, site: Site, name: string): Promise<boolean> =>
  (await transaction.run('delete from import_mappings where site = ? and name = ?', [site.id, name])) > 0
