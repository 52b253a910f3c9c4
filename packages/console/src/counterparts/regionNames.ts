import { mainRegion, regionLabel, regionNames, type SiteSettings } from '@wisteria/core'
import { t } from '../messages'

/** The name of a region for people. */
export const regionTitle = (settings: SiteSettings, name: string): string =>
  name === mainRegion ? t('regions.main') : regionLabel(settings, name)

/** All regions of a site with their names for people; none where it has only the main one. */
export const regionsOf = (settings: SiteSettings): { readonly name: string; readonly label: string }[] =>
  (settings.regions ?? []).length === 0
    ? []
    : regionNames(settings).map((name) => ({ name, label: regionTitle(settings, name) }))
