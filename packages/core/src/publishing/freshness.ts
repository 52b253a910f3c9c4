import { localeTags, sourceOf, type SiteSettings } from '../locales/settings.js'
import { isLocalized, type ContentType, type Model } from '../model/model.js'
import { hasWords, layerOf } from '../documents/layers.js'
import { sameContent, type Document } from '../documents/document.js'
import { withoutHidden } from '../documents/shown.js'
import type { Freshness } from '../model/states.js'
import type { PublicHistory } from './state.js'

/**
 * The freshness of each locale but the default one; empty for types without localized fields. The source of a translation is the
 * source in the revision from which the translation was published.
 */
export function freshnessOf(
  model: Model,
  type: ContentType,
  document: Document,
  history: PublicHistory,
  settings: SiteSettings,
): Record<string, Freshness> {
  if (!isLocalized(model, type)) return {}
  const now = withoutHidden(model, type, document, settings)
  return Object.fromEntries(
    localeTags(settings)
      .filter((locale) => locale !== settings.defaultLocale)
      .map((locale): [string, Freshness] => {
        if (!hasWords(layerOf(model, type, now, locale))) return [locale, 'missing']
        const layer = history.layers?.locales[locale]
        if (layer === undefined) return [locale, 'current']
        const then = withoutHidden(model, type, layer, settings)
        // An edited translation is being worked on: it counts as made from the current source.
        if (!sameContent(layerOf(model, type, now, locale), layerOf(model, type, then, locale)))
          return [locale, 'current']
        const source = sourceOf(settings, locale)
        const same = sameContent(layerOf(model, type, now, source), layerOf(model, type, then, source))
        return [locale, same ? 'current' : 'outdated']
      }),
  )
}
