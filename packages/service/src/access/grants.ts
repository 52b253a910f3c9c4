import { decide, WisteriaError } from '@wisteria/core'
import {
  grantWithIssuer,
  initServiceValue,
  insertGrant,
  insertPreviewCode,
  markPreviewCodeUsed,
  previewCodeWithHash,
  serviceValue,
  type Site,
} from '@wisteria/store'
import { makeId } from '@wisteria/core'
import { jwtVerify, SignJWT } from 'jose'
import type { Kernel } from '../kernel/kernel.js'
import { callerOfAccount, type Identified } from './memberships.js'
import { digest, makeSecret } from './secrets.js'

const codeSeconds = 60
const grantHours = 12

/** A single-use code for a front end's server, which exchanges it for a grant within the minute. */
export async function issueCode(kernel: Kernel, site: Site, frontEnd: string, account: string): Promise<string> {
  const code = makeSecret()
  await kernel.database.write((transaction) =>
    insertPreviewCode(transaction, {
      hash: digest(code),
      site: site.id,
      frontEnd,
      account,
      expiresAt: new Date(kernel.now + codeSeconds * 1000).toISOString(),
      usedAt: null,
    }),
  )
  return code
}

export interface Grant {
  /** A signed token (JWT, RFC 7519). */
  readonly grant: string
  /** ISO instant. */
  readonly expiresAt: string
}

/** Exchanges a code for a grant: a signed right to the site's drafts, registered so that it can be revoked. */
export async function exchangeCode(kernel: Kernel, site: Site, code: string): Promise<Grant> {
  const id = makeId(kernel.environment)
  const expires = kernel.now + grantHours * 3_600_000
  const expiresAt = new Date(expires).toISOString()
  await kernel.database.write(async (transaction) => {
    const issued = await previewCodeWithHash(transaction, digest(code))
    if (!issued || issued.site !== site.id || issued.usedAt !== null || issued.expiresAt <= kernel.at)
      throw new WisteriaError(
        'forbidden',
        'This preview code is not known, was used, or is older than a minute. Open the preview again.',
      )
    await markPreviewCodeUsed(transaction, issued.hash, kernel.at)
    const { frontEnd, account } = issued
    await insertGrant(transaction, {
      id,
      site: site.id,
      frontEnd,
      account,
      createdAt: kernel.at,
      expiresAt,
      revokedAt: null,
    })
  })
  const grant = await new SignJWT({ edition: 'draft' })
    .setProtectedHeader({ alg: 'HS256' })
    .setJti(id)
    .setAudience(site.name)
    .setIssuedAt(Math.floor(kernel.now / 1000))
    .setExpirationTime(Math.floor(expires / 1000))
    .sign(await signingKey(kernel))
  return { grant, expiresAt }
}

/** The caller of a grant. It has no more rights than its issuer has now, and ends with them. */
export async function readGrant(kernel: Kernel, token: string, site: Site | undefined): Promise<Identified> {
  const refused = () =>
    new WisteriaError('unauthenticated', 'This preview grant is not valid (any more). Open the preview again.')
  const { payload } = await jwtVerify(token, await signingKey(kernel), {
    algorithms: ['HS256'],
    currentDate: new Date(kernel.now),
  }).catch(() => {
    throw refused()
  })
  const grant = await grantWithIssuer(kernel.database, payload.jti ?? '')
  if (!grant || grant.revokedAt !== null || grant.expiresAt <= kernel.at) throw refused()
  if (site && grant.site !== site.id)
    throw new WisteriaError('forbidden', 'This preview grant belongs to another site.')
  const identified: Identified = { caller: { is: 'grant', grant: grant.id }, actor: `grant:${grant.id}` }
  // Outside a site a grant shows nothing; routes that are open to everybody are open to it.
  if (!site) return identified
  const issuer = await callerOfAccount(kernel, grant.issuer, site)
  if (!decide(issuer, 'draft.read').allowed) throw refused()
  return identified
}

/** The service's own signing key: made at the first use, kept in its database. */
async function signingKey(kernel: Kernel): Promise<Uint8Array> {
  const find = () => serviceValue(kernel.database, 'grantKey')
  let grant = await find()
  if (grant === undefined) {
    await kernel.database.write((transaction) => initServiceValue(transaction, 'grantKey', makeSecret()))
    grant = await find()
  }
  return Buffer.from(grant!, 'base64url')
}
