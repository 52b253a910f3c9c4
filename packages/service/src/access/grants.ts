import { decide, WisteriaError } from '@wisteria/core'
import type { AccountRow, GrantRow, PreviewCodeRow, Site } from '@wisteria/store'
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
  await kernel.database.write(async ({ tables }) => {
    await tables.preview_codes.create({
      hash: digest(code),
      site: site.id,
      front_end: frontEnd,
      account,
      expires_at: new Date(kernel.now + codeSeconds * 1000).toISOString(),
      used_at: null,
    })
  })
  return code
}

export interface Grant {
  /** A signed token (JWT, RFC 7519). */
  readonly grant: string
  /** ISO instant. */
  readonly expiresAt: string
}

/** Takes a code for a grant: a signed right to the site's drafts, registered so that it can be revoked. */
export async function exchangeCode(kernel: Kernel, site: Site, code: string): Promise<Grant> {
  const id = makeId(kernel.environment)
  const expires = kernel.now + grantHours * 3_600_000
  const expiresAt = new Date(expires).toISOString()
  await kernel.database.write(async ({ tables, run, all }) => {
    const [row] = await all<PreviewCodeRow>('select * from preview_codes where hash = ?', [digest(code)])
    if (!row || row.site !== site.id || row.used_at !== null || row.expires_at <= kernel.at)
      throw new WisteriaError(
        'forbidden',
        'This preview code is not known, was used, or is older than a minute. Open the preview again.',
      )
    await run('update preview_codes set used_at = ? where hash = ?', [kernel.at, row.hash])
    await tables.grants.create({
      id,
      site: site.id,
      front_end: row.front_end,
      account: row.account,
      created_at: kernel.at,
      expires_at: expiresAt,
      revoked_at: null,
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

/** The caller that a grant stands for. It is worth no more than its issuer's own rights, and ends with them. */
export async function readGrant(kernel: Kernel, token: string, site: Site | undefined): Promise<Identified> {
  const refused = () =>
    new WisteriaError('unauthenticated', 'This preview grant is not valid (any more). Open the preview again.')
  const { payload } = await jwtVerify(token, await signingKey(kernel), {
    algorithms: ['HS256'],
    currentDate: new Date(kernel.now),
  }).catch(() => {
    throw refused()
  })
  const [row] = await kernel.database.all<GrantRow & Pick<AccountRow, 'operator' | 'disabled_at'>>(
    'select g.*, a.operator, a.disabled_at from grants g join accounts a on a.id = g.account where g.id = ?',
    [payload.jti ?? ''],
  )
  if (!row || row.revoked_at !== null || row.expires_at <= kernel.at) throw refused()
  if (site && row.site !== site.id) throw new WisteriaError('forbidden', 'This preview grant belongs to another site.')
  // Outside a site there is nothing that it could show; what is open to everybody is open to it.
  if (!site) return { caller: { is: 'grant', grant: row.id }, actor: `grant:${row.id}` }
  const issuer = await callerOfAccount(kernel, { ...row, id: row.account }, site)
  if (!decide(issuer, 'draft.read').allowed) throw refused()
  return { caller: { is: 'grant', grant: row.id }, actor: `grant:${row.id}` }
}

/** The service's own signing key: made at the first use, kept in its database. */
async function signingKey(kernel: Kernel): Promise<Uint8Array> {
  const find = () => kernel.database.all<{ value: string }>("select value from service where name = 'grantKey'")
  const [known] = await find()
  if (known) return Buffer.from(known.value, 'base64url')
  await kernel.database.write(({ run }) =>
    run("insert into service (name, value) values ('grantKey', ?) on conflict do nothing", [makeSecret()]),
  )
  return Buffer.from((await find())[0]!.value, 'base64url')
}
