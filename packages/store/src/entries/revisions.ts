import type { Document, Origins } from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import type { RevisionRow } from '../tables/tables.js'
import type { WorkingCopy } from './workingCopies.js'

/** A state of an entry that was saved. */
export interface Revision {
  readonly number: number
  /** The entry's version when it last changed. */
  readonly version: number
  readonly author: string
  readonly createdAt: string
  readonly updatedAt: string
  /** Null while it is open; from then on it never changes. */
  readonly sealedAt: string | null
}

/** A revision with its document, in the form of its time. */
export interface StoredRevision extends Revision {
  readonly document: Document
  readonly modelVersion: number
  /** What its translated units were made from; undefined where that was not recorded. */
  readonly origins: Origins | undefined
}

const revisionFrom = (
  row: Omit<RevisionRow, 'document' | 'model_version' | 'site' | 'entry' | 'origins'>,
): Revision => ({
  number: row.number,
  version: row.version,
  author: row.author,
  createdAt: row.created_at,
  updatedAt: row.updated_at,
  sealedAt: row.sealed_at,
})

/** The revisions of an entry, newest first. */
export async function revisionsOf(reader: Reader, entry: string, most: number): Promise<Revision[]> {
  const rows = await reader.all<RevisionRow>(
    'select number, version, author, created_at, updated_at, sealed_at from revisions where entry = ? order by number desc limit ?',
    [entry, most],
  )
  return rows.map(revisionFrom)
}

export async function revisionOf(reader: Reader, entry: string, number: number): Promise<StoredRevision | undefined> {
  const [row] = await reader.all<RevisionRow>('select * from revisions where entry = ? and number = ?', [entry, number])
  return (
    row && {
      ...revisionFrom(row),
      document: JSON.parse(row.document) as Document,
      modelVersion: row.model_version,
      origins: row.origins === null ? undefined : (JSON.parse(row.origins) as Origins),
    }
  )
}

/** Records other origins in the newest revision. Its values stay, also where it is sealed. */
export async function storeOrigins(
  transaction: Transaction,
  copy: WorkingCopy,
  origins: Origins,
): Promise<WorkingCopy> {
  await transaction.run('update revisions set origins = ? where entry = ? and number = ?', [
    JSON.stringify(origins),
    copy.id,
    copy.revision,
  ])
  return { ...copy, origins }
}
