import type { Reader, Transaction } from '../connection/reader.js'
import type { SessionRow } from '../tables/tables.js'
import type { Account } from './accounts.js'
import { limitsFrom, type Membership } from './memberships.js'

/** A signed-in account, as its requests need it. */
export interface SignedIn {
  readonly account: Pick<Account, 'id' | 'isOperator' | 'disabledAt'>
  readonly expiresAt: string
  /** When the session was last used, to the hour; null where that was never noted. */
  readonly seenAt: string | null
  /** On the site of the request. */
  readonly membership: Membership | undefined
}

/** The account of a session, in one statement with its membership of a site. */
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
    seen_at: string | null
    role: string | null
    locales: string | null
    regions: string | null
  }>(
    `select a.id, a.operator, a.disabled_at, s.expires_at, s.seen_at, m.role, m.locales, m.regions from sessions s join accounts a on a.id = s.account
     left join memberships m on m.account = a.id and m.site = ? where s.hash = ?`,
    [site ?? '', hash],
  )
  return (
    row && {
      account: { id: row.id, isOperator: row.operator === 1, disabledAt: row.disabled_at },
      expiresAt: row.expires_at,
      seenAt: row.seen_at,
      membership: row.role === null ? undefined : { role: row.role, ...limitsFrom(row) },
    }
  )
}

/** A session of an account. */
export interface Session {
  /** The digest of its token. */
  readonly hash: string
  readonly account: string
  readonly createdAt: string
  readonly expiresAt: string
  /** The browser or program, as it named itself. */
  readonly agent: string | null
  /** When it was last used, to the hour. */
  readonly seenAt: string | null
}

export async function insertSession(transaction: Transaction, session: Session): Promise<void> {
  await transaction.tables.sessions.create({
    hash: session.hash,
    account: session.account,
    created_at: session.createdAt,
    expires_at: session.expiresAt,
    agent: session.agent,
    seen_at: session.seenAt,
  })
}

/** The sessions of an account that have not ended, the newest first. */
export async function sessionsOf(reader: Reader, account: string, at: string): Promise<Session[]> {
  const rows = await reader.all<SessionRow>(
    'select * from sessions where account = ? and expires_at > ? order by created_at desc, hash',
    [account, at],
  )
  return rows.map((row) => ({
    hash: row.hash,
    account: row.account,
    createdAt: row.created_at,
    expiresAt: row.expires_at,
    agent: row.agent,
    seenAt: row.seen_at,
  }))
}

export async function noteSessionUse(transaction: Transaction, hash: string, at: string): Promise<void> {
  await transaction.run('update sessions set seen_at = ? where hash = ?', [at, hash])
}

export async function deleteSession(transaction: Transaction, hash: string): Promise<void> {
  await transaction.run('delete from sessions where hash = ?', [hash])
}

/** Ends every session of an account, except one. @returns how many. */
export const deleteSessionsOf = (transaction: Transaction, account: string, exceptHash: string): Promise<number> =>
  transaction.run('delete from sessions where account = ? and hash <> ?', [account, exceptHash])
