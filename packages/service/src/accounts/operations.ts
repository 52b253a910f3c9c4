import { decide, makeId, WisteriaError, type Caller, type ManagedAccount } from '@wisteria/core'
import type { AccountRow, Reader, Transaction } from '@wisteria/store'
import { z } from 'zod'
import type { Kernel } from '../kernel.js'
import { callerFrom } from '../sessions/accounts.js'
import { digest, makeSecret } from '../sessions/secrets.js'

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
  const id = makeId(kernel.surroundings)
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

/** All accounts of the service, by e-mail. */
export async function accountsOf(reader: Reader): Promise<ManagedAccount[]> {
  const rows = await reader.all<AccountRow>('select * from accounts order by email')
  const memberships = await reader.all<{ account: string; name: string; role: string }>(
    'select m.account, s.name, m.role from memberships m join sites s on s.id = m.site order by s.name',
  )
  return rows.map((row) => ({
    id: row.id,
    email: row.email,
    name: row.name,
    operator: row.operator === 1,
    disabledAt: row.disabled_at,
    sites: memberships.filter(({ account }) => account === row.id).map(({ name, role }) => ({ name, role })),
  }))
}

/** @throws WisteriaError `notFound`. */
export async function requireAccount(reader: Reader, by: 'id' | 'email', value: string): Promise<AccountRow> {
  const [row] = await reader.all<AccountRow>(`select * from accounts where ${by} = ?`, [value])
  if (!row) throw new WisteriaError('notFound', `There is no account \`${value.slice(0, 254)}\`.`)
  return row
}

/**
 * Whether a caller may disable an account and make links for it: an operator, or an owner of every site that the account is a
 * member of. Otherwise an owner of one site could take over an account on another.
 */
export async function manages(reader: Reader, caller: Caller, account: AccountRow): Promise<boolean> {
  if (caller.is !== 'member') return false
  if (decide(caller, 'operate').allowed) return true
  if (account.operator === 1) return false
  const rows = await reader.all<{ role: string | null; locales: string | null }>(
    `select o.role, o.locales from memberships m left join memberships o on o.site = m.site and o.account = ?
     where m.account = ?`,
    [caller.account, account.id],
  )
  const self = { id: caller.account, operator: 0, disabled_at: null }
  return rows.length > 0 && rows.every((own) => decide(callerFrom(self, own), 'member.manage').allowed)
}

/** @throws WisteriaError `forbidden`, saying who may. */
export async function requireManages(reader: Reader, caller: Caller, account: AccountRow): Promise<void> {
  if (await manages(reader, caller, account)) return
  throw new WisteriaError(
    'forbidden',
    'Only an operator of the service, or somebody who owns every site that this account is a member of, may do this.',
  )
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

export interface PasswordLink {
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
): Promise<PasswordLink> {
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

/** Sets the password of the account that a link is for, and uses the link up. @returns the account's id. */
export async function usePasswordLink(
  transaction: Transaction,
  code: string,
  passwordHash: string,
  at: string,
): Promise<string> {
  const [row] = await transaction.all<{ account: string }>(
    'select account from password_links where hash = ? and expires_at > ?',
    [digest(code), at],
  )
  if (!row)
    throw new WisteriaError(
      'forbidden',
      `This link is not known, was used, or is older than ${linkHours} hours. Ask for a new one.`,
    )
  await setPassword(transaction, row.account, passwordHash, at)
  return row.account
}

/** Where a link leads. */
export const linkAddress = (baseUrl: string, code: string): string => `${baseUrl}/console/password#${code}`
