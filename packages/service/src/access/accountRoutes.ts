import { WisteriaError, type Caller } from '@wisteria/core'
import { z } from 'zod'
import { route, type Route } from '../kernel/route.js'
import { sessionHash } from './callers.js'
import { cookieText, openSession } from './sessionRoutes.js'
import { hashPassword, isPassword } from './secrets.js'
import {
  accountOfLink,
  accountsManagedBy,
  accountsOf,
  linkAddress,
  makePasswordLink,
  password,
  requireAccount,
  requireManaged,
  setDisabled,
  setPassword,
  signOutEverywhere,
} from './accounts.js'

const accountOf = (caller: Caller): string => (caller.is === 'member' ? caller.account : '')

/** Accounts: one's own, and those that an owner or operator manages. */
export const accountRoutes: readonly Route[] = [
  route({
    method: 'PUT',
    path: '/edit/v1/account/password',
    summary: 'Changes your password. Every other session of yours ends.',
    permission: 'signedIn',
    guarded: (_, caller) => accountOf(caller),
    body: z.strictObject({ current: z.string().max(1000), password }),
    handle: async (request) => {
      const { kernel, body } = request
      const account = await requireAccount(kernel.database, 'id', accountOf(request.caller))
      if (!(await isPassword(body.current, account.passwordHash)))
        throw new WisteriaError('forbidden', 'The current password is wrong.')
      const hash = await hashPassword(body.password)
      const stays = sessionHash(request.headers)
      await kernel.write((transaction) => setPassword(transaction, account.id, hash, kernel.at, stays))
      return { status: 204 }
    },
  }),
  route({
    method: 'POST',
    path: '/edit/v1/account/password/by-link',
    summary:
      'Sets a new password with the code of a one-time link, and signs you in. Every other session of yours ends.',
    permission: 'anyone',
    guarded: () => 'password link',
    body: z.strictObject({ code: z.string().max(200), password, as: z.enum(['cookie', 'token']).default('cookie') }),
    handle: async ({ kernel, body }) => {
      // Hashing is dear: nobody has it done without a link that is good.
      await accountOfLink(kernel.database, body.code, kernel.at)
      const hash = await hashPassword(body.password)
      const account = await kernel.write(async (transaction) => {
        const id = await accountOfLink(transaction, body.code, kernel.at)
        await setPassword(transaction, id, hash, kernel.at)
        return id
      })
      return openSession(kernel, account, body.as)
    },
  }),
  route({
    method: 'POST',
    path: '/edit/v1/account/sign-out',
    summary: 'Signs you out everywhere: every session and every preview grant of yours ends at once.',
    permission: 'signedIn',
    handle: async ({ kernel, caller }) => {
      await kernel.write((transaction) => signOutEverywhere(transaction, accountOf(caller), kernel.at))
      return { status: 204, headers: { 'Set-Cookie': cookieText(kernel, '', 0) } }
    },
  }),
  route({
    method: 'GET',
    path: '/edit/v1/accounts',
    summary:
      'The accounts that you manage: all of them as an operator; as an owner those that are members of no site but your own.',
    permission: 'signedIn',
    handle: async ({ kernel, caller }) => {
      return { body: { accounts: await accountsManagedBy(kernel.database, caller) } }
    },
  }),
  route({
    method: 'PUT',
    path: '/edit/v1/accounts/{account}/disabled',
    summary: 'Disables an account, which ends its sessions and preview grants at once, or enables it again.',
    permission: 'signedIn',
    body: z.strictObject({ disabled: z.boolean() }),
    handle: async ({ kernel, caller, params, body }) => {
      const changed = await kernel.write(async (transaction) => {
        const account = await requireManaged(transaction, caller, params['account']!)
        if (account.id === accountOf(caller))
          throw new WisteriaError('conflict', 'This is your own account. Somebody else must disable it.')
        await setDisabled(transaction, account.id, body.disabled, kernel.at)
        return account.id
      })
      return { body: (await accountsOf(kernel.database)).find(({ id }) => id === changed) }
    },
  }),
  route({
    method: 'POST',
    path: '/edit/v1/accounts/{account}/password-link',
    summary:
      'Makes a one-time link, good for 24 hours, by which somebody who forgot their password sets a new one. Give it to nobody else.',
    permission: 'signedIn',
    handle: async ({ kernel, caller, actor, params }) => {
      const { code, expiresAt } = await kernel.write(async (transaction) => {
        const account = await requireManaged(transaction, caller, params['account']!)
        return makePasswordLink(transaction, account, actor, kernel.now)
      })
      return { status: 201, body: { address: linkAddress(kernel.baseUrl, code), expiresAt } }
    },
  }),
]
