import type { Reader, Transaction } from '../connection/reader.js'
import type { AccountRow } from '../tables/tables.js'

/** Somebody who may sign in. */
export interface Account {
  readonly id: string
  /** In lower case. */
  readonly email: string
  readonly name: string
  readonly passwordHash: string
  readonly isOperator: boolean
  readonly createdAt: string
  /** Since when it cannot sign in; null when it can. */
  readonly disabledAt: string | null
  /** The language of the console, as a tag; null for that of the browser. */
  readonly language: string | null
  /** The time zone that times are shown in; null for that of the browser. */
  readonly timeZone: string | null
}

/** An account with the sites that it is a member of, by their names. */
export interface AccountWithSites extends Account {
  readonly sites: readonly {
    readonly name: string
    readonly role: string
    /** The role on that site of the account that reads the list. */
    readonly roleOfCaller: string | undefined
  }[]
}

const accountFrom = (row: AccountRow): Account => ({
  id: row.id,
  email: row.email,
  name: row.name,
  passwordHash: row.password,
  isOperator: row.operator === 1,
  createdAt: row.created_at,
  disabledAt: row.disabled_at,
  language: row.language,
  timeZone: row.time_zone,
})

export const accountWithId = (reader: Reader, id: string): Promise<Account | undefined> =>
  accountWhere(reader, 'id', id)
export const accountWithEmail = (reader: Reader, email: string): Promise<Account | undefined> =>
  accountWhere(reader, 'email', email)

/** The ids of accounts by their e-mails; of the members of a site only, where one is given. */
export async function accountsWithEmails(
  reader: Reader,
  emails: readonly string[],
  site: string | undefined,
): Promise<ReadonlyMap<string, string>> {
  const rows = await reader.all<{ id: string; email: string }>(
    `select id, email from accounts where email in (select lower(value) from json_each(?))${site === undefined ? '' : ' and id in (select account from memberships where site = ?)'}`,
    [JSON.stringify(emails), ...(site === undefined ? [] : [site])],
  )
  return new Map(rows.map(({ id, email }) => [email, id]))
}

async function accountWhere(reader: Reader, by: 'id' | 'email', value: string): Promise<Account | undefined> {
  const [row] = await reader.all<AccountRow>(`select * from accounts where ${by} = ?`, [value])
  return row && accountFrom(row)
}

export async function hasAccounts(reader: Reader): Promise<boolean> {
  return (await reader.all('select 1 from accounts limit 1')).length > 0
}

export async function insertAccount(transaction: Transaction, account: Account): Promise<void> {
  await transaction.tables.accounts.create({
    id: account.id,
    email: account.email,
    name: account.name,
    password: account.passwordHash,
    operator: account.isOperator ? 1 : 0,
    created_at: account.createdAt,
    disabled_at: account.disabledAt,
    language: account.language,
    time_zone: account.timeZone,
  })
}

/** Accounts with their sites, by e-mail. @param caller the account whose roles are added. @param id of a single account. */
export async function accountsWithSites(reader: Reader, caller: string, id?: string): Promise<AccountWithSites[]> {
  const rows = await reader.all<AccountRow & { sites: string }>(
    `select a.*, (
       select json_group_array(json_array(s.name, m.role, o.role)) from memberships m join sites s on s.id = m.site
       left join memberships o on o.site = m.site and o.account = ? where m.account = a.id) as sites
     from accounts a ${id === undefined ? '' : 'where a.id = ?'} order by a.email`,
    id === undefined ? [caller] : [caller, id],
  )
  return rows.map((row) => ({
    ...accountFrom(row),
    sites: (JSON.parse(row.sites) as [string, string, string | null][])
      .sort((a, b) => (a[0] < b[0] ? -1 : 1))
      .map(([name, role, roleOfCaller]) => ({ name, role, roleOfCaller: roleOfCaller ?? undefined })),
  }))
}

/** The part of an account that its owner can change. */
export async function changeAccount(
  transaction: Transaction,
  account: string,
  { name, language, timeZone }: Pick<Account, 'name' | 'language' | 'timeZone'>,
): Promise<void> {
  await transaction.run('update accounts set name = ?, language = ?, time_zone = ? where id = ?', [
    name,
    language,
    timeZone,
    account,
  ])
}

export async function changePassword(transaction: Transaction, account: string, passwordHash: string): Promise<void> {
  await transaction.run('update accounts set password = ? where id = ?', [passwordHash, account])
}

/** Disables an account from an instant on, if it is not disabled yet, or enables it again. */
export async function changeDisabled(
  transaction: Transaction,
  account: string,
  disabled: boolean,
  at: string,
): Promise<void> {
  await transaction.run('update accounts set disabled_at = iif(?, coalesce(disabled_at, ?), null) where id = ?', [
    disabled ? 1 : 0,
    at,
    account,
  ])
}

/** A one-time link to set a new password. */
export interface PasswordLink {
  /** The digest of its code. */
  readonly hash: string
  readonly account: string
  readonly createdBy: string
  readonly createdAt: string
  readonly expiresAt: string
}

export async function insertPasswordLink(transaction: Transaction, link: PasswordLink): Promise<void> {
  await transaction.tables.password_links.create({
    hash: link.hash,
    account: link.account,
    created_by: link.createdBy,
    created_at: link.createdAt,
    expires_at: link.expiresAt,
  })
}

export async function deletePasswordLinks(transaction: Transaction, account: string): Promise<void> {
  await transaction.run('delete from password_links where account = ?', [account])
}

/** The account of a valid link; undefined for any other. */
export async function accountOfPasswordLink(reader: Reader, hash: string, at: string): Promise<string | undefined> {
  const [row] = await reader.all<{ account: string }>(
    'select account from password_links where hash = ? and expires_at > ?',
    [hash, at],
  )
  return row?.account
}
