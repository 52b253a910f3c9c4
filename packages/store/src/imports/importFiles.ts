import { insertMany } from '../connection/inserting.js'
import type { Reader, Transaction } from '../connection/reader.js'
import type { ImportFileRow } from '../tables/importTables.js'

/** A file as it is stored, before it is an asset. */
export interface StoredFile {
  readonly hash: string
  readonly size: number
  readonly mediaType: string
  readonly width: number | null
  readonly height: number | null
}

/** A file that rows of an import name. */
export interface ImportFile {
  /** As the rows name it: an address, or a path in a ZIP file. */
  readonly name: string
  /** Null where it has not come yet. */
  readonly file: StoredFile | null
  /** The id of the asset that it is, if there is one. */
  readonly asset: string | null
  /** Why it did not come. */
  readonly problem: string
}

const fileFrom = (row: ImportFileRow): ImportFile => ({
  name: row.name,
  file: row.file === null ? null : (JSON.parse(row.file) as StoredFile),
  asset: row.asset,
  problem: row.problem,
})

/** Notes the names of files that are to come. What failed before is tried again. */
export async function noteImportFiles(transaction: Transaction, id: string, names: readonly string[]): Promise<void> {
  await transaction.run("update import_files set problem = '' where import = ? and file is null", [id])
  await transaction.run(
    "insert into import_files (import, name, problem) select ?, value, '' from json_each(?) where true on conflict do nothing",
    [id, JSON.stringify(names)],
  )
}

/** Forgets what has come, as when another ZIP file came. */
export async function clearImportFiles(transaction: Transaction, id: string): Promise<void> {
  await transaction.run('delete from import_files where import = ?', [id])
}

/** Files that have not come yet. */
export async function waitingImportFiles(reader: Reader, id: string, most: number): Promise<string[]> {
  const rows = await reader.all<{ name: string }>(
    "select name from import_files where import = ? and file is null and problem = '' order by name limit ?",
    [id, most],
  )
  return rows.map(({ name }) => name)
}

/** Some files by their names. */
export async function importFilesNamed(
  reader: Reader,
  id: string,
  names: readonly string[],
): Promise<ReadonlyMap<string, ImportFile>> {
  const rows = await reader.all<ImportFileRow>(
    'select * from import_files where import = ? and name in (select value from json_each(?))',
    [id, JSON.stringify(names)],
  )
  return new Map(rows.map((row) => [row.name, fileFrom(row)]))
}

/** How many files there are, and how many have come or failed. */
export async function countImportFiles(reader: Reader, id: string): Promise<{ all: number; done: number }> {
  const [row] = await reader.all<{ all_files: number; done: number }>(
    "select count(*) as all_files, count(*) filter (where file is not null or problem <> '') as done from import_files where import = ?",
    [id],
  )
  return { all: row!.all_files, done: row!.done }
}

/** Stores the results of fetching files. */
export async function storeImportFiles(
  transaction: Transaction,
  id: string,
  files: readonly ImportFile[],
): Promise<void> {
  const names = JSON.stringify(files.map(({ name }) => name))
  await transaction.run('delete from import_files where import = ? and name in (select value from json_each(?))', [
    id,
    names,
  ])
  await insertMany(
    transaction,
    'import_files',
    files.map(({ name, file, asset, problem }) => ({
      import: id,
      name,
      file: file && JSON.stringify(file),
      asset,
      problem,
    })),
  )
}
