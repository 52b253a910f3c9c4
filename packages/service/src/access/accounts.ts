import { decide, makeId, WisteriaError, type Caller, type ManagedAccount, type Role } from '@wisteria/core'
import {
  accountOfPasswordLink,
  accountsWithSites,
  accountWithEmail,
  accountWithId,
  changeDisabled,
  changePassword,
  deletePasswordLinks,
  deletePreviewCodesOf,
  deleteSessionsOf,
  insertAccount,
  insertPasswordLink,
  revokeGrantsOf,
  type Account,
  type AccountWithSites,
  type Reader,
  type Transaction,
} from '@wisteria/store'
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

/** @throws WisteriaError `conflict` where an account with that e-mail exists. */
export async function createAccount(
  kernel: Kernel,
  transaction: Transaction,
  account: { readonly email: string; readonly name: string; readonly passwordHash: string; readonly operator: boolean },
): Promise<string> {
  if (await accountWithEmail(transaction, account.email))
    throw new WisteriaError('conflict', `There is an account for ${account.email} already.`)
  const id = makeId(kernel.environment)
  await insertAccount(transaction, {
    id,
    email: account.email,
    name: account.name,
    passwordHash: account.passwordHash,
    isOperator: account.operator,
    createdAt: kernel.at,
    disabledAt: null,
    language: null,
    timeZone: null,
  })
  return id
}

const accountView = (account: AccountWithSites): ManagedAccount => ({
  id: account.id,
  email: account.email,
  name: account.name,
  operator: account.isOperator,
  disabledAt: account.disabledAt,
  sites: account.sites.map(({ name, role }) => ({ name, role })),
})

const resourceOf = (account: AccountWithSites) => ({
  account: {
    operator: account.isOperator,
    rolesOfCaller: account.sites.map(({ roleOfCaller }) => roleOfCaller as Role | undefined),
  },
})

const idOf = (caller: Caller): string => (caller.is === 'member' ? caller.account : '')

/** All accounts of the service, by e-mail. */
export const accountsOf = async (reader: Reader): Promise<ManagedAccount[]> =>
  (await accountsWithSites(reader, '')).map(accountView)

/** The accounts that a caller manages, by e-mail. */
export async function accountsManagedBy(reader: Reader, caller: Caller): Promise<ManagedAccount[]> {
  const accounts = await accountsWithSites(reader, idOf(caller))
  return accounts.filter((account) => decide(caller, 'account.manage', resourceOf(account)).allowed).map(accountView)
}

/** @throws WisteriaError `notFound`. */
export async function requireAccount(reader: Reader, by: 'id' | 'email', value: string): Promise<Account> {
  const account = await (by === 'id' ? accountWithId : accountWithEmail)(reader, value)
  if (!account) throw new WisteriaError('notFound', `There is no account \`${value.slice(0, 254)}\`.`)
  return account
}

/** @throws WisteriaError `notFound`, or `forbidden` where the caller does not manage the account. */
export async function requireManaged(reader: Reader, caller: Caller, id: string): Promise<Account> {
  const [account] = await accountsWithSites(reader, idOf(caller), id)
  if (!account) throw new WisteriaError('notFound', `There is no account \`${id.slice(0, 60)}\`.`)
  requireMay(caller, 'account.manage', resourceOf(account))
  return account
}

/**
 * Sets a password, which ends every session and preview grant of the account, and every link to set another.
 * @param stays the hash of a session that does not end.
 */
export async function setPassword(
  transaction: Transaction,
  account: string,
  passwordHash: string,
  at: string,
  stays = '',
): Promise<void> {
  await changePassword(transaction, account, passwordHash)
  await deletePasswordLinks(transaction, account)
  await signOutEverywhere(transaction, account, at, stays)
}

/** Ends every session of an account, except one, and every preview grant that it gave. @returns how many sessions. */
export async function signOutEverywhere(
  transaction: Transaction,
  account: string,
  at: string,
  stays = '',
): Promise<number> {
  await revokeGrantsOf(transaction, account, at)
  await deletePreviewCodesOf(transaction, account)
  return deleteSessionsOf(transaction, account, stays)
}

/** Disables an account, which ends its sessions and grants at once, or enables it again. */
export async function setDisabled(
  transaction: Transaction,
  account: string,
  disabled: boolean,
  at: string,
): Promise<void> {
  await changeDisabled(transaction, account, disabled, at)
  if (!disabled) return
  await deletePasswordLinks(transaction, account)
  await signOutEverywhere(transaction, account, at)
}

export interface LinkCode {
  /** The hash part of the address of the console's page. */
  readonly code: string
  /** ISO instant. */
  readonly expiresAt: string
}

/** A one-time link to set a new password. An earlier one of the same account stops working. */
export async function makePasswordLink(
  transaction: Transaction,
  account: Account,
  by: string,
  now: number,
): Promise<LinkCode> {
  if (account.disabledAt !== null)
    throw new WisteriaError('conflict', `The account ${account.email} is disabled. Enable it first.`)
  const code = makeSecret()
  const expiresAt = new Date(now + linkHours * 3_600_000).toISOString()
  await deletePasswordLinks(transaction, account.id)
  await insertPasswordLink(transaction, {
    hash: digest(code),
    account: account.id,
    createdBy: by,
    createdAt: new Date(now).toISOString(),
    expiresAt,
  })
  return { code, expiresAt }
}

/**
 * The account that a link is for.
 * @throws WisteriaError `forbidden` where the link no longer works.
 */
export async function accountOfLink(reader: Reader, code: string, at: string): Promise<string> {
  const account = await accountOfPasswordLink(reader, digest(code), at)
  if (account !== undefined) return account
  throw new WisteriaError(
    'forbidden',
    `This link is unknown, was used, or is older than ${linkHours} hours. Ask for a new one.`,
  )
}

/** Where a link leads. */
export const linkAddress = (baseUrl: string, code: string): string => `${baseUrl}/console/password#${code}`
