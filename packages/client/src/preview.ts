import { call, segment, type Connection } from './transport.js'

/** A right to see a site's drafts, for a while. Keep it in an HttpOnly cookie, never in an address. */
export interface PreviewGrant {
  readonly grant: string
  /** ISO instant. */
  readonly expiresAt: string
}

/** Exchanges the single-use code that a preview address carried, on the front end's server and within the minute. */
export async function exchangePreviewCode(
  connection: Connection & { readonly site: string },
  code: string,
): Promise<PreviewGrant> {
  return (
    await call<PreviewGrant>(connection, {
      method: 'POST',
      path: `/read/v1/${segment(connection.site)}/grants`,
      body: { code },
    })
  ).body
}

export interface CookieOptions {
  readonly name: string
  /** Left out, the cookie is removed. */
  readonly grant?: PreviewGrant
}

/** The `Set-Cookie` header that keeps a grant: usable inside the console's frame, and by nothing but the front end's server. */
export function previewCookie({ name, grant }: CookieOptions): string {
  const life = grant ? Math.max(0, Math.floor((Date.parse(grant.expiresAt) - Date.now()) / 1000)) : 0
  return `${name}=${grant?.grant ?? ''}; Path=/; Max-Age=${life}; HttpOnly; Secure; SameSite=None; Partitioned`
}
