import { WisteriaError } from '../base/errors.js'
import { localeTags, type SiteSettings } from '../locales/settings.js'
import { isLocalized, type ContentType, type Model } from '../model/model.js'
import { layerOf } from '../documents/layers.js'
import type { Document } from '../documents/document.js'
import type { PublicHistory } from './state.js'

/**
 * The locales to publish when none are named: every one in which the working copy has content of its own, and every public one. A
 * type without localized fields is published under the default locale.
 */
export function localesToPublish(
  model: Model,
  settings: SiteSettings,
  type: ContentType,
  document: Document,
  history: PublicHistory,
  asked: readonly string[] | undefined,
): string[] {
  const all = localeTags(settings)
  const hasWords = (locale: string): boolean => Object.keys(layerOf(model, type, document, locale)).length > 0
  if (!isLocalized(model, type)) {
    const other = asked?.filter((locale) => locale !== settings.defaultLocale) ?? []
    if (other.length > 0)
      throw badLocale(
        `${type.label} has no localized fields: it is published under ${settings.defaultLocale}, for all locales.`,
      )
    return [settings.defaultLocale]
  }
  if (asked) {
    const unknown = asked.find((locale) => !all.includes(locale))
    if (unknown !== undefined) throw badLocale(`\`${unknown}\` is not a locale of this site (${all.join(', ')}).`)
    if (asked.length === 0) throw badLocale('Name at least one locale.')
    return all.filter((locale) => asked.includes(locale))
  }
  return all.filter((locale) => history.layers?.locales[locale] !== undefined || hasWords(locale))
}

export const badLocale = (message: string): WisteriaError =>
  new WisteriaError('invalid', message, { problems: [{ code: 'badLocale', pointer: '/locales', message }] })
