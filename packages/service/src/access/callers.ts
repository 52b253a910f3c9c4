import type { IncomingHttpHeaders } from 'node:http'
import { parse } from 'cookie'
import { WisteriaError, type KeyScope } from '@wisteria/core'
import { keyWithPrefix, noteKeyUse, noteSessionUse, signedInBy, type Site, type Transaction } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { readGrant } from './grants.js'
import { callerFrom, type Identified } from './memberships.js'
import { secretMark } from '../kernel/secretMark.js'
import { digest, sameDigest } from './secrets.js'

export const sessionCookie = 'wisteria_session'

/** The start of every access key, so that a leaked one can be recognised. */
export const keyMark = 'wk_'

/** The start of every session's token, which is random: without it, one token in 64³ would look like an access key. */
export const sessionMark = 'ws_'

const nobody: Identified = { caller: { is: 'nobody' }, actor: 'nobody' }

/** The caller of a request: a session (cookie or token), an access key, or a preview grant. */
export async function identify(
  kernel: Kernel,
  headers: IncomingHttpHeaders,
  method: string,
  site: Site | undefined,
): Promise<Identified> {
  const bearer = /^Bearer +(\S+)$/i.exec(headers.authorization ?? '')?.[1]
  if (headers.authorization !== undefined && bearer === undefined)
    throw new WisteriaError(
      'unauthenticated',
      'The Authorization header must be `Bearer` and an access key or token (RFC 6750).',
    )
  if (bearer?.startsWith(keyMark)) return keyCaller(kernel, bearer, site)
  // Of an address for messages, which looks at it itself.
  if (bearer?.startsWith(secretMark)) return nobody
  if (bearer?.includes('.')) return readGrant(kernel, bearer, site)
  const cookie = bearer === undefined ? readCookie(headers.cookie, sessionCookie) : undefined
  if (cookie !== undefined && !['GET', 'HEAD'].includes(method)) refuseForgery(headers)
  const token = bearer ?? cookie
  if (token === undefined) return nobody
  const caller = await memberCaller(kernel, token, site)
  if (!caller && bearer !== undefined)
    throw new WisteriaError('unauthenticated', 'This session has ended. Sign in again.')
  return caller ?? nobody
}

async function memberCaller(kernel: Kernel, token: string, site: Site | undefined): Promise<Identified | undefined> {
  const hash = digest(token)
  const session = await signedInBy(kernel.database, hash, site?.id)
  if (!session || session.expiresAt <= kernel.at || session.account.disabledAt !== null) return undefined
  if (isNewHour(session.seenAt, kernel.now)) note(kernel, (transaction, at) => noteSessionUse(transaction, hash, at))
  return { caller: callerFrom(session.account, session.membership), actor: `account:${session.account.id}` }
}

async function keyCaller(kernel: Kernel, secret: string, site: Site | undefined): Promise<Identified> {
  const prefix = secret.slice(0, keyMark.length + 8)
  const key = await keyWithPrefix(kernel.database, prefix)
  if (!key || !sameDigest(key.hash, digest(secret)) || key.revokedAt !== null)
    throw new WisteriaError('unauthenticated', 'This access key is not known, or was revoked.')
  if (site && key.site !== site.id) throw new WisteriaError('forbidden', 'This access key belongs to another site.')
  if (isNewHour(key.lastUsedAt, kernel.now)) note(kernel, (transaction, at) => noteKeyUse(transaction, key.id, at))
  return { caller: { is: 'key', key: key.id, scope: key.scope as KeyScope }, actor: `key:${key.id}` }
}

/** Whether a use is to be noted: that is done to the hour. */
const isNewHour = (last: string | null, now: number): boolean => last === null || Date.parse(last) < now - 3_600_000

/** Notes a use beside the request, which does not wait for it. */
function note(kernel: Kernel, work: (transaction: Transaction, at: string) => Promise<void>): void {
  const { at } = kernel
  void kernel.database
    .write((transaction) => work(transaction, at))
    .catch((error: unknown) => kernel.logger.warn(error))
}

/** Browsers send a cookie with every request, so a change must come from a page of ours. */
function refuseForgery(headers: IncomingHttpHeaders): void {
  const origin = headers.origin
  const fetchSite = headers['sec-fetch-site']
  if (
    fetchSite !== undefined
      ? fetchSite === 'same-origin' || fetchSite === 'none'
      : origin === undefined || hostOf(origin) === headers.host
  )
    return
  throw new WisteriaError('forbidden', 'This request comes from a page of another site.')
}

function hostOf(origin: string): string | undefined {
  try {
    return new URL(origin).host
  } catch {
    return undefined
  }
}

export const readCookie = (header: string | undefined, name: string): string | undefined =>
  header === undefined ? undefined : parse(header)[name]

/** The digest of the token of a request's session. */
export const sessionHash = (headers: IncomingHttpHeaders): string =>
  digest(/^Bearer +(\S+)$/i.exec(headers.authorization ?? '')?.[1] ?? readCookie(headers.cookie, sessionCookie) ?? '')
