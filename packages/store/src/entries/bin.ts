import type { Reader, Transaction } from '../connection/reader.js'
import type { Site } from '../sites/sites.js'
import { raiseVersion, type WorkingCopy } from './workingCopies.js'

/** An entry in the bin. */
export interface BinnedRow {
  readonly id: string
  /** Internal id. */
  readonly type: string
  readonly deletedAt: string
  readonly deletedBy: string
}

/** Deleted entries of a site, newest first. @param after the end of the page before. */
export const binPage = (
  reader: Reader,
  site: string,
  after: { readonly at: string; readonly id: string } | undefined,
  most: number,
): Promise<BinnedRow[]> =>
  reader.all(
    `select id, type, deleted_at as deletedAt, deleted_by as deletedBy from entries where site = ? and deleted_at is not null
     ${after === undefined ? '' : 'and (deleted_at < ? or (deleted_at = ? and id < ?))'} order by deleted_at desc, id desc limit ?`,
    [site, ...(after === undefined ? [] : [after.at, after.at, after.id]), most],
  )

/** Whether an entry has an id, or had it. */
export async function isIdTaken(reader: Reader, id: string): Promise<boolean> {
  const rows = await reader.all(
    'select 1 from entries where id = ?1 union select 1 from publications where entry = ?1',
    [id],
  )
  return rows.length > 0
}

/** Deletes an entry permanently, with its history. */
export async function deleteEntry(transaction: Transaction, id: string): Promise<void> {
  await transaction.run('delete from entries where id = ?', [id])
}

/** Moves an entry to the bin: it keeps everything except its rows of the draft edition. */
export async function markDeleted(
  transaction: Transaction,
  site: Site,
  copy: WorkingCopy,
  by: string,
  at: string,
): Promise<void> {
  await transaction.run('update entries set deleted_at = ?, deleted_by = ?, version = version + 1 where id = ?', [
    at,
    by,
    copy.id,
  ])
  for (const projection of [site.projection, ...(site.next ? [site.next.projection] : [])])
    await transaction.run('delete from drafts where projection = ? and entry = ?', [projection, copy.id])
}

/** Restores an entry from the bin; its rows are written separately. */
export async function markRestored(transaction: Transaction, copy: WorkingCopy): Promise<WorkingCopy> {
  await transaction.run('update entries set deleted_at = null, deleted_by = null where id = ?', [copy.id])
  return raiseVersion(transaction, copy)
}

/**
 * Deletes permanently the entries that were deleted before an instant, except those that an entry outside the bin refers to.
 * @returns how many entries.
 */
export async function emptyBin(transaction: Transaction, before: string, limit: number): Promise<number> {
  const rows = await transaction.all<{ id: string }>(
    `select e.id from entries e where e.deleted_at < ? and not exists (
       select 1 from revision_refs r join entries h on h.id = r.entry and h.revision = r.number and h.deleted_at is null
       where r.target = e.id)
     order by e.deleted_at limit ?`,
    [before, limit],
  )
  for (const { id } of rows) await transaction.run('delete from entries where id = ?', [id])
  return rows.length
}
