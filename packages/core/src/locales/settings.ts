import { isTimeZone } from '../text/time.js'
import type { Problem } from '../base/errors.js'
import { checkRegions, type Region } from './regions.js'

export interface LocaleSetting {
  /** BCP 47, in canonical form. */
  readonly tag: string
  readonly label: string
  /** The whole chain read when a value is missing, nearest first. Never transitive. */
  readonly fallback: readonly string[]
  /** Whether only what differs from its fallback is translated, as in a regional variant: what is not translated is not missing. */
  readonly variant?: boolean | undefined
}

/** The settings of a site, which are not part of its model. */
export interface SiteSettings {
  readonly label: string
  readonly defaultLocale: string
  readonly locales: readonly LocaleSetting[]
  /** IANA name; `today` is in it. */
  readonly timeZone: string
  /** Besides the main one; none where left out. */
  readonly regions?: readonly Region[] | undefined
}

export const localeTags = (settings: SiteSettings): string[] => settings.locales.map((locale) => locale.tag)

/** The locales that are translated: all but the default one. */
export const translatedLocales = (settings: SiteSettings): LocaleSetting[] =>
  settings.locales.filter(({ tag }) => tag !== settings.defaultLocale)

/** The locale itself, then its fallbacks: the order in which values are looked for. */
export function chainOf(settings: SiteSettings, tag: string): string[] {
  const locale = settings.locales.find((candidate) => candidate.tag === tag)
  return locale ? [locale.tag, ...locale.fallback] : []
}

/** The locale that another is translated from: the nearest in its fallbacks, else the site's default. */
export const sourceOf = (settings: SiteSettings, locale: string): string =>
  chainOf(settings, locale)[1] ?? settings.defaultLocale

/** Whether only differences from the fallback are translated in a locale. */
export const isVariant = (settings: SiteSettings, tag: string): boolean =>
  settings.locales.some((locale) => locale.tag === tag && locale.variant === true)

/** The writing direction of a locale, by its script. */
export function directionOf(tag: string): 'ltr' | 'rtl' {
  const { language, script } = new Intl.Locale(tag).maximize()
  return ['Arab', 'Hebr', 'Thaa', 'Syrc', 'Nkoo', 'Adlm', 'Rohg'].includes(script ?? '') || language === 'ar'
    ? 'rtl'
    : 'ltr'
}

export function canonicalTag(tag: string): string | undefined {
  try {
    return Intl.getCanonicalLocales(tag)[0]
  } catch {
    return undefined
  }
}

/** The name of a locale in its own language, such as `Deutsch`; the tag where that is not known. */
export function ownNameOf(tag: string): string {
  try {
    return new Intl.DisplayNames([tag], { type: 'language' }).of(tag) ?? tag
  } catch {
    return tag
  }
}

/**
 * Settings with one more locale, under its own name. A regional variant falls back to its language where the site has that, and
 * every other locale to the default locale.
 */
export function withLocale(settings: SiteSettings, tag: string): SiteSettings {
  const { defaultLocale, locales } = settings
  const base = locales.find((locale) => locale.tag !== tag && locale.tag === tag.split('-')[0])
  const fallback = base ? [base.tag, ...base.fallback] : [defaultLocale]
  const locale = { tag, label: ownNameOf(tag), fallback, ...(base ? { variant: true } : {}) }
  return { ...settings, locales: [...locales, locale] }
}

/** Settings without a locale, also in the chains of the others. */
export function withoutLocale(settings: SiteSettings, tag: string): SiteSettings {
  const stays = settings.locales.filter((locale) => locale.tag !== tag)
  return {
    ...settings,
    locales: stays.map((locale) => ({ ...locale, fallback: locale.fallback.filter((other) => other !== tag) })),
  }
}

/** The tag of a language by its English or own name. */
function tagOfLanguage(name: string): string | undefined {
  const letters = 'abcdefghijklmnopqrstuvwxyz'
  const english = new Intl.DisplayNames(['en'], { type: 'language', fallback: 'none' })
  const wanted = name.toLowerCase()
  for (const first of letters)
    for (const second of letters) {
      const tag = first + second
      const cached = english.of(tag)
      if (cached === undefined) continue
      const name = new Intl.DisplayNames([tag], { type: 'language' }).of(tag)
      if ([cached.toLowerCase(), name?.toLowerCase()].includes(wanted)) return tag
    }
  return undefined
}

/** Everything wrong with settings, each with a pointer into them. */
export function checkSettings(settings: SiteSettings): Problem[] {
  const problems: Problem[] = []
  const tags = localeTags(settings)
  settings.locales.forEach((locale, index) => {
    const at = `/locales/${index}`
    const canonical = canonicalTag(locale.tag)
    // Languages have two or three letters; a longer tag is valid too, but is the name of a language.
    if (canonical !== undefined && /^[a-z]{4,}(-|$)/i.test(canonical)) {
      const meant = tagOfLanguage(locale.tag)
      problems.push({
        code: 'badLocale',
        pointer: `${at}/tag`,
        message: `\`${locale.tag}\` is not a BCP 47 language tag, such as \`en\` or \`nl-BE\`.${meant ? ` Did you mean \`${meant}\`?` : ''}`,
      })
    } else if (canonical !== locale.tag)
      problems.push({
        code: 'badLocale',
        pointer: `${at}/tag`,
        message: canonical
          ? `Write \`${locale.tag}\` as \`${canonical}\`.`
          : `\`${locale.tag}\` is not a BCP 47 language tag.`,
      })
    if (tags.indexOf(locale.tag) !== index)
      problems.push({ code: 'twice', pointer: `${at}/tag`, message: `\`${locale.tag}\` is listed twice.` })
    if (locale.label.trim() === '')
      problems.push({ code: 'required', pointer: `${at}/label`, message: `Give \`${locale.tag}\` a name.` })
    locale.fallback.forEach((other, place) => {
      if (!tags.includes(other))
        problems.push({
          code: 'unknownLocale',
          pointer: `${at}/fallback/${place}`,
          message: `\`${other}\` is not a locale of this site.`,
        })
      else if (other === locale.tag || locale.fallback.indexOf(other) !== place)
        problems.push({
          code: 'twice',
          pointer: `${at}/fallback/${place}`,
          message: `\`${other}\` is in the chain twice.`,
        })
    })
  })
  if (settings.label.trim() === '')
    problems.push({ code: 'required', pointer: '/label', message: 'Give the site a name.' })
  if (!tags.includes(settings.defaultLocale))
    problems.push({
      code: 'unknownLocale',
      pointer: '/defaultLocale',
      message: `The default locale \`${settings.defaultLocale}\` is not among the locales.`,
    })
  if (!isTimeZone(settings.timeZone))
    problems.push({
      code: 'badTimeZone',
      pointer: '/timeZone',
      message: `\`${settings.timeZone}\` is not a time zone such as \`Europe/Amsterdam\`.`,
    })
  problems.push(...checkRegions(settings.regions ?? []))
  return problems
}
