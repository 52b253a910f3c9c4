import { unchanged } from '../workingCopies/changeSeen.js'
import { WisteriaError } from '@wisteria/core'
import {
  Act,
  assignTranslations,
  membershipOf,
  membersOf,
  progressOf,
  setReady,
  type Reader,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { onEntry, requireMay } from '../kernel/permission.js'
import type { Author } from '../workingCopies/saving.js'

/** Whom entries are assigned to in a locale, until when. */
export interface Assignment {
  readonly locale: string
  /** The id or the e-mail of a member's account; null for nobody. */
  readonly assignee: string | null
  /** A date, such as `2031-03-12`. */
  readonly due: string | null
}

/** The id of a member's account. @throws WisteriaError `notFound`, or `conflict` where they are limited to other locales. */
async function requireAssignee(reader: Reader, site: Site, named: string, locale: string): Promise<string> {
  const byMail = named.includes('@')
    ? (await membersOf(reader, site.id)).find(({ email }) => email.toLowerCase() === named.toLowerCase())
    : undefined
  const account = byMail?.account ?? named
  const membership = byMail ?? (await membershipOf(reader, account, site.id))
  if (!membership)
    throw new WisteriaError('notFound', `\`${named.slice(0, 80)}\` is no member of ${site.settings.label}.`)
  if (membership.role === 'viewer')
    throw new WisteriaError(
      'conflict',
      `${byMail?.name ?? named} is a viewer, and cannot translate. Change their role first.`,
    )
  if (membership.locales && !membership.locales.includes(locale))
    throw new WisteriaError(
      'conflict',
      `${byMail?.name ?? named} is limited to ${membership.locales.join(', ')}, and cannot translate into ${locale}.`,
    )
  return account
}

/** Assigns entries. Somebody who may only translate may take what is theirs and give it back. */
export async function assign(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copies: readonly WorkingCopy[],
  { locale, assignee: named, due }: Assignment,
): Promise<void> {
  const assignee = named === null ? null : await requireAssignee(transaction, site, named, locale)
  const self = author.caller.is === 'member' ? author.caller.account : undefined
  const now = await progressOf(
    transaction,
    site,
    copies.map(({ id }) => id),
    locale,
  )
  for (const copy of copies) {
    requireMay(author.caller, 'entry.translate', { locales: [locale], ...onEntry(copy) })
    const before = now.get(copy.id)?.assignee ?? null
    const isOwn = [before, assignee].every((account) => account === null || account === self)
    if (!isOwn) requireMay(author.caller, 'entry.write', onEntry(copy))
  }
  const act = new Act(transaction, site, author.actor, kernel.environment)
  await assignTranslations(
    transaction,
    site,
    copies.map(({ id }) => id),
    locale,
    assignee,
    due,
    author.actor,
    act.at,
  )
  for (const copy of copies)
    await act.tell(
      'translation.assigned',
      { entry: { id: copy.id, type: copy.type.name }, version: copy.version, locales: [locale] },
      undefined,
      unchanged(site, copy),
    )
}

/** Marks a translation as ready for review, or no longer. */
export async function markReady(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  copy: WorkingCopy,
  locale: string,
  isReady: boolean,
): Promise<void> {
  requireMay(author.caller, 'entry.translate', { locales: [locale], ...onEntry(copy) })
  const act = new Act(transaction, site, author.actor, kernel.environment)
  await setReady(transaction, site, copy.id, locale, isReady ? { by: author.actor, at: act.at } : undefined)
  await act.tell(
    'translation.ready',
    { entry: { id: copy.id, type: copy.type.name }, version: copy.version, locales: [locale] },
    undefined,
    unchanged(site, copy),
  )
}
