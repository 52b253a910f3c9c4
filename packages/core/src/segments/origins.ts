import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'
import { isVariant, sourceOf, translatedLocales, type SiteSettings } from '../locales/settings.js'
import type { FieldOwner, Model } from '../model/model.js'
import type { WorkCount } from '../model/states.js'
import { canonicalText, type SegmentText } from '../text/segmentText.js'
import { walk, type Document } from '../documents/document.js'
import { segmentKey, segmentsOf, type Segment } from './segments.js'

/** What a translated unit was made from. */
export interface Origin {
  /** The locale of its source. */
  readonly from: string
  /** The digest of the source text with its codes. */
  readonly source: string
  /** The number of the revision in which the source had that text. */
  readonly revision: number
  /** The source text, where no revision has it: it was handed out, and changed while it was away. */
  readonly text?: SegmentText
  /** Since when the source differs, as an ISO instant; left out while it does not. */
  readonly since?: string
  /** Whether somebody said that this text needs no translation: readers get the source. */
  readonly needsNone?: true
}

/** The origins of an entry's translated units: by locale, then by key. */
export type Origins = Readonly<Record<string, Readonly<Record<string, Origin>>>>

/**
 * The state of a unit in a locale. `current`: made from the source as it is. `outdated`: from an earlier text of the source.
 * `missing`: not translated. `notNeeded`: marked so, for the source as it is, or not translated in a locale that is a variant.
 * `empty`: empty on purpose.
 */
export const unitStates = ['current', 'outdated', 'missing', 'notNeeded', 'empty'] as const
export type UnitState = (typeof unitStates)[number]

/** The work that a unit in a state is. */
export const workIn = (state: UnitState): keyof WorkCount =>
  state === 'missing' || state === 'outdated' ? state : 'done'

/** Whether a unit is to be translated. */
export const isToDo = ({ state }: { readonly state: UnitState }): boolean => workIn(state) !== 'done'

/** A unit of the source, with its translation in a locale. */
export interface TranslationUnit {
  readonly source: Segment
  readonly translation: SegmentText | undefined
  readonly state: UnitState
  readonly origin: Origin | undefined
}

/** The digest of a source text: of its words and its codes with their meaning. 24 hexadecimal digits of SHA-256. */
export const digestOf = ({
  text,
  codes,
}: {
  readonly text: SegmentText
  readonly codes?: Segment['codes'] | undefined
}): string => bytesToHex(sha256(utf8ToBytes(JSON.stringify([canonicalText(text), codes ?? {}])))).slice(0, 24)

/** A unit with its digest, which is computed when it is first asked for. */
interface Unit {
  readonly segment: Segment
  readonly digest: string
}

/** Reads the units of a document by locale, each locale once: by key, in the order of the form. */
export type UnitReader = (locale: string) => ReadonlyMap<string, Unit>

export function unitReader(model: Model, owner: FieldOwner, document: Document): UnitReader {
  const locales = new Map<string, Map<string, Unit>>()
  const unitOf = (segment: Segment): Unit => {
    let digest: string | undefined
    return {
      segment,
      get digest() {
        return (digest ??= digestOf(segment))
      },
    }
  }
  return (locale) => {
    let units = locales.get(locale)
    if (!units) {
      const segments = segmentsOf(model, owner, document, locale)
      locales.set(locale, (units = new Map(segments.map((segment) => [segmentKey(segment), unitOf(segment)]))))
    }
    return units
  }
}

/**
 * The origins after a save: each unit of a translation that the save wrote is made from the source as it is after the save. Units
 * that were not written keep their origin, and those that are gone lose it. Nothing is guessed from times.
 * @param revision the number of the revision that the save writes.
 * @param at when, as an ISO instant.
 * @param given the origins of texts that were made from another source than the one after the save: restored ones, and ones that were
 *   away while their source changed.
 */
export function originsAfter(
  model: Model,
  owner: FieldOwner,
  before: Document,
  after: Document,
  origins: Origins,
  revision: number,
  at: string,
  settings: SiteSettings,
  given: Origins = {},
): Origins {
  const result: Record<string, Record<string, Origin>> = {}
  const [unitsBefore, unitsAfter] = [unitReader(model, owner, before), unitReader(model, owner, after)]
  for (const { tag: locale } of translatedLocales(settings)) {
    const from = sourceOf(settings, locale)
    const inLocale: Record<string, Origin> = {}
    const compared = (key: string, origin: Origin): Origin => {
      const { since = at, ...rest } = origin
      return unitsAfter(origin.from).get(key)?.digest === origin.source ? rest : { ...rest, since }
    }
    for (const [key, origin] of Object.entries(origins[locale] ?? {}))
      if (origin.needsNone && unitsAfter(from).has(key)) inLocale[key] = compared(key, origin)
    for (const [key, unit] of unitsAfter(locale)) {
      const origin = origins[locale]?.[key]
      const source = unitsAfter(from).get(key)
      if (unitsBefore(locale).get(key)?.digest === unit.digest) {
        if (origin) inLocale[key] = compared(key, origin)
      } else if (source)
        inLocale[key] = compared(key, given[locale]?.[key] ?? { from, source: source.digest, revision })
      else delete inLocale[key]
    }
    if (Object.keys(inLocale).length > 0) result[locale] = inLocale
  }
  return result
}

/**
 * Whether a save changes a source text that translations were made from in the newest revision: that revision must stay as it is then,
 * so that the text they were made from can be shown.
 */
export function changesSources(
  model: Model,
  owner: FieldOwner,
  before: Document,
  after: Document,
  origins: Origins,
  revision: number,
): boolean {
  const [unitsBefore, unitsAfter] = [unitReader(model, owner, before), unitReader(model, owner, after)]
  return Object.values(origins).some((units) =>
    Object.entries(units).some(
      ([key, { from, source, revision: madeIn }]) =>
        madeIn === revision &&
        unitsBefore(from).get(key)?.digest === source &&
        unitsAfter(from).get(key)?.digest !== source,
    ),
  )
}

/** The origins of a copy of an entry: the same sources, in the first revision of the copy. */
export const copiedOrigins = (origins: Origins): Origins =>
  Object.fromEntries(
    Object.entries(origins).map(([locale, units]) => [
      locale,
      Object.fromEntries(Object.entries(units).map(([key, origin]) => [key, { ...origin, revision: 1 }])),
    ]),
  )

/** The units of the source of a locale, each with its translation and its state, in the order of the form. */
export function translationUnits(
  model: Model,
  owner: FieldOwner,
  document: Document,
  origins: Origins,
  locale: string,
  settings: SiteSettings,
  units: UnitReader = unitReader(model, owner, document),
): TranslationUnit[] {
  const translations = units(locale)
  const untranslated = isVariant(settings, locale) ? 'notNeeded' : 'missing'
  const isEmpty = emptyPlaces(model, owner, document, locale)
  return [...units(sourceOf(settings, locale))].map(([key, { segment: source }]): TranslationUnit => {
    const translation = translations.get(key)?.segment.text
    const origin = origins[locale]?.[key]
    // Compared with the locale that it was translated from, which may no longer be its fallback.
    const isAsThen = (of: Origin): boolean =>
      source.isIndependent === true || units(of.from).get(key)?.digest === of.source
    const state = (): UnitState => {
      if (origin?.needsNone) return isAsThen(origin) ? 'notNeeded' : 'outdated'
      if (translation === undefined) return isEmpty(source.at) ? 'empty' : untranslated
      // A translation older than origins counts as current.
      return origin === undefined || isAsThen(origin) ? 'current' : 'outdated'
    }
    return { source, translation, state: state(), origin }
  })
}

/** The origins after somebody said of some units that they are still right, or need no translation, for the source as it is. */
export function confirm(
  units: readonly TranslationUnit[],
  origins: Origins,
  locale: string,
  keys: ReadonlySet<string>,
  revision: number,
  settings: SiteSettings,
  needsNone = false,
): Origins {
  const from = sourceOf(settings, locale)
  const confirmed = units.flatMap(({ source, translation }): [string, Origin][] => {
    const key = segmentKey(source)
    // A text that is there is still right; one that is not can only need none.
    if (!keys.has(key) || (translation === undefined) !== needsNone) return []
    return [[key, { from, source: digestOf(source), revision, ...(needsNone ? { needsNone: true } : {}) }]]
  })
  return { ...origins, [locale]: { ...origins[locale], ...Object.fromEntries(confirmed) } }
}

/** Answers whether a place is, or is inside, a value of the locale that is empty on purpose. */
function emptyPlaces(
  model: Model,
  owner: FieldOwner,
  document: Document,
  locale: string,
): (at: readonly string[]) => boolean {
  const places = new Set<string>()
  walk(model, owner, document, [locale], (content, spot) => {
    if (content === null && spot.locale !== undefined) places.add(spot.place.join('/'))
  })
  return (at) => at.some((_, index) => places.has(at.slice(0, index + 1).join('/')))
}
