import type { NewSite } from '@wisteria/client'
import { ownNameOf, slugFrom } from '@wisteria/core'

export interface NewSiteForm {
  label: string
  locale: string
  timeZone: string
}

export const emptyNewSite = (): NewSiteForm => ({
  label: '',
  locale: 'en',
  timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
})

/** The name in addresses that a label makes. */
export const addressName = (label: string): string =>
  slugFrom(label)
    .replace(/[^a-z0-9-]/g, '')
    .slice(0, 40)

export const newSiteFrom = ({ label, locale, timeZone }: NewSiteForm): NewSite => ({
  name: addressName(label),
  label,
  defaultLocale: locale,
  locales: [{ tag: locale, label: ownNameOf(locale), fallback: [] }],
  timeZone,
})
