import type { Reader, Transaction } from '../connection/reader.js'

/** The role and the limits of an account on a site. */
export interface Membership {
  readonly role: string
  /** The locales that they are limited to; null where they are not. */
  readonly locales: readonly string[] | null
  /** The regions that they are limited to, by name; null where they are not. */
  readonly regions: readonly string[] | null
}

/** A member of a site, as others see them. */
export interface Member extends Membership {
  readonly account: string
  readonly email: string
  readonly name: string
}

/** A limit as it is stored: a JSON list, or null for none. */
const limitFrom = (text: string | null): string[] | null => (text ? (JSON.parse(text) as string[]) : null)
export const limitText = (names: readonly string[] | null | undefined): string | null =>
  names ? JSON.stringify(names) : null

/** The limits of a membership in a row. */
export const limitsFrom = (row: {
  readonly locales: string | null
  readonly regions: string | null
}): Pick<Membership, 'locales' | 'regions'> => ({ locales: limitFrom(row.locales), regions: limitFrom(row.regions) })

/** A membership as it is to be. */
interface Wanted {
  readonly role: string
  readonly locales?: readonly string[] | null | undefined
  readonly regions?: readonly string[] | null | undefined
}

export async function membershipOf(reader: Reader, account: string, site: string): Promise<Membership | undefined> {
  const [row] = await reader.all<{ role: string; locales: string | null; regions: string | null }>(
    'select role, locales, regions from memberships where account = ? and site = ?',
    [account, site],
  )
  return row && { role: row.role, ...limitsFrom(row) }
}

/** The memberships of an account with the ids of their sites, by the names of these. */
export async function membershipsOf(
  reader: Reader,
  account: string,
): Promise<(Membership & { readonly site: string })[]> {
  const rows = await reader.all<{ site: string; role: string; locales: string | null; regions: string | null }>(
    'select m.site, m.role, m.locales, m.regions from memberships m join sites s on s.id = m.site where m.account = ? order by s.name',
    [account],
  )
  return rows.map((row) => ({ ...row, ...limitsFrom(row) }))
}

/** The members of a site, by name. */
export async function membersOf(reader: Reader, site: string): Promise<Member[]> {
  const rows = await reader.all<{
    account: string
    email: string
    name: string
    role: string
    locales: string | null
    regions: string | null
  }>(
    `select a.id as account, a.email, a.name, m.role, m.locales, m.regions from memberships m join accounts a on a.id = m.account
     where m.site = ? order by a.name, a.id`,
    [site],
  )
  return rows.map((row) => ({ ...row, ...limitsFrom(row) }))
}

/** Whether any member of a site has a role. */
export async function hasMemberWithRole(reader: Reader, site: string, role: string): Promise<boolean> {
  return (await reader.all('select 1 from memberships where site = ? and role = ? limit 1', [site, role])).length > 0
}

export async function insertMembership(
  transaction: Transaction,
  account: string,
  site: string,
  { role, locales, regions }: Wanted,
  at: string,
): Promise<void> {
  await transaction.tables.memberships.create({
    account,
    site,
    role,
    locales: limitText(locales),
    regions: limitText(regions),
    created_at: at,
  })
}

export async function changeMembership(
  transaction: Transaction,
  account: string,
  site: string,
  { role, locales, regions }: Wanted,
): Promise<void> {
  await transaction.run('update memberships set role = ?, locales = ?, regions = ? where account = ? and site = ?', [
    role,
    limitText(locales),
    limitText(regions),
    account,
    site,
  ])
}

export async function deleteMembership(transaction: Transaction, account: string, site: string): Promise<void> {
  await transaction.run('delete from memberships where account = ? and site = ?', [account, site])
}
