import { sourceOf, translatedLocales, type SiteSettings } from '../locales/settings.js'
import { isLocalized, type ContentType, type Model } from '../model/model.js'
import { hasWords, layerOf } from '../documents/layers.js'
import type { Document } from '../documents/document.js'
import { withoutHidden } from '../documents/shown.js'
import { wordCount } from '../text/search.js'
import { wordsOf } from '../text/segmentText.js'
import { translationUnits, unitReader, workIn, type Origin, type Origins, type TranslationUnit } from './origins.js'
import type { Freshness, WorkCount } from '../model/states.js'
import type { PublicHistory } from '../publishing/state.js'

/** How far a translation of an entry is. */
export interface TranslationProgress {
  readonly freshness: Freshness
  readonly units: WorkCount
  readonly words: WorkCount
}

export const noWork: WorkCount = { missing: 0, outdated: 0, done: 0 }

/**
 * How far each translation of an entry is: of each locale but the default one; empty for types without localized fields. Hidden
 * values are not translated.
 * @param origins undefined for an entry that was last saved by a version without them (`seedOrigins`).
 */
export function translationProgress(
  model: Model,
  type: ContentType,
  document: Document,
  origins: Origins | undefined,
  history: PublicHistory,
  settings: SiteSettings,
): Record<string, TranslationProgress> {
  if (!isLocalized(model, type)) return {}
  const now = withoutHidden(model, type, document, settings)
  const reader = unitReader(model, type, now)
  const recorded = origins ?? seedOrigins(model, type, now, history, {}, 0, undefined, settings)
  const wordCounts = new Map<string, number>()
  return Object.fromEntries(
    translatedLocales(settings).map(({ tag: locale }): [string, TranslationProgress] => {
      const source = sourceOf(settings, locale)
      const units = translationUnits(model, type, now, recorded, locale, settings, reader)
      const counted = countWork(units, ({ source: segment }) => {
        if (segment.isIndependent) return 0
        const text = wordsOf(segment.text)
        const key = `${source} ${text}`
        if (!wordCounts.has(key)) wordCounts.set(key, wordCount(text, source))
        return wordCounts.get(key)!
      })
      const isStarted = hasWords(layerOf(model, type, now, locale)) || (units.length > 0 && counted.units.missing === 0)
      return [locale, { freshness: freshnessFrom(counted.units, isStarted), ...counted }]
    }),
  )
}

const freshnessFrom = ({ missing, outdated }: WorkCount, isStarted: boolean): Freshness =>
  !isStarted ? 'missing' : outdated > 0 ? 'outdated' : missing > 0 ? 'partial' : 'current'

/** Counts units by what is to be done, with the words of their sources. */
export function countWork(
  units: readonly TranslationUnit[],
  wordsIn: (unit: TranslationUnit) => number,
): { units: WorkCount; words: WorkCount } {
  const counts = { units: { ...noWork }, words: { ...noWork } }
  for (const unit of units) {
    const kind = workIn(unit.state)
    counts.units[kind]++
    counts.words[kind] += wordsIn(unit)
  }
  return counts
}

/** The freshness of each translation of an entry. */
export const freshnessOf = (...entry: Parameters<typeof translationProgress>): Record<string, Freshness> =>
  Object.fromEntries(
    Object.entries(translationProgress(...entry)).map(([locale, { freshness }]) => [locale, freshness]),
  )

/**
 * The origins of an entry that was last saved by a version without them. A unit that is as it was published was made from the source
 * in the revision that it was published from; any other one from the source as it is.
 * @param revisions the numbers of the revisions of the public layers.
 * @param revision the number of the newest revision.
 * @param at when the entry was last saved: the source of outdated units had changed then.
 */
export function seedOrigins(
  model: Model,
  type: ContentType,
  document: Document,
  history: PublicHistory,
  revisions: Readonly<Record<string, number>>,
  revision: number,
  at: string | undefined,
  settings: SiteSettings,
): Origins {
  const now = unitReader(model, type, document)
  return Object.fromEntries(
    translatedLocales(settings).flatMap(({ tag: locale }): [string, Record<string, Origin>][] => {
      const from = sourceOf(settings, locale)
      const layer = history.layers?.locales[locale]
      const then = layer && unitReader(model, type, layer)
      if (now(locale).size === 0) return []
      const origins = [...now(locale)].flatMap(([key, { digest }]): [string, Origin][] => {
        const isPublic = then?.(locale).get(key)?.digest === digest
        const source = (isPublic ? then : now)(from).get(key)?.digest
        if (source === undefined) return []
        const origin: Origin = { from, source, revision: isPublic ? (revisions[locale] ?? revision) : revision }
        const isOutdated = at !== undefined && now(from).get(key)?.digest !== source
        return [[key, isOutdated ? { ...origin, since: at } : origin]]
      })
      return [[locale, Object.fromEntries(origins)]]
    }),
  )
}
