import type { Reader, Transaction } from '../connection/reader.js'

/** Records that a file is stored, or is about to be: from then on it is cleaned up when no asset uses it. */
export async function noteFile(transaction: Transaction, hash: string, size: number, at: string): Promise<void> {
  await transaction.run(
    `insert into files (hash, size, stored_at) values (?, ?, ?)
     on conflict (hash) do update set stored_at = max(stored_at, excluded.stored_at)`,
    [hash, size, at],
  )
}

/** A file is used by every asset that has it now, and by every revision that had it. */
const isHeld = (hash: string): string => `exists (select 1 from asset_revisions r where r.hash = ${hash})`

/** The digests of files without an asset that were stored before an instant, oldest first. */
export async function unheldFiles(reader: Reader, before: string, most: number): Promise<string[]> {
  const rows = await reader.all<{ hash: string }>(
    `select hash from files f where stored_at < ? and not ${isHeld('f.hash')}
     order by stored_at limit ?`,
    [before, most],
  )
  return rows.map(({ hash }) => hash)
}

/** Deletes the row of a file, if no asset uses it and it was not stored again. @returns whether it was deleted. */
export async function forgetFile(transaction: Transaction, hash: string, before: string): Promise<boolean> {
  const gone = await transaction.run(
    `delete from files where hash = ? and stored_at < ? and not ${isHeld('files.hash')}`,
    [hash, before],
  )
  return gone > 0
}

/** Those of some digests that have no row. */
export async function unnotedFiles(reader: Reader, hashes: readonly string[]): Promise<string[]> {
  const rows = await reader.all<{ hash: string }>(
    'select h.value as hash from json_each(?) h where not exists (select 1 from files f where f.hash = h.value)',
    [JSON.stringify(hashes)],
  )
  return rows.map(({ hash }) => hash)
}
