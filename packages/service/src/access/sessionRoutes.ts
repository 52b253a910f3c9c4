import { WisteriaError } from '@wisteria/core'
import { accountWithEmail, accountWithId, deleteSession, insertSession } from '@wisteria/store'
import { serialize } from 'cookie'
import { z } from 'zod'
import type { Kernel } from '../kernel/kernel.js'
import { route, type Answer, type Request, type Route } from '../kernel/route.js'
import { sessionCookie, sessionHash, sessionMark } from './callers.js'
import { digest, hashPassword, isPassword, makeSecret } from './secrets.js'
import { sitesOf } from './memberships.js'

const sessionDays = 14

/** The longest name of a browser or program that is stored, in characters. */
const maxAgentLength = 300

/** Checked for an unknown e-mail too, so that the response time does not reveal which accounts exist. */
const decoy = hashPassword('a password that nobody has')

/** Signs an account in. */
export async function openSession(
  { kernel, headers }: Pick<Request, 'kernel' | 'headers'>,
  account: string,
  as: 'cookie' | 'token',
): Promise<Answer> {
  const token = `${sessionMark}${makeSecret()}`
  const expires = kernel.now + sessionDays * 86_400_000
  const expiresAt = new Date(expires).toISOString()
  await kernel.database.write((transaction) =>
    insertSession(transaction, {
      hash: digest(token),
      account,
      createdAt: kernel.at,
      expiresAt,
      agent: headers['user-agent']?.slice(0, maxAgentLength) ?? null,
      seenAt: kernel.at,
    }),
  )
  const body = { ...(await accountView(kernel, account)), expiresAt }
  if (as === 'token') return { status: 201, body: { ...body, token } }
  return { status: 201, body, headers: { 'Set-Cookie': cookieText(kernel, token, sessionDays * 86_400) } }
}

export function cookieText(kernel: Kernel, value: string, seconds: number): string {
  return serialize(sessionCookie, value, {
    path: '/',
    maxAge: seconds,
    httpOnly: true,
    sameSite: 'lax',
    secure: kernel.baseUrl.startsWith('https:'),
  })
}

export async function accountView(kernel: Kernel, id: string) {
  const { email, name, isOperator, language, timeZone } = (await accountWithId(kernel.database, id))!
  return {
    account: { id, email, name, operator: isOperator, language, timeZone },
    sites: await sitesOf(kernel.database, id),
  }
}

export const sessionRoutes: readonly Route[] = [
  route({
    method: 'POST',
    path: '/edit/v1/session',
    summary: 'Signs in: a cookie for browsers, or a `token` for programs.',
    permission: 'anyone',
    guarded: ({ email }) => email.trim().toLowerCase(),
    body: z.strictObject({
      email: z.string().max(254),
      password: z.string().max(1000),
      as: z.enum(['cookie', 'token']).default('cookie'),
    }),
    handle: async (request) => {
      const { kernel, body } = request
      const account = await accountWithEmail(kernel.database, body.email.trim().toLowerCase())
      const isRight = await isPassword(body.password, account?.passwordHash ?? (await decoy))
      if (!account || !isRight) throw new WisteriaError('unauthenticated', 'E-mail or password is wrong.')
      if (account.disabledAt !== null)
        throw new WisteriaError('forbidden', 'This account is disabled. Ask an owner of the site to enable it.')
      return openSession(request, account.id, body.as)
    },
  }),
  route({
    method: 'GET',
    path: '/edit/v1/session',
    summary: 'Who you are, and the sites that you are a member of.',
    permission: 'signedIn',
    handle: async ({ kernel, caller }) => ({
      body: await accountView(kernel, caller.is === 'member' ? caller.account : ''),
    }),
  }),
  route({
    method: 'DELETE',
    path: '/edit/v1/session',
    summary: 'Signs out: the session ends at once.',
    permission: 'signedIn',
    handle: async (request: Request) => {
      const hash = sessionHash(request.headers)
      await request.kernel.database.write((transaction) => deleteSession(transaction, hash))
      return { status: 204, headers: { 'Set-Cookie': cookieText(request.kernel, '', 0) } }
    },
  }),
]
