import { decide, limitOf, localesToPublish, WisteriaError } from '@wisteria/core'
import { Act, publicHistoryOf, siteWithId, type Site, type Transaction, type WorkingCopy } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { publish } from './publishing.js'
import type { Author } from '../workingCopies/saving.js'

/**
 * After a save of a type without drafts: publishes it in the same transaction, or refuses the save.
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
  const act = new Act(transaction, await siteWithId(transaction, site.id), author.actor, kernel.environment)
  return publish(transaction, act, author, copy, await ownLocales(transaction, act, author, copy))
}

/** Of the locales to publish, those that a limited member may publish; all for everybody else. */
async function ownLocales(
  transaction: Transaction,
  { site }: Act,
  { caller }: Author,
  copy: WorkingCopy,
): Promise<readonly string[] | undefined> {
  const limit = limitOf(caller)
  if (!limit) return undefined
  const history = await publicHistoryOf(transaction, site, copy.type, copy.id)
  const all = localesToPublish(site.model, site.settings, copy.type, copy.document, history, undefined)
  const allowed = all.filter((locale) => limit.includes(locale))
  return allowed.length > 0 ? allowed : undefined
}
