import { WisteriaError, type Caller } from '@wisteria/core'
import { siteNamed, type Site } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { requireMay } from '../kernel/permission.js'
import { callerOfActor } from './actors.js'

/**
 * Another site whose model and working copies the caller may read too.
 * @throws WisteriaError `notFound` where there is none for them, so that nobody learns of sites of others.
 */
export async function requireOtherSite(kernel: Kernel, site: Site, actor: string, name: string): Promise<Site> {
  const source = await siteNamed(kernel.database, name)
  if (source?.id === site.id) throw new WisteriaError('badRequest', 'Name another site than this one.')
  const caller: Caller = source ? await callerOfActor(kernel, actor, source) : { is: 'nobody' }
  const isMember = caller.is === 'member' && (caller.role !== undefined || caller.operator)
  if (!source || !isMember)
    throw new WisteriaError('notFound', `You are not a member of a site \`${name.slice(0, 60)}\`.`)
  requireMay(caller, 'draft.read', {})
  requireMay(caller, 'model.read', {})
  return source
}
