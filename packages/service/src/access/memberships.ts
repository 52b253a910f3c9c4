import type { Caller, Role } from '@wisteria/core'
import { siteWithId, type AccountRow, type MembershipRow, type Reader, type Site } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'

/** Who a request comes from, for deciding and for the record. */
export interface Identified {
  readonly caller: Caller
  readonly actor: string
}

/** What of an account decides what it may do. */
export type AccountRights = Pick<AccountRow, 'id' | 'operator' | 'disabled_at'>

/** An account as a caller on a site. */
export async function callerOfAccount(
  kernel: Kernel,
  account: AccountRights,
  site: Site | undefined,
): Promise<Caller & { is: 'member' }> {
  const membership = site
    ? (
        await kernel.database.all<Pick<MembershipRow, 'role' | 'locales'>>(
          'select role, locales from memberships where account = ? and site = ?',
          [account.id, site.id],
        )
      )[0]
    : undefined
  return callerFrom(account, membership)
}

/**
 * A caller from an account and its membership of the site in question, if it has one. A disabled account has no rights left,
 * wherever it is asked for: in a session, a grant or something that it scheduled.
 */
export const callerFrom = (
  account: AccountRights,
  membership: { readonly role: string | null; readonly locales: string | null } | undefined,
): Caller & { is: 'member' } => ({
  is: 'member',
  account: account.id,
  operator: account.operator === 1 && account.disabled_at === null,
  role: account.disabled_at === null ? ((membership?.role ?? undefined) as Role | undefined) : undefined,
  locales: membership?.locales ? (JSON.parse(membership.locales) as string[]) : undefined,
})

/** The sites that an account is a member of, with its role. */
export async function sitesOf(reader: Reader, account: string) {
  const rows = await reader.all<{ site: string; role: string; locales: string | null }>(
    'select m.site, m.role, m.locales from memberships m join sites s on s.id = m.site where m.account = ? order by s.name',
    [account],
  )
  return Promise.all(
    rows.map(async ({ site: id, role, locales }) => {
      const site = await siteWithId(reader, id)
      return {
        name: site.name,
        label: site.settings.label,
        role,
        locales: locales ? (JSON.parse(locales) as string[]) : null,
      }
    }),
  )
}
