import type { EntryList } from '@wisteria/client'
import { decide, type ListAsks } from '@wisteria/core'
import { t } from '../messages'
import type { Site } from '../session'

/** Lists of what waits for the user on a site. */
export interface Waiting {
  readonly title: string
  readonly asks: ListAsks
  readonly list: EntryList
}

/** So many entries of each list are shown. */
const shown = 5

/** Edited and new entries: those that `email` worked on apart. */
export async function waitingOn(site: Site, email: string): Promise<Waiting[]> {
  const { caller, settings } = site
  const mayWrite = (locale: string): boolean => decide(caller, 'entry.translate', { locales: [locale] }).allowed
  const tags = settings.locales.map(({ tag }) => tag)
  // A user who may not write the default locale works in the first one that they may write.
  const own = mayWrite(settings.defaultLocale) ? undefined : tags.find(mayWrite)
  const inOwn = own === undefined ? {} : { locale: own }
  const mine = `entry.updatedBy = ${JSON.stringify(email)}`
  const asked: readonly Omit<Waiting, 'list'>[] = [
    { title: t('today.mine'), asks: { where: `${mine} and entry.state in ["edited", "new"]`, ...inOwn } },
    { title: t('today.edited'), asks: { where: `entry.state = "edited" and not (${mine})`, ...inOwn } },
    { title: t('today.fresh'), asks: { where: `entry.state = "new" and not (${mine})`, ...inOwn } },
  ]
  const lists = await Promise.all(
    asked.map(({ asks: { where, locale } }) =>
      site.editor.entries({
        where: where!,
        ...(locale === undefined ? {} : { locale }),
        first: shown,
        count: true,
      }),
    ),
  )
  return asked.flatMap((waiting, index) =>
    lists[index]!.entries.length > 0 ? [{ ...waiting, list: lists[index]! }] : [],
  )
}
