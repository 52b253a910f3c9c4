import type { Reader, Transaction } from '../connection/reader.js'
import type { InvitationRow } from '../tables/tables.js'
import { limitsFrom, limitText, type Membership } from './memberships.js'

/** An open invitation to a site. */
export interface Invitation extends Membership {
  readonly id: string
  readonly site: string
  /** In lower case. */
  readonly email: string
  /** The digest of the code in their link. */
  readonly hash: string
  readonly createdAt: string
  readonly createdBy: string
  readonly expiresAt: string
}

const invitationFrom = (row: InvitationRow): Invitation => ({
  id: row.id,
  site: row.site,
  email: row.email,
  role: row.role,
  ...limitsFrom(row),
  hash: row.hash,
  createdAt: row.created_at,
  createdBy: row.created_by,
  expiresAt: row.expires_at,
})

/** The invitations to a site, by e-mail; also expired ones, until they are deleted. */
export async function invitationsTo(reader: Reader, site: string): Promise<Invitation[]> {
  const rows = await reader.all<InvitationRow>('select * from invitations where site = ? order by email', [site])
  return rows.map(invitationFrom)
}

/** The invitation of a code, by its digest, whether it is still good or not. */
export async function invitationWithHash(reader: Reader, hash: string): Promise<Invitation | undefined> {
  const [row] = await reader.all<InvitationRow>('select * from invitations where hash = ?', [hash])
  return row && invitationFrom(row)
}

/** Stores an invitation, in place of an earlier one of the same e-mail to the same site. */
export async function storeInvitation(transaction: Transaction, invitation: Invitation): Promise<void> {
  await deleteInvitationOf(transaction, invitation.site, invitation.email)
  await transaction.tables.invitations.create({
    id: invitation.id,
    site: invitation.site,
    email: invitation.email,
    role: invitation.role,
    locales: limitText(invitation.locales),
    regions: limitText(invitation.regions),
    hash: invitation.hash,
    created_at: invitation.createdAt,
    created_by: invitation.createdBy,
    expires_at: invitation.expiresAt,
  })
}

/** @returns whether it existed. */
export const deleteInvitation = async (transaction: Transaction, site: string, id: string): Promise<boolean> =>
  (await transaction.run('delete from invitations where id = ? and site = ?', [id, site])) > 0

export async function deleteInvitationOf(transaction: Transaction, site: string, email: string): Promise<void> {
  await transaction.run('delete from invitations where site = ? and email = ?', [site, email])
}
