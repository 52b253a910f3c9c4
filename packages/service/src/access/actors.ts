import type { Caller, KeyScope } from '@wisteria/core'
import type { AccessKeyRow, Site } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { callerOfAccount, type AccountRights } from './memberships.js'

/**
 * Who somebody is now that something was planned or begun by: with the rights that they have left.
 * @param actor as events and jobs name them: `account:…`, `key:…`.
 */
export async function callerOfActor(kernel: Kernel, actor: string, site: Site): Promise<Caller> {
  const [kind, id] = actor.split(':') as [string, string | undefined]
  if (kind === 'account') {
    const [row] = await kernel.database.all<AccountRights>(
      'select id, operator, disabled_at from accounts where id = ?',
      [id ?? ''],
    )
    if (row) return callerOfAccount(kernel, row, site)
  }
  if (kind === 'key') {
    const [row] = await kernel.database.all<Pick<AccessKeyRow, 'id' | 'scope' | 'revoked_at'>>(
      'select id, scope, revoked_at from access_keys where id = ? and site = ?',
      [id ?? '', site.id],
    )
    if (row && row.revoked_at === null) return { is: 'key', key: row.id, scope: row.scope as KeyScope }
  }
  return { is: 'nobody' }
}
