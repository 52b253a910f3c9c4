import { decide, makeId, WisteriaError, type Caller, type ManagedAccount, type Role } from '@wisteria/core'
import type { AccountRow, Reader, Transaction } from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel/kernel.js'
import { requireMay } from '../kernel/permission.js'
import { digest, makeSecret } from './secrets.js'

export const email = z
  .email('must be an e-mail address')
  .max(254)
  .transform((text) => text.toLowerCase())
export const password = z.string().min(12, 'must have at least 12 characters').max(1000)
export const personName = z.string().trim().min(1, 'must not be empty').max(120)

/** How long a link for a new password is good, in hours. */
export const linkHours = 24

/** @throws WisteriaError `conflict` where there is one for that e-mail. */
export async function createAccount(
  kernel: Kernel,
  transaction: Transaction,
  account: { readonly email: string; readonly name: string; readonly passwordHash: string; readonly operator: boolean },
): Promise<string> {
  if ((await transaction.all('select 1 from accounts where email = ?', [account.email])).length > 0)
    throw new WisteriaError('conflict', `There is an account for ${account.email} already.`)
  const id = makeId(kernel.environment)
  await transaction.tables.accounts.create({
    id,
    email: account.email,
    name: account.name,
    password: account.passwordHash,
    operator: account.operator ? 1 : 0,
    created_at: kernel.at,
    disabled_at: null,
  })
  return id
}

interface AccountWithSites extends AccountRow {
  /** JSON: the name of each site with the account's role there, and the caller's. */
  readonly sites: string
}

/** Accounts with the sites that they are members of, by e-mail. @param caller the account whose roles are read beside. @param id of one alone. */
const withSites = (reader: Reader, caller: string, id?: string): Promise<AccountWithSites[]> =>
  reader.all<AccountWithSites>(
    `select a.*, (
       select json_group_array(json_array(s.name, m.role, o.role)) from memberships m join sites s on s.id = m.site
       left join memberships o on o.site = m.site and o.account = ? where m.account = a.id) as sites
     from accounts a ${id === undefined ? '' : 'where a.id = ?'} order by a.email`,
    id === undefined ? [caller] : [caller, id],
  )

const sitesIn = (row: AccountWithSites): [name: string, role: string, ofCaller: string | null][] =>
  (JSON.parse(row.sites) as [string, string, string | null][]).sort((a, b) => (a[0] < b[0] ? -1 : 1))

const viewOf = (row: AccountWithSites): ManagedAccount => ({
  id: row.id,
  email: row.email,
  name: row.name,
  operator: row.operator === 1,
  disabledAt: row.disabled_at,
  sites: sitesIn(row).map(([name, role]) => ({ name, role })),
})

const resourceOf = (row: AccountWithSites) => ({
  account: {
    operator: row.operator === 1,
    rolesOfCaller: sitesIn(row).map(([, , role]) => (role ?? undefined) as Role | undefined),
  },
})

/** All accounts of the service, by e-mail. */
export const accountsOf = async (reader: Reader): Promise<ManagedAccount[]> => (await withSites(reader, '')).map(viewOf)

/** The accounts that a caller manages, by e-mail. */
export async function accountsManagedBy(reader: Reader, caller: Caller): Promise<ManagedAccount[]> {
  const rows = await withSites(reader, caller.is === 'member' ? caller.account : '')
  return rows.filter((row) => decide(caller, 'account.manage', resourceOf(row)).allowed).map(viewOf)
}

/** @throws WisteriaError `notFound`. */
export async function requireAccount(reader: Reader, by: 'id' | 'email', value: string): Promise<AccountRow> {
  const [row] = await reader.all<AccountRow>(`select * from accounts where ${by} = ?`, [value])
  if (!row) throw new WisteriaError('notFound', `There is no account \`${value.slice(0, 254)}\`.`)
  return row
}

/** @throws WisteriaError `notFound`, or `forbidden` where the caller does not manage the account. */
export async function requireManaged(reader: Reader, caller: Caller, id: string): Promise<AccountRow> {
  const [row] = await withSites(reader, caller.is === 'member' ? caller.account : '', id)
  if (!row) throw new WisteriaError('notFound', `There is no account \`${id.slice(0, 60)}\`.`)
  requireMay(caller, 'account.manage', resourceOf(row))
  return row
}

/**
 * Sets a password, which ends every session and preview grant of the account, and every link to set another.
 * @param stays the hash of a session that goes on.
 */
export async function setPassword(
  transaction: Transaction,
  account: string,
  passwordHash: string,
  at: string,
  stays = '',
): Promise<void> {
  await transaction.run('update accounts set password = ? where id = ?', [passwordHash, account])
  await transaction.run('delete from password_links where account = ?', [account])
  await signOutEverywhere(transaction, account, at, stays)
}

/** Ends every session of an account, except one, and every preview grant that it gave. @returns how many sessions. */
export async function signOutEverywhere(
  transaction: Transaction,
  account: string,
  at: string,
  stays = '',
): Promise<number> {
  await transaction.run('update grants set revoked_at = ? where account = ? and revoked_at is null', [at, account])
  await transaction.run('delete from preview_codes where account = ?', [account])
  return transaction.run('delete from sessions where account = ? and hash <> ?', [account, stays])
}

/** Disables an account, which ends its sessions and grants at once, or enables it again. */
export async function setDisabled(
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
  if (!disabled) return
  await transaction.run('delete from password_links where account = ?', [account])
  await signOutEverywhere(transaction, account, at)
}

export interface LinkCode {
  /** What the address of the console's page carries. */
  readonly code: string
  /** ISO instant. */
  readonly expiresAt: string
}

/** A one-time link to set a new password. An older one of the same account is no longer good. */
export async function makePasswordLink(
  transaction: Transaction,
  account: AccountRow,
  by: string,
  now: number,
): Promise<LinkCode> {
  if (account.disabled_at !== null)
    throw new WisteriaError('conflict', `The account ${account.email} is disabled. Enable it first.`)
  const code = makeSecret()
  const expiresAt = new Date(now + linkHours * 3_600_000).toISOString()
  await transaction.run('delete from password_links where account = ?', [account.id])
  await transaction.tables.password_links.create({
    hash: digest(code),
    account: account.id,
    created_by: by,
    created_at: new Date(now).toISOString(),
    expires_at: expiresAt,
  })
  return { code, expiresAt }
}

/**
 * The account that a link is for.
 * @throws WisteriaError `forbidden` where the link is no longer good.
 */
export async function accountOfLink(reader: Reader, code: string, at: string): Promise<string> {
  const [row] = await reader.all<{ account: string }>(
    'select account from password_links where hash = ? and expires_at > ?',
    [digest(code), at],
  )
  if (row) return row.account
  throw new WisteriaError(
    'forbidden',
    `This link is unknown, was used, or is older than ${linkHours} hours. Ask for a new one.`,
  )
}

/** Where a link leads. */
export const linkAddress = (baseUrl: string, code: string): string => `${baseUrl}/console/password#${code}`
