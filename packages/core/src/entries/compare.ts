import {
  blockTypeWithId,
  insideGroup,
  isList,
  kindOf,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { compareWords, type Piece } from '../text/compareWords.js'
import {
  hasContent,
  hasFields,
  holdsLocales,
  isBlockItem,
  isRecord,
  sameContent,
  type Document,
  type Item,
  type LocaleMap,
} from '../documents/document.js'
import { longestRising } from './risingRun.js'
import { printContent, printValues } from '../documents/names.js'

/** One place in which two documents differ. */
export interface Difference {
  readonly how: 'added' | 'removed' | 'changed' | 'moved'
  /** Field names and ids in turn, as in an edit; of an item, its id is the last. */
  readonly at: readonly string[]
  /** Its labels, from the outside in: `["Body", "Quote", "Words"]`. */
  readonly labels: readonly string[]
  readonly kind: string
  /** The internal id of the field, which decides how its values are shown. */
  readonly fieldId: string
  /** The locale that it belongs to, or null when all share it. */
  readonly locale: string | null
  /** By names; null where there is no value. */
  readonly before: unknown
  readonly after: unknown
  /** Of text: where the words differ. Of an item with fields that came, went or moved: its words. */
  readonly words?: readonly Piece[]
  /** Of an item: its place among its siblings before and after, from 1. */
  readonly from?: number
  readonly to?: number
}

interface Here {
  readonly at: readonly string[]
  /** Inside a single group: the step is written on with a dot. */
  readonly dotted?: boolean
  readonly labels: readonly string[]
  readonly locale: string | undefined
}

/**
 * Every place in which two documents differ, in the order of the fields. Items are matched by their ids, so a moved one is reported
 * as moved, and as few as possible; one that changed inside is compared inside.
 * @param locales the tags to compare, in their order.
 */
export function compareDocuments(
  model: Model,
  owner: FieldOwner,
  before: Document,
  after: Document,
  locales: readonly string[],
): Difference[] {
  const results: Difference[] = []
  const fields = (type: FieldOwner, old: Document, now: Document, here: Here): void => {
    for (const field of type.fields) {
      const inside = placeIn(here, field)
      const [was, is] = [old[field.id], now[field.id]]
      if (!holdsLocales(field, here.locale !== undefined)) content(field, was, is, inside)
      else for (const locale of locales) content(field, mapOf(was)[locale], mapOf(is)[locale], { ...inside, locale })
    }
  }
  const content = (field: Field, was: unknown, is: unknown, here: Here): void => {
    if (sameContent(was, is) || (!hasContent(was) && !hasContent(is))) return
    const group = insideGroup(field)
    if (group && !field.many) fields(group, mapOf(was), mapOf(is), { ...here, dotted: true })
    else if (isList(field)) items(field, listOf(was), listOf(is), here)
    else
      tell(field, here, {
        how: !hasContent(was) ? 'added' : !hasContent(is) ? 'removed' : 'changed',
        before: printed(field, was, here),
        after: printed(field, is, here),
        ...wordsOf(field, was, is, here),
      })
  }
  const items = (field: Field, was: readonly Item[], is: readonly Item[], here: Here): void => {
    const olds = new Map(was.map((item, index) => [item.id, { item, index }]))
    const news = new Set(is.map((item) => item.id))
    const stay = longestRising(is.flatMap((item) => olds.get(item.id)?.index ?? []))
    for (const [index, item] of was.entries())
      if (!news.has(item.id))
        tell(field, itemPlace(field, item, here), {
          how: 'removed',
          before: compareItem(field, item, here),
          after: null,
          from: index + 1,
          ...allWords(field, item, 'removed'),
        })
    for (const [index, item] of is.entries()) {
      const place = itemPlace(field, item, here)
      const old = olds.get(item.id)
      if (!old) {
        tell(field, place, {
          how: 'added',
          before: null,
          after: compareItem(field, item, here),
          to: index + 1,
          ...allWords(field, item, 'added'),
        })
        continue
      }
      if (!stay.has(old.index)) {
        const value = compareItem(field, item, here)
        tell(field, place, {
          how: 'moved',
          before: value,
          after: value,
          from: old.index + 1,
          to: index + 1,
          ...allWords(field, item, 'same'),
        })
      }
      if (sameContent(old.item, item)) continue
      const type = hasFields(item) && fieldedOf(field, item)
      if (type && hasFields(item) && hasFields(old.item)) fields(type, old.item.values, item.values, place)
      else if (!hasFields(item) && !hasFields(old.item))
        tell(field, place, {
          how: 'changed',
          before: old.item.value,
          after: item.value,
          ...wordsOf(field, old.item.value, item.value, here),
        })
    }
  }
  const fieldedOf = (field: Field, item: Item): FieldOwner | undefined =>
    insideGroup(field) ?? (isBlockItem(item) ? blockTypeWithId(model, item.block) : undefined)
  const itemPlace = (field: Field, item: Item, here: Here): Here => {
    const label = fieldedOf(field, item)?.label
    const isNamed = label !== undefined && label !== here.labels.at(-1)
    return {
      at: [...here.at, item.id],
      labels: isNamed ? [...here.labels, label] : here.labels,
      locale: here.locale,
    }
  }
  const printed = (field: Field, value: unknown, { locale }: Here): unknown =>
    value === undefined ? null : printContent(model, field, value, locale !== undefined)
  const compareItem = (field: Field, item: Item, here: Here): unknown => {
    const type = fieldedOf(field, item)
    if (!hasFields(item)) return item.value
    return {
      id: item.id,
      ...(isBlockItem(item) ? { block: type?.name ?? null } : {}),
      values: type ? printValues(model, type, item.values, here.locale !== undefined) : {},
    }
  }
  const wordsOf = (field: Field, was: unknown, is: unknown, { locale }: Here): { words?: Piece[] } => {
    const { searchText: words } = kindOf(field)
    if (!words) return {}
    const read = (value: unknown) => (hasContent(value) ? words(value) : '')
    const pieces = compareWords(read(was), read(is), locale)
    // The words are the same: their form differs, as a mark or a link does.
    return pieces.some((piece) => piece.is !== 'same') ? { words: pieces } : {}
  }
  const allWords = (field: Field, item: Item, is: Piece['is']): { words?: Piece[] } => {
    const text = hasFields(item) ? wordsInside(model, fieldedOf(field, item), item.values, locales).join('\n') : ''
    return text === '' ? {} : { words: [{ is, text }] }
  }
  const tell = (
    field: Field,
    here: Here,
    more: Omit<Difference, 'at' | 'labels' | 'kind' | 'fieldId' | 'locale'>,
  ): void =>
    void results.push({
      at: here.at,
      labels: here.labels,
      kind: field.kind,
      fieldId: field.id,
      locale: here.locale ?? null,
      ...more,
    })
  fields(owner, before, after, { at: [], labels: [], locale: undefined })
  return results
}

/** Everything that people read as running text inside an owner, in the order of its fields. */
export function wordsInside(
  model: Model,
  owner: FieldOwner | undefined,
  values: Document,
  locales: readonly string[],
): string[] {
  if (!owner) return []
  return owner.fields.flatMap((field): string[] => {
    const stored = values[field.id]
    const { searchText: words } = kindOf(field)
    const group = insideGroup(field)
    const contents =
      field.localized && isRecord(stored) ? locales.map((locale) => (stored as LocaleMap)[locale]) : [stored]
    return contents.flatMap((content): string[] => {
      if (!hasContent(content)) return []
      if (group && !field.many) return wordsInside(model, group, mapOf(content), locales)
      if (!isList(field)) return words ? [words(content)] : []
      return listOf(content).flatMap((item) =>
        hasFields(item)
          ? wordsInside(
              model,
              group ?? (isBlockItem(item) ? blockTypeWithId(model, item.block) : undefined),
              item.values,
              locales,
            )
          : words
            ? [words(item.value)]
            : [],
      )
    })
  })
}

const placeIn = ({ at, dotted, labels, locale }: Here, field: Field): Here => ({
  at: dotted ? [...at.slice(0, -1), `${at.at(-1)!}.${field.name}`] : [...at, field.name],
  labels: [...labels, field.label],
  locale,
})

const mapOf = (content: unknown): Document => (isRecord(content) ? content : {})
const listOf = (content: unknown): readonly Item[] => (Array.isArray(content) ? (content as Item[]) : [])
