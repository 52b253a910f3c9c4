import { localeTags, typeWithId, type Usage, type UnpublishConsequences } from '@wisteria/core'
import { childrenOf, publicHistoryOf, type Reader, type Site, type WorkingCopy } from '@wisteria/store'
import { publicTitles } from './named.js'

/** More than so many are not named. */
const maxNamed = 200

/** The entries that refer to one, in their working copies or in public; those that stand below it too. */
export async function usageOf(reader: Reader, site: Site, copy: WorkingCopy): Promise<Usage> {
  const rows = await reader.all<{ entry: string; type: string; title: string; draft: number; public: number }>(
    `select u.entry, d.type, d.title, max(u.draft) as draft, max(u.public) as public from (
       select entry, 1 as draft, 0 as public from draft_refs where shelf = ? and target = ?
       union all select entry, 0, 1 from published_refs where shelf = ? and target = ?
     ) u join drafts d on d.shelf = ? and d.entry = u.entry and d.locale = ?
     where u.entry <> ? group by u.entry order by d.title, u.entry limit ${maxNamed}`,
    [site.shelf, copy.id, site.shelf, copy.id, site.shelf, site.settings.defaultLocale, copy.id],
  )
  return {
    usedBy: rows.map((row) => ({
      id: row.entry,
      type: typeWithId(site.model, row.type)?.name ?? '',
      title: row.title,
      inWorkingCopy: row.draft === 1,
      inPublic: row.public === 1,
    })),
  }
}

/** What taking locales of an entry down would do. */
export async function unpublishConsequences(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  asked: readonly string[] | undefined,
): Promise<UnpublishConsequences> {
  const { layers } = await publicHistoryOf(reader, site, copy.type, copy.id)
  const publicLocales = localeTags(site.settings).filter((locale) => layers?.locales[locale] !== undefined)
  const locales = (asked ?? publicLocales).filter((locale) => publicLocales.includes(locale))
  const isWhole = locales.length === publicLocales.length && locales.length > 0
  const rows = await reader.all<{ locale: string; path: string | null }>(
    'select locale, path from published where shelf = ? and entry = ?',
    [site.shelf, copy.id],
  )
  const goes = rows.filter((row) => isWhole || locales.includes(row.locale))
  const below = isWhole ? await childrenOf(reader, site, 'published', [copy.id]) : []
  const { usedBy } = await usageOf(reader, site, copy)
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
    dangling: isWhole ? usedBy.filter((one) => one.inPublic && !below.some(({ id }) => id === one.id)) : [],
  }
}
