import { indexAfter } from '../base/siblings.js'
import type { ValueSegment } from '../fields/kind.js'
import type { SegmentText } from '../text/segmentText.js'
import { insideGroup, isList, kindOf, type Field, type FieldOwner, type Model } from '../model/model.js'
import {
  hasContent,
  holdsLocales,
  insideOf,
  isRecord,
  placeInside,
  walk,
  type Document,
  type Inside,
  type Item,
  type LocaleMap,
  type NestedItem,
  type ValueItem,
} from '../documents/document.js'

/*
 * Units of translation of an entry. Each field kind says which units its values hold and how a value is made of translated ones
 * (`core/fields`); here they get their address in the entry, and translations of an entry are made of them. Nothing else cuts texts.
 */

/** A unit of translation of an entry in a locale. */
export interface Segment extends ValueSegment {
  /** Field ids and item ids from the top, as edits address them; of an item in a list of values, with its id. */
  readonly at: readonly string[]
  readonly field: Field
}

/** The address of a unit: the same in each locale, and after moves. */
export const segmentKey = ({ at, part }: Pick<Segment, 'at' | 'part'>): string => `${at.join('/')}#${part}`

/** The units of one locale's values, in the order of the form. Shared values have none: they are the same in each locale. */
export function segmentsOf(model: Model, owner: FieldOwner, document: Document, locale: string): Segment[] {
  const segments: Segment[] = []
  walk(model, owner, document, [locale], (content, { field, place, locale: tag }) => {
    if (tag === undefined || !hasContent(content)) return
    const add = (value: unknown, at: readonly string[]): void => {
      for (const segment of kindOf(field).segments?.(value, field.options) ?? [])
        segments.push({ ...segment, at, field })
    }
    if (!isList(field)) add(content, place)
    else if (field.kind !== 'block' && field.kind !== 'group')
      for (const { id, value } of content as ValueItem[]) add(value, [...place, id])
  })
  return segments
}

/**
 * A document with a locale translated from another, as far as there are translated units. Items of lists keep the ids of their
 * source, by which the two are matched: an item that the translation lacks is added in its place, with its values that hold no
 * units, such as pictures. Items of the translation that match none are its own, and stay.
 * @param texts the translated units, by key. Without words, the translation of the unit is removed.
 */
export function translate(
  model: Model,
  owner: FieldOwner,
  document: Document,
  from: string,
  to: string,
  texts: ReadonlyMap<string, SegmentText>,
): Document {
  return new Translation(model, texts, from, to).shared(owner, document, [], undefined)
}

class Translation {
  readonly #model: Model
  /** By the place of a value, then by part. */
  readonly #texts = new Map<string, Map<string, SegmentText>>()

  constructor(
    model: Model,
    texts: ReadonlyMap<string, SegmentText>,
    readonly from: string,
    readonly to: string,
  ) {
    this.#model = model
    for (const [key, text] of texts) {
      const cut = key.lastIndexOf('#')
      const place = key.slice(0, cut)
      const parts = this.#texts.get(place) ?? new Map<string, SegmentText>()
      this.#texts.set(place, parts.set(key.slice(cut + 1), text))
    }
  }

  /** Values that all locales share, with the localized ones in them translated. */
  shared(owner: FieldOwner, values: Document, place: readonly string[], inside: Inside | undefined): Document {
    const result: Record<string, unknown> = { ...values }
    for (const field of owner.fields) {
      const content = values[field.id]
      const at = placeInside(place, inside, field.id)
      if (holdsLocales(field, false)) {
        const map: LocaleMap = isRecord(content) ? content : {}
        const translated = this.#content(field, map[this.from], map[this.to], at)
        if (translated !== map[this.to]) result[field.id] = withoutUnset({ ...map, [this.to]: translated })
      } else
        result[field.id] = this.#within(field, content, (inside) =>
          this.shared(inside.owner, inside.values, at, inside),
        )
      if (result[field.id] === undefined) delete result[field.id]
    }
    return result
  }

  /** A shared content with the values inside it replaced. */
  #within(field: Field, content: unknown, change: (inside: Inside) => Document): unknown {
    const insides = insideOf(this.#model, field, content)
    if (insides.length === 0) return content
    if (insides[0]!.id === undefined) return change(insides[0]!)
    const byIndex = new Map(insides.map((inside) => [inside.index, inside]))
    return (content as NestedItem[]).map((item, index) => {
      const inside = byIndex.get(index)
      return inside ? { ...item, values: change(inside) } : item
    })
  }

  /** The translation of a content that belongs to one locale. */
  #content(field: Field, source: unknown, translation: unknown, at: readonly string[]): unknown {
    if (!hasContent(source)) return translation
    const group = insideGroup(field)
    if (group && !field.many) {
      const values = this.#values(group, source as Document, recordOf(translation), at, {
        owner: group,
        values: source as Document,
        id: undefined,
        index: 0,
      })
      return values ?? translation
    }
    if (!isList(field)) return this.#value(field, source, translation, at)
    const isNested = field.kind === 'block' || field.kind === 'group'
    const insides = new Map(insideOf(this.#model, field, source).map((inside) => [inside.id, inside]))
    return mergeItems(source as Item[], translation, (item, existing) => {
      if (!isNested) {
        const before = (existing as ValueItem | undefined)?.value
        const value = this.#value(field, (item as ValueItem).value, before, [...at, item.id])
        return value === before ? undefined : value === undefined ? 'removed' : { id: item.id, value }
      }
      const inside = insides.get(item.id)
      if (!inside) return undefined
      const before = (existing as NestedItem | undefined)?.values
      const values = this.#values(inside.owner, inside.values, before, at, inside)
      return values && ({ ...(item as NestedItem), values } satisfies NestedItem)
    })
  }

  /** The values of a block, a group or an element that belong to one locale; undefined where none of their units is translated. */
  #values(
    owner: FieldOwner,
    source: Document,
    translation: Document | undefined,
    place: readonly string[],
    inside: Inside,
  ): Document | undefined {
    const result: Record<string, unknown> = { ...translation }
    let isChanged = false
    for (const field of owner.fields) {
      const before = translation?.[field.id]
      const now = this.#content(field, source[field.id], before, placeInside(place, inside, field.id))
      if (now === before) continue
      if (now === undefined) delete result[field.id]
      else result[field.id] = now
      isChanged = true
    }
    if (!isChanged) return undefined
    if (translation === undefined)
      for (const field of owner.fields)
        if (result[field.id] === undefined && !this.#hasUnits(field, source[field.id]))
          if (source[field.id] !== undefined) result[field.id] = source[field.id]
    return result
  }

  #value(field: Field, source: unknown, translation: unknown, at: readonly string[]): unknown {
    const parts = this.#texts.get(at.join('/'))
    const { translate } = kindOf(field)
    return parts && translate ? translate(source, parts, translation) : translation
  }

  /** Whether a content holds units of translation, at any depth. */
  #hasUnits(field: Field, content: unknown): boolean {
    if (!hasContent(content)) return false
    const insides = insideOf(this.#model, field, content)
    if (insides.length > 0)
      return insides.some(({ owner, values }) => owner.fields.some((inner) => this.#hasUnits(inner, values[inner.id])))
    const values = isList(field) ? (content as ValueItem[]).map(({ value }) => value) : [content]
    return values.some((value) => (kindOf(field).segments?.(value, field.options).length ?? 0) > 0)
  }
}

const withoutUnset = (map: LocaleMap): LocaleMap =>
  Object.fromEntries(Object.entries(map).filter(([, value]) => value !== undefined))

const recordOf = (content: unknown): Document | undefined => (isRecord(content) ? content : undefined)

const idsOf = (items: readonly Item[]): string[] => items.map(({ id }) => id)

/**
 * A list of the translation with the items of its source that `make` answers, each in its place; undefined when all of it is removed.
 */
function mergeItems(
  source: readonly Item[],
  translation: unknown,
  make: (item: Item, existing: Item | undefined) => Item | 'removed' | undefined,
): unknown {
  const before = Array.isArray(translation) ? (translation as Item[]) : []
  const result = [...before]
  let isChanged = false
  source.forEach((item, index) => {
    const at = result.findIndex(({ id }) => id === item.id)
    const made = make(item, result[at])
    if (made === undefined) return
    if (made === 'removed') {
      if (at < 0) return
      result.splice(at, 1)
    } else if (at >= 0) result[at] = made
    else result.splice(indexAfter(idsOf(source.slice(0, index)), idsOf(result)), 0, made)
    isChanged = true
  })
  if (!isChanged) return translation
  return result.length === 0 ? undefined : result
}
