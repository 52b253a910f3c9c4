import { mayGrant, roles, WisteriaError, type Caller, type Role } from '@wisteria/core'
import { siteWithId, type Reader, type Transaction } from '@wisteria/store'
import { z } from 'zod'
import { createAccount, email, password, personName } from './accounts.js'
import { route, type Route } from '../kernel/route.js'
import { hashPassword } from './secrets.js'

const base = '/edit/v1/sites/{site}/members'

const membership = {
  role: z.enum(roles),
  locales: z.array(z.string()).min(1, 'names at least one locale, or is left out').nullable().optional(),
}

interface MemberRow {
  readonly id: string
  readonly email: string
  readonly name: string
  readonly role: string
  readonly locales: string | null
}

const memberView = (row: MemberRow) => ({
  account: row.id,
  email: row.email,
  name: row.name,
  role: row.role as Role,
  locales: row.locales ? (JSON.parse(row.locales) as string[]) : null,
})

const membersOf = (reader: Reader, site: string) =>
  reader.all<MemberRow>(
    'select a.id, a.email, a.name, m.role, m.locales from memberships m join accounts a on a.id = m.account where m.site = ? order by a.name, a.id',
    [site],
  )

function requireGrantable(caller: Caller, role: Role): void {
  if (caller.is === 'member' && caller.role && !mayGrant(caller.role, role))
    throw new WisteriaError('forbidden', `The role ${caller.role} cannot give out the role ${role}.`)
}

async function requireOwnerLeft(transaction: Transaction, site: string): Promise<void> {
  const owners = await transaction.all("select 1 from memberships where site = ? and role = 'owner'", [site])
  if (owners.length === 0)
    throw new WisteriaError('conflict', 'A site keeps at least one owner. Make somebody else owner first.')
}

export const memberRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The members of a site with their roles and limits.',
    permission: 'member.read',
    handle: async ({ kernel, site }) => ({
      body: { members: (await membersOf(kernel.database, site.id)).map(memberView) },
    }),
  }),
  route({
    method: 'POST',
    path: base,
    summary:
      'Makes somebody a member. `password` and `name` make their account, when the service has none for the e-mail.',
    permission: 'member.manage',
    body: z.strictObject({ email, name: personName.optional(), password: password.optional(), ...membership }),
    handle: async (request) => {
      const { email: address, name, password: chosen, role, locales } = request.body
      requireGrantable(request.caller, role)
      const passwordHash = chosen === undefined ? undefined : await hashPassword(chosen)
      return request.write(async (transaction) => {
        const [known] = await transaction.all<{ id: string }>('select id from accounts where email = ?', [address])
        if (known && passwordHash)
          throw new WisteriaError('conflict', `There is an account for ${address} already: leave \`password\` out.`)
        if (!known && (!passwordHash || !name))
          throw new WisteriaError(
            'invalid',
            `There is no account for ${address} yet: send \`name\` and \`password\` to make one.`,
          )
        const account =
          known?.id ??
          (await createAccount(request.kernel, transaction, {
            email: address,
            name: name!,
            passwordHash: passwordHash!,
            operator: false,
          }))
        if (
          (
            await transaction.all('select 1 from memberships where account = ? and site = ?', [
              account,
              request.site.id,
            ])
          ).length > 0
        )
          throw new WisteriaError('conflict', `${address} is a member already.`)
        requireKnownLocales(
          request.site.settings.locales.map(({ tag }) => tag),
          locales,
        )
        // Whoever made a link for it may not manage it any more.
        await transaction.run('delete from password_links where account = ?', [account])
        await transaction.tables.memberships.create({
          account,
          site: request.site.id,
          role,
          locales: locales ? JSON.stringify(locales) : null,
          created_at: request.kernel.at,
        })
        return {
          status: 201,
          body: memberView((await membersOf(transaction, request.site.id)).find((row) => row.id === account)!),
        }
      })
    },
  }),
  route({
    method: 'PUT',
    path: `${base}/{account}`,
    summary: "Changes a member's role and limits.",
    permission: 'member.manage',
    body: z.strictObject(membership),
    handle: (request) =>
      request.write(async (transaction) => {
        const { role, locales } = request.body
        requireGrantable(request.caller, role)
        const site = await siteWithId(transaction, request.site.id)
        requireKnownLocales(
          site.settings.locales.map(({ tag }) => tag),
          locales,
        )
        const account = request.params['account']!
        await requireMember(transaction, site.id, account)
        await transaction.run('update memberships set role = ?, locales = ? where account = ? and site = ?', [
          role,
          locales ? JSON.stringify(locales) : null,
          account,
          site.id,
        ])
        await requireOwnerLeft(transaction, site.id)
        return { body: memberView((await membersOf(transaction, site.id)).find((row) => row.id === account)!) }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{account}`,
    summary: 'Ends a membership. The account stays.',
    permission: 'member.manage',
    handle: (request) =>
      request.write(async (transaction) => {
        await requireMember(transaction, request.site.id, request.params['account']!)
        await transaction.run('delete from memberships where account = ? and site = ?', [
          request.params['account']!,
          request.site.id,
        ])
        await requireOwnerLeft(transaction, request.site.id)
        return { status: 204 }
      }),
  }),
]

async function requireMember(transaction: Transaction, site: string, account: string): Promise<void> {
  if ((await transaction.all('select 1 from memberships where account = ? and site = ?', [account, site])).length === 0)
    throw new WisteriaError('notFound', `No member of this site has the account \`${account.slice(0, 60)}\`.`)
}

function requireKnownLocales(known: readonly string[], locales: readonly string[] | null | undefined): void {
  const unknown = locales?.find((locale) => !known.includes(locale))
  if (unknown !== undefined)
    throw new WisteriaError('invalid', `\`${unknown}\` is not a locale of this site (${known.join(', ')}).`)
}
