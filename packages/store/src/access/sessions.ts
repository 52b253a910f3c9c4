import type { Reader, Transaction } from '../connection/reader.js'
import type { Account } from './accounts.js'
import type { Membership } from './memberships.js'

/** Somebody who is signed in, as a request comes from them. */
export interface SignedIn {
  readonly account: Pick<Account, 'id' | 'isOperator' | 'disabledAt'>
  readonly expiresAt: string
  /** On the site that was asked about. */
  readonly membership: Membership | undefined
}

/** Who a session belongs to, in one statement with their membership of a site. */
export async function signedInBy(
  reader: Reader,
  hash: string,
  site: string | undefined,
): Promise<SignedIn | undefined> {
  const [row] = await reader.all<{
    id: string
    operator: number
    disabled_at: string | null
    expires_at: string
    role: string | null
    locales: string | null
  }>(
    `select a.id, a.operator, a.disabled_at, s.expires_at, m.role, m.locales from sessions s join accounts a on a.id = s.account
     left join memberships m on m.account = a.id and m.site = ? where s.hash = ?`,
    [site ?? '', hash],
  )
  return (
    row && {
      account: { id: row.id, isOperator: row.operator === 1, disabledAt: row.disabled_at },
      expiresAt: row.expires_at,
      membership:
        row.role === null
          ? undefined
          : { role: row.role, locales: row.locales ? (JSON.parse(row.locales) as string[]) : null },
    }
  )
}

export async function insertSession(
  transaction: Transaction,
  session: { readonly hash: string; readonly account: string; readonly createdAt: string; readonly expiresAt: string },
): Promise<void> {
  await transaction.tables.sessions.create({
    hash: session.hash,
    account: session.account,
    created_at: session.createdAt,
    expires_at: session.expiresAt,
  })
}

export async function deleteSession(transaction: Transaction, hash: string): Promise<void> {
  await transaction.run('delete from sessions where hash = ?', [hash])
}

/** Ends every session of an account, except one. @returns how many. */
export const deleteSessionsOf = (transaction: Transaction, account: string, exceptHash: string): Promise<number> =>
  transaction.run('delete from sessions where account = ? and hash <> ?', [account, exceptHash])
