import { insideGroup, type FieldOwner, type Model } from '../model/model.js'
import {
  holdsLocales,
  insideOf,
  isRecord,
  type BlockItem,
  type Document,
  type LocaleMap,
  type NestedItem,
} from './document.js'

/** The documents that the layers of an entry were published from. */
export interface PublicLayers {
  /** The document whose values that are not localized are public. */
  readonly shared: Document
  /** By locale, the document whose values in that locale are public. */
  readonly locales: Readonly<Record<string, Document>>
}

/**
 * Composes the public document: shared values (and with them the blocks and their order) from the shared layer, each locale's
 * values from that locale's own. A block's values in a locale are found by its id, so they stay with a moved block; a block newer
 * than a locale's layer has none in that locale.
 */
export function composePublic(model: Model, owner: FieldOwner, layers: PublicLayers): Document {
  const within = (type: FieldOwner, shared: Document, locales: Readonly<Record<string, Document>>): Document => {
    const composed: Record<string, unknown> = {}
    for (const field of type.fields) {
      if (holdsLocales(field, false)) {
        const map: Record<string, unknown> = {}
        for (const [locale, document] of Object.entries(locales)) {
          const stored = document[field.id]
          if (isRecord(stored) && stored[locale] !== undefined) map[locale] = stored[locale]
        }
        if (Object.keys(map).length > 0) composed[field.id] = map
        continue
      }
      const content = shared[field.id]
      const group = insideGroup(field)
      if (group && !field.many) {
        const inLocales = Object.entries(locales).map(
          ([locale, document]) => [locale, recordIn(document[field.id])] as const,
        )
        const resolved = within(group, recordIn(content), Object.fromEntries(inLocales))
        if (content !== undefined || Object.keys(resolved).length > 0)
          composed[field.id] = content === null ? null : resolved
        continue
      }
      if (content === undefined) continue
      const nested = insideOf(model, field, content)
      if (nested.length === 0) {
        composed[field.id] = content
        continue
      }
      composed[field.id] = (content as (NestedItem | BlockItem)[]).map((item, index) => {
        const inside = nested.find((candidate) => candidate.index === index)
        if (!inside) return item
        const localized: Record<string, Document> = {}
        for (const [locale, document] of Object.entries(locales)) {
          const list = document[field.id]
          const same = Array.isArray(list) ? (list as NestedItem[]).find((other) => other.id === item.id) : undefined
          if (same && (same as Partial<BlockItem>).block === (item as Partial<BlockItem>).block)
            localized[locale] = same.values
        }
        return { ...item, values: within(inside.owner, item.values, localized) }
      })
    }
    return composed
  }
  return within(owner, layers.shared, layers.locales)
}

const recordIn = (content: unknown): Document => (isRecord(content) ? content : {})

/** One layer of a document alone, for comparing: the shared one (`undefined`), or a locale's. */
export function layerOf(model: Model, owner: FieldOwner, document: Document, locale: string | undefined): Document {
  const within = (type: FieldOwner, values: Document): Document => {
    const layer: Record<string, unknown> = {}
    for (const field of type.fields) {
      const content = values[field.id]
      if (content === undefined) continue
      if (holdsLocales(field, false)) {
        const localized = locale === undefined ? undefined : (content as LocaleMap)[locale]
        if (localized !== undefined) layer[field.id] = localized
      } else if (field.kind === 'group' && !field.many) {
        const inside = within(insideGroup(field)!, recordIn(content))
        if (Object.keys(inside).length > 0) layer[field.id] = inside
      } else if (insideOf(model, field, content).length > 0) {
        const nested = insideOf(model, field, content)
        const items = (content as NestedItem[]).map((item, index) => {
          const inside = nested.find((candidate) => candidate.index === index)
          return { ...item, values: inside ? within(inside.owner, item.values) : {} }
        })
        if (locale === undefined) layer[field.id] = items
        else {
          // The items and their order belong to the shared layer: a locale's layer has only their values.
          const filled = items
            .filter((item) => Object.keys(item.values).length > 0)
            .map(({ id, values }) => [id, values] as const)
          if (filled.length > 0) layer[field.id] = Object.fromEntries(filled)
        }
      } else if (locale === undefined) layer[field.id] = content
    }
    return layer
  }
  return within(owner, document)
}

/** Whether a layer of one locale has any value: blocks without values are none. */
export const hasWords = (layer: unknown): boolean => {
  if (typeof layer === 'string') return layer !== ''
  if (Array.isArray(layer)) return layer.some(hasWords)
  if (typeof layer !== 'object' || layer === null) return layer !== null && layer !== undefined
  return Object.entries(layer).some(([key, value]) => key !== 'id' && key !== 'block' && hasWords(value))
}

/** The locales, of some, in which a document has any value. */
export function localesWithWords(
  model: Model,
  owner: FieldOwner,
  document: Document,
  locales: readonly string[],
): ReadonlySet<string> {
  return new Set(locales.filter((locale) => hasWords(layerOf(model, owner, document, locale))))
}
