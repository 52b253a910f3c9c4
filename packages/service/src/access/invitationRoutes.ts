import { makeId, WisteriaError, type Role } from '@wisteria/core'
import {
  accountWithEmail,
  accountWithId,
  deleteInvitation,
  deleteInvitationOf,
  deletePasswordLinks,
  insertMembership,
  invitationsTo,
  invitationWithHash,
  membershipOf,
  siteWithId,
  storeInvitation,
  type Invitation,
  type Reader,
} from '@wisteria/store'
import { z } from 'zod'
import { route, type Route } from '../kernel/route.js'
import { createAccount, email, password, personName } from './accounts.js'
import { membershipBody, requireGrantable, requireKnownLimits } from './memberRoutes.js'
import { digest, hashPassword, isPassword, makeSecret } from './secrets.js'
import { openSession } from './sessionRoutes.js'

const base = '/edit/v1/sites/{site}/invitations'

/** How long an invitation is good, in days. */
const invitationDays = 7

const invitationView = ({ id, email, role, locales, regions, createdAt, createdBy, expiresAt }: Invitation) => ({
  id,
  email,
  role: role as Role,
  locales,
  regions,
  createdAt,
  createdBy,
  expiresAt,
})

/**
 * The invitation of a code that is still good.
 * @throws WisteriaError `forbidden`.
 */
async function requireInvitation(reader: Reader, code: string, at: string): Promise<Invitation> {
  const invitation = await invitationWithHash(reader, digest(code))
  if (invitation && invitation.expiresAt > at) return invitation
  throw new WisteriaError(
    'forbidden',
    `This invitation is unknown, was used or revoked, or is older than ${invitationDays} days. Ask for a new one.`,
  )
}

const code = z.string().max(200)

/** Inviting people to a site by a one-time link, and accepting an invitation. */
export const invitationRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'Open invitations to the site, and for a month those whose link has expired.',
    permission: 'member.read',
    handle: async ({ kernel, site }) => ({
      body: { invitations: (await invitationsTo(kernel.database, site.id)).map(invitationView) },
    }),
  }),
  route({
    method: 'POST',
    path: base,
    summary: `Invites somebody by a one-time link, valid for ${invitationDays} days. Only this answer contains its \`address\`; an earlier link to the same e-mail stops working.`,
    permission: 'member.manage',
    body: z.strictObject({ email, ...membershipBody }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, site, body, caller, actor } = request
        requireGrantable(caller, body.role)
        requireKnownLimits(site.settings, body)
        const account = await accountWithEmail(transaction, body.email)
        if (account && (await membershipOf(transaction, account.id, site.id)))
          throw new WisteriaError('conflict', `${body.email} is a member already.`)
        const secret = makeSecret()
        const invitation: Invitation = {
          id: makeId(kernel.environment),
          site: site.id,
          email: body.email,
          role: body.role,
          locales: body.locales ?? null,
          regions: body.regions ?? null,
          hash: digest(secret),
          createdAt: kernel.at,
          createdBy: actor,
          expiresAt: new Date(kernel.now + invitationDays * 86_400_000).toISOString(),
        }
        await storeInvitation(transaction, invitation)
        const address = `${kernel.baseUrl}/console/invitation#${secret}`
        return { status: 201, body: { ...invitationView(invitation), address } }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{invitation}`,
    summary: 'Revokes an invitation: its link stops working.',
    permission: 'member.manage',
    handle: (request) =>
      request.write(async (transaction) => {
        const id = request.params['invitation']!
        if (!(await deleteInvitation(transaction, request.site.id, id)))
          throw new WisteriaError('notFound', `There is no invitation \`${id.slice(0, 60)}\`.`)
        return { status: 204 }
      }),
  }),
  route({
    method: 'POST',
    path: '/edit/v1/invitation',
    summary: 'The site and role of an invitation, by the code in its link. Changes nothing.',
    permission: 'anyone',
    guarded: () => 'invitation',
    body: z.strictObject({ code }),
    handle: async ({ kernel, body }) => {
      const invitation = await requireInvitation(kernel.database, body.code, kernel.at)
      const site = await siteWithId(kernel.database, invitation.site)
      return {
        body: {
          email: invitation.email,
          role: invitation.role as Role,
          locales: invitation.locales,
          regions: invitation.regions,
          site: { name: site.name, label: site.settings.label },
          hasAccount: (await accountWithEmail(kernel.database, invitation.email)) !== undefined,
          expiresAt: invitation.expiresAt,
        },
      }
    },
  }),
  route({
    method: 'POST',
    path: '/edit/v1/invitation/accept',
    summary:
      'Makes somebody a member by the code in their link, and signs them in. A new person sends a `name` and a new `password`; somebody with an account sends its `password`, or is signed in with it.',
    permission: 'anyone',
    guarded: () => 'invitation',
    body: z.strictObject({
      code,
      name: personName.optional(),
      password: z.string().max(1000).optional(),
      as: z.enum(['cookie', 'token']).default('cookie'),
    }),
    handle: async (request) => {
      const { kernel, caller, body } = request
      const { email: invited } = await requireInvitation(kernel.database, body.code, kernel.at)
      const before = await accountWithEmail(kernel.database, invited)
      const isSignedIn = caller.is === 'member' && caller.account === before?.id
      // Hashing is expensive: it is done outside the transaction, and only for a valid code.
      if (before && !isSignedIn && !(await isPassword(body.password ?? '', before.passwordHash)))
        throw new WisteriaError(
          'forbidden',
          `There is an account for ${invited}: send its password, or sign in with it.`,
        )
      if (before?.disabledAt) throw new WisteriaError('forbidden', `The account ${invited} is disabled.`)
      const chosen = before ? undefined : requireNewAccount(body)
      const passwordHash = chosen && (await hashPassword(chosen.password))
      const account = await kernel.write(async (transaction) => {
        const invitation = await requireInvitation(transaction, body.code, kernel.at)
        const now = await accountWithEmail(transaction, invited)
        if (!before && now) throw new WisteriaError('conflict', `There is an account for ${invited} now. Try again.`)
        const id =
          now?.id ??
          (await createAccount(kernel, transaction, {
            email: invited,
            name: chosen!.name,
            passwordHash: passwordHash!,
            operator: false,
          }))
        // The author of a password link may no longer manage the account.
        await deletePasswordLinks(transaction, id)
        if (!(await membershipOf(transaction, id, invitation.site)))
          await insertMembership(transaction, id, invitation.site, invitation, kernel.at)
        await deleteInvitationOf(transaction, invitation.site, invited)
        return (await accountWithId(transaction, id))!.id
      })
      return openSession(request, account, body.as)
    },
  }),
]

/** @throws WisteriaError `invalid` with each place. */
function requireNewAccount(body: { name?: string | undefined; password?: string | undefined }) {
  const read = z
    .object({ name: personName, password })
    .safeParse({ name: body.name ?? '', password: body.password ?? '' })
  if (read.success) return read.data
  throw new WisteriaError('invalid', 'A new account needs a name and a password.', {
    problems: read.error.issues.map(({ path, message }) => ({
      code: 'wrongForm',
      pointer: `/${path.join('/')}`,
      message: `\`${path.join('.')}\` ${message}.`,
    })),
  })
}
