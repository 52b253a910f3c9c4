import { localeTags, sourceOf, type SiteSettings } from '../locales/settings.js'
import { isLocalized, type ContentType, type Model } from '../model/model.js'
import { hasWords, layerOf } from '../documents/layers.js'
import { sameContent, type Document } from '../documents/document.js'
import { withoutHidden } from '../documents/shown.js'
import { translationUnits, unitReader, type Origin, type Origins } from './origins.js'
import type { Freshness } from '../model/states.js'
import type { PublicHistory } from '../publishing/state.js'

/**
 * The freshness of each locale but the default one; empty for types without localized fields. A locale is outdated when one of its
 * units is.
 * @param origins undefined for an entry that was last saved by a version without them: the source of a translation is then the one
 *   in the revision from which the translation was published.
 */
export function freshnessOf(
  model: Model,
  type: ContentType,
  document: Document,
  origins: Origins | undefined,
  history: PublicHistory,
  settings: SiteSettings,
): Record<string, Freshness> {
  if (!isLocalized(model, type)) return {}
  const now = withoutHidden(model, type, document, settings)
  const units = unitReader(model, type, now)
  return Object.fromEntries(
    localeTags(settings)
      .filter((locale) => locale !== settings.defaultLocale)
      .map((locale): [string, Freshness] => {
        if (!hasWords(layerOf(model, type, now, locale))) return [locale, 'missing']
        if (origins) {
          const isOutdated = translationUnits(model, type, now, origins, locale, settings, units).some(
            ({ state }) => state === 'outdated',
          )
          return [locale, isOutdated ? 'outdated' : 'current']
        }
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

/**
 * The origins of an entry that was last saved by a version without them. A unit that is as it was published was made from the source
 * in the revision that it was published from; any other one from the source as it is.
 * @param revisions the numbers of the revisions of the public layers.
 * @param revision the number of the newest revision.
 */
export function seedOrigins(
  model: Model,
  type: ContentType,
  document: Document,
  history: PublicHistory,
  revisions: Readonly<Record<string, number>>,
  revision: number,
  settings: SiteSettings,
): Origins {
  const now = unitReader(model, type, document)
  const locales = localeTags(settings).filter((locale) => locale !== settings.defaultLocale)
  return Object.fromEntries(
    locales.flatMap((locale): [string, Record<string, Origin>][] => {
      const from = sourceOf(settings, locale)
      const layer = history.layers?.locales[locale]
      const then = layer && unitReader(model, type, layer)
      if (now(locale).size === 0) return []
      const origins = [...now(locale)].flatMap(([key, { digest }]): [string, Origin][] => {
        const isPublic = then?.(locale).get(key)?.digest === digest
        const source = (isPublic ? then : now)(from).get(key)?.digest
        return source === undefined ? [] : [[key, { from, source, revision: isPublic ? revisions[locale]! : revision }]]
      })
      return [[locale, Object.fromEntries(origins)]]
    }),
  )
}
