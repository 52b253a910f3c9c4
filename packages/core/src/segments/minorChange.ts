import { translatedLocales, type SiteSettings } from '../locales/settings.js'
import type { FieldOwner, Model } from '../model/model.js'
import type { Document } from '../documents/document.js'
import { confirm, translationUnits, unitReader, type Origins, type TranslationUnit } from './origins.js'
import { segmentKey } from './segments.js'

/** Units whose source differs from what is public, and whose translation was made from what is public: by locale. */
export type OutdatedByChange = Readonly<Record<string, readonly TranslationUnit[]>>

/**
 * The translated units that a change of the source makes outdated.
 * @param before what is public, all layers composed.
 */
export function outdatedByChange(
  model: Model,
  owner: FieldOwner,
  before: Document,
  document: Document,
  origins: Origins,
  settings: SiteSettings,
): OutdatedByChange {
  const [then, now] = [unitReader(model, owner, before), unitReader(model, owner, document)]
  return Object.fromEntries(
    translatedLocales(settings).flatMap(({ tag: locale }): [string, TranslationUnit[]][] => {
      const units = translationUnits(model, owner, document, origins, locale, settings, now).filter(
        ({ state, origin, source }) =>
          state === 'outdated' && origin && then(origin.from).get(segmentKey(source))?.digest === origin.source,
      )
      return units.length > 0 ? [[locale, units]] : []
    }),
  )
}

/** The origins when a change of the source does not matter to its translations: those that it made outdated are right as they are. */
export function afterMinorChange(
  outdated: OutdatedByChange,
  origins: Origins,
  revision: number,
  settings: SiteSettings,
): Origins {
  let result = origins
  for (const [locale, units] of Object.entries(outdated)) {
    const keys = (needsNone: boolean) =>
      new Set(
        units.flatMap((unit) => ((unit.translation === undefined) === needsNone ? [segmentKey(unit.source)] : [])),
      )
    result = confirm(units, result, locale, keys(false), revision, settings)
    result = confirm(units, result, locale, keys(true), revision, settings, true)
  }
  return result
}
