import { decide, WisteriaError } from '@wisteria/core'
import { Act, siteWithId, type Site, type Transaction, type WorkingCopy } from '@wisteria/store'
import type { Kernel } from '../kernel.js'
import { publish } from './publishing.js'
import type { Author } from './saving.js'

/**
 * After a save of a type without drafts: what was saved is public in the same transaction, or nothing was saved.
 * @returns the entry, published if its type has no drafts.
 */
export async function publishIfImmediate(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
): Promise<WorkingCopy> {
  if (copy.type.drafts !== false) return copy
  const may = decide(author.caller, 'entry.publish')
  if (!may.allowed)
    throw new WisteriaError('forbidden', `${copy.type.label} has no drafts: saving it publishes it. ${may.because!}`)
  const act = new Act(transaction, await siteWithId(transaction, site.id), author.actor, kernel.surroundings)
  return publish(transaction, act, author, copy, undefined)
}
