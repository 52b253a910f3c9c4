import {
  localeTags,
  mayGrant,
  regionNames,
  roles,
  WisteriaError,
  type Caller,
  type Role,
  type SiteSettings,
} from '@wisteria/core'
import {
  accountWithEmail,
  changeMembership,
  deleteInvitationOf,
  deleteMembership,
  deletePasswordLinks,
  hasMemberWithRole,
  insertMembership,
  membershipOf,
  membersOf,
  siteWithId,
  type Member,
  type Reader,
  type Transaction,
} from '@wisteria/store'
import { z } from 'zod'
import { createAccount, email, password, personName } from './accounts.js'
import { route, type Route } from '../kernel/route.js'
import { hashPassword } from './secrets.js'

const base = '/edit/v1/sites/{site}/members'

/** A membership as a request sends it. */
export const membershipBody = {
  role: z.enum(roles),
  locales: z.array(z.string()).min(1, 'names at least one locale, or is left out').nullable().optional(),
  regions: z.array(z.string()).min(1, 'names at least one region, or is left out').nullable().optional(),
}

const memberView = ({ account, email, name, role, locales, regions }: Member) => ({
  account,
  email,
  name,
  role: role as Role,
  locales,
  regions,
})

const memberWith = async (reader: Reader, site: string, account: string) =>
  memberView((await membersOf(reader, site)).find((member) => member.account === account)!)

/** @throws WisteriaError `forbidden`. */
export function requireGrantable(caller: Caller, role: Role): void {
  if (caller.is === 'member' && caller.role && !mayGrant(caller.role, role))
    throw new WisteriaError('forbidden', `The role ${caller.role} cannot grant the role ${role}.`)
}

async function requireOwnerLeft(transaction: Transaction, site: string): Promise<void> {
  if (!(await hasMemberWithRole(transaction, site, 'owner')))
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
      'Makes somebody a member. `password` and `name` create an account, when the service has none for the e-mail.',
    permission: 'member.manage',
    body: z.strictObject({ email, name: personName.optional(), password: password.optional(), ...membershipBody }),
    handle: async (request) => {
      const { email: address, name, password: chosen, ...limited } = request.body
      const { role } = limited
      requireGrantable(request.caller, role)
      const passwordHash = chosen === undefined ? undefined : await hashPassword(chosen)
      return request.write(async (transaction) => {
        const existing = await accountWithEmail(transaction, address)
        if (existing && passwordHash)
          throw new WisteriaError('conflict', `There is an account for ${address} already: leave \`password\` out.`)
        if (!existing && (!passwordHash || !name))
          throw new WisteriaError(
            'invalid',
            `There is no account for ${address} yet: send \`name\` and \`password\` to make one.`,
          )
        const account =
          existing?.id ??
          (await createAccount(request.kernel, transaction, {
            email: address,
            name: name!,
            passwordHash: passwordHash!,
            operator: false,
          }))
        if (await membershipOf(transaction, account, request.site.id))
          throw new WisteriaError('conflict', `${address} is a member already.`)
        requireKnownLimits(request.site.settings, limited)
        // The author of a password link may no longer manage the account.
        await deletePasswordLinks(transaction, account)
        await deleteInvitationOf(transaction, request.site.id, address)
        await insertMembership(transaction, account, request.site.id, limited, request.kernel.at)
        return { status: 201, body: await memberWith(transaction, request.site.id, account) }
      })
    },
  }),
  route({
    method: 'PUT',
    path: `${base}/{account}`,
    summary: "Changes a member's role and limits.",
    permission: 'member.manage',
    body: z.strictObject(membershipBody),
    handle: (request) =>
      request.write(async (transaction) => {
        requireGrantable(request.caller, request.body.role)
        const site = await siteWithId(transaction, request.site.id)
        requireKnownLimits(site.settings, request.body)
        const account = request.params['account']!
        await requireMember(transaction, site.id, account)
        await changeMembership(transaction, account, site.id, request.body)
        await requireOwnerLeft(transaction, site.id)
        return { body: await memberWith(transaction, site.id, account) }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{account}`,
    summary: 'Ends a membership. The account stays.',
    permission: 'member.manage',
    handle: (request) =>
      request.write(async (transaction) => {
        const account = request.params['account']!
        await requireMember(transaction, request.site.id, account)
        await deleteMembership(transaction, account, request.site.id)
        await requireOwnerLeft(transaction, request.site.id)
        return { status: 204 }
      }),
  }),
]

async function requireMember(transaction: Transaction, site: string, account: string): Promise<void> {
  if (!(await membershipOf(transaction, account, site)))
    throw new WisteriaError('notFound', `No member of this site has the account \`${account.slice(0, 60)}\`.`)
}

/** @throws WisteriaError `invalid` where a membership is limited to a locale or a region that the site does not have. */
export function requireKnownLimits(
  settings: SiteSettings,
  {
    locales,
    regions,
  }: {
    readonly locales?: readonly string[] | null | undefined
    readonly regions?: readonly string[] | null | undefined
  },
): void {
  const refuse = (what: string, offered: readonly string[], names: readonly string[] | null | undefined): void => {
    const unknown = names?.find((name) => !offered.includes(name))
    if (unknown !== undefined)
      throw new WisteriaError(
        'invalid',
        `\`${unknown.slice(0, 60)}\` is not a ${what} of this site (${offered.join(', ')}).`,
      )
  }
  refuse('locale', localeTags(settings), locales)
  refuse('region', regionNames(settings), regions)
}
