import { localeTags, type Freshness, type State } from '@wisteria/core'
import type { LocaleStanding, Site } from '@wisteria/store'

/** The states of a working copy in each locale, in the site's order. */
export function byLocale(
  site: Site,
  standing: readonly LocaleStanding[],
): { states: Record<string, State>; freshness: Record<string, Freshness> } {
  const sorted = localeTags(site.settings).flatMap((tag) => standing.find(({ locale }) => locale === tag) ?? [])
  return {
    states: Object.fromEntries(sorted.map(({ locale, state }) => [locale, state])),
    freshness: Object.fromEntries(
      sorted.flatMap(({ locale, freshness }) => (freshness === undefined ? [] : [[locale, freshness]])),
    ),
  }
}

/** The title of an entry in some locale, where it has none in the default one. */
export const titleIn = (standing: readonly LocaleStanding[]): string =>
  standing.find(({ title }) => title !== '')?.title ?? ''
