import { canonicalTag, isTimeZone, WisteriaError, type Caller } from '@wisteria/core'
import { changeAccount, deleteSession, sessionsOf, type Session } from '@wisteria/store'
import { z } from 'zod'
import { route, type Route } from '../kernel/route.js'
import { sessionHash } from './callers.js'
import { accountView, cookieText, openSession } from './sessionRoutes.js'
import { hashPassword, isPassword } from './secrets.js'
import {
  accountOfLink,
  accountsManagedBy,
  accountsOf,
  linkAddress,
  makePasswordLink,
  password,
  personName,
  requireAccount,
  requireManaged,
  setDisabled,
  setPassword,
  signOutEverywhere,
} from './accounts.js'

const accountOf = (caller: Caller): string => (caller.is === 'member' ? caller.account : '')

/**
 * Enough of the digest of a session's token to distinguish the sessions of one account. In hexadecimal digits: the
 * digest itself may begin with a hyphen, which a command would take for an option.
 */
const sessionId = (hash: string): string => Buffer.from(hash, 'base64url').toString('hex').slice(0, 20)

const sessionView = ({ hash, agent, createdAt, seenAt, expiresAt }: Session, current: string) => ({
  id: sessionId(hash),
  agent,
  createdAt,
  seenAt,
  expiresAt,
  current: hash === current,
})

/** Accounts: one's own, and those that an owner or operator manages. */
export const accountRoutes: readonly Route[] = [
  route({
    method: 'PUT',
    path: '/edit/v1/account',
    summary:
      'Changes your name, the language of the console and the time zone that it shows times in; null takes those of the browser.',
    permission: 'signedIn',
    body: z.strictObject({
      name: personName,
      language: z
        .string()
        .max(35)
        .refine((tag) => canonicalTag(tag) === tag, 'must be a language tag such as `nl`')
        .nullable(),
      timeZone: z.string().refine(isTimeZone, 'must be a time zone such as `Europe/Amsterdam`').nullable(),
    }),
    handle: async ({ kernel, caller, body }) => {
      await kernel.write((transaction) => changeAccount(transaction, accountOf(caller), body))
      return { body: await accountView(kernel, accountOf(caller)) }
    },
  }),
  route({
    method: 'GET',
    path: '/edit/v1/account/sessions',
    summary: 'Where you are signed in: with what, since when, and when each session was last used, to the hour.',
    permission: 'signedIn',
    handle: async ({ kernel, caller, headers }) => {
      const current = sessionHash(headers)
      const sessions = await sessionsOf(kernel.database, accountOf(caller), kernel.at)
      return { body: { sessions: sessions.map((session) => sessionView(session, current)) } }
    },
  }),
  route({
    method: 'DELETE',
    path: '/edit/v1/account/sessions/{session}',
    summary: 'Ends one of your sessions at once.',
    permission: 'signedIn',
    handle: async ({ kernel, caller, params }) => {
      await kernel.write(async (transaction) => {
        const sessions = await sessionsOf(transaction, accountOf(caller), kernel.at)
        const session = sessions.find(({ hash }) => sessionId(hash) === params['session'])
        if (!session) throw new WisteriaError('notFound', `You have no session \`${params['session']!.slice(0, 60)}\`.`)
        await deleteSession(transaction, session.hash)
      })
      return { status: 204 }
    },
  }),
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
    handle: async (request) => {
      const { kernel, body } = request
      // Hashing is expensive, so it is done only for a valid link.
      await accountOfLink(kernel.database, body.code, kernel.at)
      const hash = await hashPassword(body.password)
      const account = await kernel.write(async (transaction) => {
        const id = await accountOfLink(transaction, body.code, kernel.at)
        await setPassword(transaction, id, hash, kernel.at)
        return id
      })
      return openSession(request, account, body.as)
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
      'Makes a one-time link, valid for 24 hours, for somebody who forgot their password to set a new one. Give it to nobody else.',
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
