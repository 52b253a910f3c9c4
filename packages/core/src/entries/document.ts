import { blockTypeWithId, kindOf, type Field, type Fielded, type Model } from '../model/model.js'

/**
 * What an entry holds, as stored: keyed by the internal ids of fields, so that a rename moves nothing.
 * A localized field holds a map from locale to content. Absent is missing; null is empty on purpose.
 */
export interface Document {
  readonly [fieldId: string]: unknown
}

/** One of many: a scalar or reference with its handle. */
export interface ValueItem {
  readonly handle: string
  readonly value: unknown
}

export interface BlockItem {
  readonly handle: string
  /** The block type's internal id. */
  readonly block: string
  readonly values: Document
}

export type Item = ValueItem | BlockItem
export type LocaleMap = Readonly<Record<string, unknown>>

export const isBlockItem = (item: Item): item is BlockItem => 'block' in item

/** Whether a field's content is a map of locales where it stands: inside one, everything belongs to that locale already. */
export const holdsLocales = (field: Field, insideLocale: boolean): boolean => field.localized && !insideLocale

export const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** Where a single value stands, for those who walk over all of them. */
export interface Spot {
  readonly owner: Fielded
  readonly field: Field
  /** JSON Pointer under `/values`, by names and positions. */
  readonly pointer: string
  /** Field ids and handles from the top. */
  readonly place: readonly string[]
  /** The locale whose layer it is in; undefined in the shared layer. */
  readonly locale: string | undefined
}

/**
 * Calls `visit` for every content there is a place for: each field of the entry and of its blocks, per locale of
 * `locales` where localized. `content` is undefined where nothing is stored. A list is visited as a whole, then its blocks.
 */
export function walk(
  model: Model,
  owner: Fielded,
  document: Document,
  locales: readonly string[],
  visit: (content: unknown, spot: Spot) => void,
): void {
  const into = (
    type: Fielded,
    values: Document,
    pointer: string,
    place: readonly string[],
    locale: string | undefined,
  ) => {
    for (const field of type.fields) {
      const here = { owner: type, field, pointer: `${pointer}/${field.name}`, place: [...place, field.id] }
      if (holdsLocales(field, locale !== undefined)) {
        const map = isRecord(values[field.id]) ? (values[field.id] as LocaleMap) : {}
        for (const tag of locales) at(map[tag], { ...here, pointer: `${here.pointer}/${tag}`, locale: tag })
      } else at(values[field.id], { ...here, locale })
    }
  }
  const at = (content: unknown, spot: Spot) => {
    visit(content, spot)
    if (spot.field.kind !== 'block' || !Array.isArray(content)) return
    ;(content as BlockItem[]).forEach((item, index) => {
      const block = blockTypeWithId(model, item.block)
      if (block) into(block, item.values, `${spot.pointer}/${index}/values`, [...spot.place, item.handle], spot.locale)
    })
  }
  into(owner, document, '/values', [], undefined)
}

/** The single values of a content: itself, or those of its items. Empty ones are left out. */
export function valuesIn(content: unknown, field: Field): unknown[] {
  if (content === undefined || content === null) return []
  if (!field.many) return [content]
  return kindOf(field).alwaysMany ? [] : (content as ValueItem[]).map((item) => item.value)
}

/** Whether somebody reading it would find something there. An empty text or list is nothing. */
export const hasContent = (content: unknown): boolean =>
  content !== undefined && content !== null && content !== '' && !(Array.isArray(content) && content.length === 0)

/** Structural equality of stored content. Key order does not count. */
export function sameContent(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true
  if (Array.isArray(a) || Array.isArray(b))
    return (
      Array.isArray(a) &&
      Array.isArray(b) &&
      a.length === b.length &&
      a.every((item, index) => sameContent(item, b[index]))
    )
  if (!isRecord(a) || !isRecord(b)) return false
  const keys = Object.keys(a).filter((key) => a[key] !== undefined)
  return (
    keys.length === Object.keys(b).filter((key) => b[key] !== undefined).length &&
    keys.every((key) => sameContent(a[key], b[key]))
  )
}
