import type { Reader, Transaction } from '../connection/reader.js'
import type { AccessKeyRow } from '../tables/tables.js'

/** An access key of a site. */
export interface AccessKey {
  readonly id: string
  readonly site: string
  readonly label: string
  readonly scope: string
  /** The start of its secret, by which it is looked up. */
  readonly prefix: string
  /** The digest of its secret. */
  readonly hash: string
  readonly createdAt: string
  readonly createdBy: string
  /** To the hour. */
  readonly lastUsedAt: string | null
  readonly revokedAt: string | null
}

const keyFrom = (row: AccessKeyRow): AccessKey => ({
  id: row.id,
  site: row.site,
  label: row.label,
  scope: row.scope,
  prefix: row.prefix,
  hash: row.hash,
  createdAt: row.created_at,
  createdBy: row.created_by,
  lastUsedAt: row.last_used_at,
  revokedAt: row.revoked_at,
})

export async function keyWithPrefix(reader: Reader, prefix: string): Promise<AccessKey | undefined> {
  const [row] = await reader.all<AccessKeyRow>('select * from access_keys where prefix = ?', [prefix])
  return row && keyFrom(row)
}

export async function keyOnSite(reader: Reader, site: string, id: string): Promise<AccessKey | undefined> {
  const [row] = await reader.all<AccessKeyRow>('select * from access_keys where site = ? and id = ?', [site, id])
  return row && keyFrom(row)
}

/** The keys of a site, oldest first. */
export async function keysOf(reader: Reader, site: string): Promise<AccessKey[]> {
  const rows = await reader.all<AccessKeyRow>('select * from access_keys where site = ? order by created_at, id', [
    site,
  ])
  return rows.map(keyFrom)
}

export async function insertKey(transaction: Transaction, key: AccessKey): Promise<void> {
  await transaction.tables.access_keys.create({
    id: key.id,
    site: key.site,
    label: key.label,
    scope: key.scope,
    prefix: key.prefix,
    hash: key.hash,
    created_at: key.createdAt,
    created_by: key.createdBy,
    last_used_at: key.lastUsedAt,
    revoked_at: key.revokedAt,
  })
}

/** Revokes a key from an instant on, if it is not revoked yet. */
export async function revokeKey(transaction: Transaction, id: string, at: string): Promise<void> {
  await transaction.run('update access_keys set revoked_at = coalesce(revoked_at, ?) where id = ?', [at, id])
}

export async function noteKeyUse(transaction: Transaction, id: string, at: string): Promise<void> {
  await transaction.run('update access_keys set last_used_at = ? where id = ?', [at, id])
}
