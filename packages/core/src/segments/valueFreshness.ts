import type { Document } from '../documents/document.js'
import type { SiteSettings } from '../locales/settings.js'
import type { ContentType, Model } from '../model/model.js'
import { translationUnits, workIn, type Origins, type UnitState } from './origins.js'
import { unitPlace } from './unitPlaces.js'

/** What is to be done at a translated value: it is missing, made from an earlier source, or translated in part. */
export type ValueFreshness = 'missing' | 'outdated' | 'partial'

/**
 * The values of a locale on which translators have work left, by the JSON Pointer into the printed values.
 * @param document whose source and translation are compared: for readers, the public one.
 * @param printed the values of the document for readers of the locale.
 */
export function valueFreshness(
  model: Model,
  type: ContentType,
  document: Document,
  printed: Readonly<Record<string, unknown>>,
  origins: Origins,
  locale: string,
  settings: SiteSettings,
): Record<string, ValueFreshness> {
  const states = new Map<string, UnitState[]>()
  for (const { source, state } of translationUnits(model, type, document, origins, locale, settings)) {
    const pointer = pointerTo(printed, unitPlace(model, type, document, source.at, locale).at)
    states.set(pointer, [...(states.get(pointer) ?? []), state])
  }
  return Object.fromEntries(
    [...states].flatMap(([pointer, all]): [string, ValueFreshness][] => {
      const work = all.map(workIn)
      if (work.includes('outdated')) return [[pointer, 'outdated']]
      if (!work.includes('missing')) return []
      return [[pointer, all.every((state) => state === 'missing') ? 'missing' : 'partial']]
    }),
  )
}

/** The JSON Pointer of a value among printed values, by field names and item ids in turn; of a list without ids, of the list. */
function pointerTo(printed: Readonly<Record<string, unknown>>, at: readonly string[]): string {
  let pointer = ''
  let values: unknown = printed
  for (let index = 0; index < at.length; index += 2) {
    for (const name of at[index]!.split('.')) {
      pointer += `/${name}`
      values = (values as Record<string, unknown> | null | undefined)?.[name]
    }
    const id = at[index + 1]
    if (id === undefined) break
    // A field of one block holds it as it is.
    const items: unknown[] = Array.isArray(values) ? values : [values]
    const position = items.findIndex((item) => (item as { id?: string } | null)?.id === id)
    if (position < 0) break
    pointer += Array.isArray(values) ? `/${position}/values` : '/values'
    values = (items[position] as { values?: unknown }).values
  }
  return pointer
}
