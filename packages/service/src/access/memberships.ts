import type { Caller, Role } from '@wisteria/core'
import {
  membershipOf,
  membershipsOf,
  siteWithId,
  type Account,
  type Membership,
  type Reader,
  type Site,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'

/** The caller of a request, to decide and to record. */
export interface Identified {
  readonly caller: Caller
  readonly actor: string
}

/** The part of an account that decides about its rights. */
export type AccountRights = Pick<Account, 'id' | 'isOperator' | 'disabledAt'>

/** An account as a caller on a site. */
export async function callerOfAccount(
  kernel: Kernel,
  account: AccountRights,
  site: Site | undefined,
): Promise<Caller & { is: 'member' }> {
  const membership = site && (await membershipOf(kernel.database, account.id, site.id))
  return callerFrom(account, membership)
}

/**
 * The caller made of an account and its membership of the site, if it has one. A disabled account has no rights, also in a session,
 * a grant or a schedule of its own.
 */
export const callerFrom = (account: AccountRights, membership: Membership | undefined): Caller & { is: 'member' } => ({
  is: 'member',
  account: account.id,
  operator: account.isOperator && account.disabledAt === null,
  role: account.disabledAt === null ? (membership?.role as Role | undefined) : undefined,
  locales: membership?.locales ?? undefined,
  regions: membership?.regions ?? undefined,
})

/** The sites that an account is a member of, with its role. */
export async function sitesOf(reader: Reader, account: string) {
  const memberships = await membershipsOf(reader, account)
  return Promise.all(
    memberships.map(async ({ site: id, role, locales, regions }) => {
      const site = await siteWithId(reader, id)
      return { name: site.name, label: site.settings.label, role, locales, regions }
    }),
  )
}
