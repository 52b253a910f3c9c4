import { localeTags, type WithdrawalConsequences } from '@wisteria/core'
import {
  childrenOf,
  pathsOfEntries,
  referrersOf,
  publicHistoryOf,
  type Reader,
  type Site,
  type WorkingCopy,
} from '@wisteria/store'
import { publicTitles } from './named.js'

/** The consequences of withdrawing locales of an entry. */
export async function withdrawalConsequences(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  asked: readonly string[] | undefined,
): Promise<WithdrawalConsequences> {
  const { layers } = await publicHistoryOf(reader, site, copy.type, copy.id)
  const publicLocales = localeTags(site.settings).filter((locale) => layers?.locales[locale] !== undefined)
  const locales = (asked ?? publicLocales).filter((locale) => publicLocales.includes(locale))
  const isWhole = locales.length === publicLocales.length && locales.length > 0
  const rows = await pathsOfEntries(reader, site, 'published', [copy.id])
  const goes = rows.filter((row) => isWhole || locales.includes(row.locale))
  const below = isWhole ? await childrenOf(reader, site, 'published', [copy.id]) : []
  const usedBy = await referrersOf(reader, site, copy.id)
  return {
    version: copy.version,
    publicLocales,
    locales,
    paths: Object.fromEntries(goes.flatMap(({ locale, path }) => (path === null ? [] : [[locale, path]]))),
    children: await publicTitles(
      reader,
      site,
      below.map(({ id }) => id),
    ),
    dangling: isWhole
      ? usedBy.filter((referrer) => referrer.inPublic && !below.some(({ id }) => id === referrer.id))
      : [],
  }
}
