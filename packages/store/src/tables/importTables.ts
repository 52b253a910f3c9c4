import { integer, key, nullable, oneOf, table, text, type RowOf } from './table.js'

/** A table whose rows become entries. */
export const imports = table('imports', {
  id: key(text),
  site: text,
  /** The name of the file. */
  name: text,
  /** How the file was read, as JSON. */
  source: text,
  /** The heads of its columns, as a JSON list. */
  heads: text,
  /** As JSON; null where no type fits. */
  mapping: nullable(text),
  state: oneOf<'reading' | 'read' | 'checking' | 'checked' | 'running' | 'done' | 'stopped' | 'undoing' | 'undone'>(),
  rows: integer,
  /** How many rows have which outcome, as JSON. */
  outcomes: text,
  /** How many rows were undone, and how many refused to be, as JSON. */
  undone: text,
  /** The job that checks, imports or undoes. */
  job: nullable(text),
  actor: text,
  created_at: text,
  finished_at: nullable(text),
  /** How many files came with it in a ZIP file; null where none did. */
  files: nullable(integer),
})
export type ImportRow = RowOf<typeof imports>

/** A row of such a table, with its result. */
export const importRows = table('import_rows', {
  import: key(text),
  position: key(integer),
  /** In the file; counts from 1. */
  line: integer,
  /** As a JSON list. */
  cells: text,
  outcome: nullable(oneOf<'created' | 'updated' | 'unchanged' | 'left' | 'failed'>()),
  entry: nullable(text),
  title: text,
  /** As a JSON list. */
  problems: text,
  /** What undoing it needs, as JSON. */
  before: nullable(text),
  /** The version that the entry was left at. */
  after: nullable(integer),
  /** Empty where it was undone; else why it was not. Null where nobody tried. */
  undone: nullable(text),
})
export type ImportRowRow = RowOf<typeof importRows>

/** A file that rows of an import name. */
export const importFiles = table('import_files', {
  import: key(text),
  /** As the rows name it. */
  name: key(text),
  /** What is stored, as JSON; null where it has not come yet. */
  file: nullable(text),
  asset: nullable(text),
  /** Why it did not come; empty where it did, or has not been tried. */
  problem: text,
})
export type ImportFileRow = RowOf<typeof importFiles>

export const importMappings = table('import_mappings', {
  site: key(text),
  name: key(text),
  mapping: text,
  actor: text,
  at: text,
})
export type ImportMappingRow = RowOf<typeof importMappings>
