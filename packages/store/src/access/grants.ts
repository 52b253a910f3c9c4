import type { Reader, Transaction } from '../connection/reader.js'
import type { GrantRow, PreviewCodeRow } from '../tables/tables.js'
import type { Account } from './accounts.js'

/** A single-use code that a front end exchanges for a grant. */
export interface PreviewCode {
  /** The digest of the code. */
  readonly hash: string
  readonly site: string
  readonly frontEnd: string
  readonly account: string
  readonly expiresAt: string
  readonly usedAt: string | null
}

/** A right to read a site's drafts, worth no more than its issuer's. */
export interface PreviewGrant {
  readonly id: string
  readonly site: string
  readonly frontEnd: string
  readonly account: string
  readonly createdAt: string
  readonly expiresAt: string
  readonly revokedAt: string | null
}

export async function insertPreviewCode(transaction: Transaction, code: PreviewCode): Promise<void> {
  await transaction.tables.preview_codes.create({
    hash: code.hash,
    site: code.site,
    front_end: code.frontEnd,
    account: code.account,
    expires_at: code.expiresAt,
    used_at: code.usedAt,
  })
}

export async function previewCodeWithHash(reader: Reader, hash: string): Promise<PreviewCode | undefined> {
  const [row] = await reader.all<PreviewCodeRow>('select * from preview_codes where hash = ?', [hash])
  return (
    row && {
      hash: row.hash,
      site: row.site,
      frontEnd: row.front_end,
      account: row.account,
      expiresAt: row.expires_at,
      usedAt: row.used_at,
    }
  )
}

export async function markPreviewCodeUsed(transaction: Transaction, hash: string, at: string): Promise<void> {
  await transaction.run('update preview_codes set used_at = ? where hash = ?', [at, hash])
}

export async function deletePreviewCodesOf(transaction: Transaction, account: string): Promise<void> {
  await transaction.run('delete from preview_codes where account = ?', [account])
}

export async function insertGrant(transaction: Transaction, grant: PreviewGrant): Promise<void> {
  await transaction.tables.grants.create({
    id: grant.id,
    site: grant.site,
    front_end: grant.frontEnd,
    account: grant.account,
    created_at: grant.createdAt,
    expires_at: grant.expiresAt,
    revoked_at: grant.revokedAt,
  })
}

/** A grant with the rights of its issuer. */
export async function grantWithIssuer(
  reader: Reader,
  id: string,
): Promise<(PreviewGrant & { readonly issuer: Pick<Account, 'id' | 'isOperator' | 'disabledAt'> }) | undefined> {
  const [row] = await reader.all<GrantRow & { operator: number; disabled_at: string | null }>(
    'select g.*, a.operator, a.disabled_at from grants g join accounts a on a.id = g.account where g.id = ?',
    [id],
  )
  return (
    row && {
      id: row.id,
      site: row.site,
      frontEnd: row.front_end,
      account: row.account,
      createdAt: row.created_at,
      expiresAt: row.expires_at,
      revokedAt: row.revoked_at,
      issuer: { id: row.account, isOperator: row.operator === 1, disabledAt: row.disabled_at },
    }
  )
}

/** Revokes the grants that an account created, on one site or on all. */
export async function revokeGrantsOf(
  transaction: Transaction,
  account: string,
  at: string,
  site?: string,
): Promise<void> {
  await transaction.run(
    `update grants set revoked_at = ? where account = ? and revoked_at is null${site === undefined ? '' : ' and site = ?'}`,
    site === undefined ? [at, account] : [at, account, site],
  )
}
