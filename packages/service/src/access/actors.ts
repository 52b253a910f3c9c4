import type { Caller, KeyScope } from '@wisteria/core'
import { accountWithId, automationWithId, keyOnSite, type Site, type StoredAutomation } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { callerOfAccount } from './memberships.js'

/**
 * The caller that scheduled or started something, with the rights that they have now.
 * @param actor as events and jobs name them: `account:…`, `key:…`, `automation:…`.
 */
export async function callerOfActor(kernel: Kernel, actor: string, site: Site): Promise<Caller> {
  const [kind, id] = actor.split(':') as [string, string | undefined]
  if (kind === 'account') {
    const account = await accountWithId(kernel.database, id ?? '')
    if (account) return callerOfAccount(kernel, account, site)
  }
  if (kind === 'key') {
    const key = await keyOnSite(kernel.database, site.id, id ?? '')
    if (key && key.revokedAt === null) return { is: 'key', key: key.id, scope: key.scope as KeyScope }
  }
  if (kind === 'automation') {
    const automation = await automationWithId(kernel.database, id ?? '')
    if (automation?.site === site.id) return callerOfAutomation(automation)
  }
  return { is: 'nobody' }
}

/** An automation, with the rights that it was given. */
export function callerOfAutomation({ id, definition: { rights = {} } }: StoredAutomation): Caller {
  const { publish = false, types, locales } = rights
  return { is: 'automation', automation: id, publishes: publish, types, locales }
}
