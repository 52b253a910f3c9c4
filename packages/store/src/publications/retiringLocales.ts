import type { Reader, Transaction } from '../connection/reader.js'
import { sharedLayer } from './publicHistory.js'
import type { Site } from '../sites/sites.js'

/** The newest publication of each layer of each entry of a site, where it is public. */
const publicNow = `select entry, layer from (
  select entry, layer, revision, max(id) from publications where site = ?1 group by entry, layer) where revision is not null`

/** The content in a locale, counted in entries: `only` are those that are public in no other locale. */
export interface LocaleUse {
  readonly public: number
  readonly only: number
  readonly paths: number
  /** Working copies with content in it. */
  readonly drafts: number
  /** Schedules that name it. */
  readonly schedules: number
}

export async function useOfLocale(
  reader: Reader,
  site: Site,
  locale: string,
  stays: readonly string[],
): Promise<LocaleUse> {
  const [row] = await reader.all<LocaleUse>(
    `with now as (${publicNow})
     select (select count(*) from now where layer = ?2) as public,
       (select count(*) from now n where layer = ?2 and not exists (
         select 1 from now o where o.entry = n.entry and o.layer in (select value from json_each(?3)))) as only,
       (select count(*) from paths where site = ?1 and locale = ?2 and current = 1) as paths,
       (select count(*) from drafts where projection = ?4 and locale = ?2 and content_locale = ?2) as drafts,
       (select count(*) from schedules where site = ?1 and state = 'scheduled'
         and exists (select 1 from json_each(locales) where value = ?2)) as schedules`,
    [site.id, locale, JSON.stringify(stays), site.projection],
  )
  return row!
}

/**
 * Withdraws the layers of locales that a site no longer has, and the shared layer of entries that are public in no other. Their
 * revisions stay as they are. @returns how many layers.
 */
export async function withdrawLocales(
  transaction: Transaction,
  site: Site,
  gone: readonly string[],
  act: { readonly sequence: number; readonly at: string; readonly actor: string; readonly action: string },
): Promise<number> {
  if (gone.length === 0) return 0
  return transaction.run(
    `with now as (${publicNow})
     insert into publications (site, entry, layer, revision, model_version, sequence, at, actor, action)
     select ?1, n.entry, n.layer, null, ?3, ?4, ?5, ?6, ?7 from now n
     where n.layer in (select value from json_each(?2))
       or (n.layer = '${sharedLayer}' and not exists (
         select 1 from now o where o.entry = n.entry and o.layer <> '${sharedLayer}' and o.layer not in (select value from json_each(?2))))
     order by n.entry, n.layer`,
    [site.id, JSON.stringify(gone), site.model.version, act.sequence, act.at, act.actor, act.action],
  )
}
