import { isRichText, type RichBlock } from '../richtext/document.js'
import { blockTypeWithId, insideGroup, isList, type Field, type FieldOwner, type Model } from '../model/model.js'

/**
 * The values of an entry, as stored: keyed by the internal ids of fields, so that a rename changes nothing. A localized field has a
 * map from locale to content. Absent is missing; null is empty on purpose.
 */
export interface Document {
  readonly [fieldId: string]: unknown
}

/** One of many: a scalar or reference with its id. */
export interface ValueItem {
  readonly id: string
  readonly value: unknown
}

/** One element of a repeated group. */
export interface NestedItem {
  readonly id: string
  readonly values: Document
}

export interface BlockItem extends NestedItem {
  /** The block type's internal id. */
  readonly block: string
}

export type Item = ValueItem | NestedItem | BlockItem
export type LocaleMap = Readonly<Record<string, unknown>>

/** The identity of an item among its siblings: its id, or the id of a block of rich text. */
export const identityOf = (item: Item | RichBlock): string => ('id' in item ? item.id : item.data.id)

/** The items of a list, or the blocks of a rich text; undefined where a content is neither. */
export const itemsOf = (content: unknown): readonly (Item | RichBlock)[] | undefined =>
  Array.isArray(content) ? (content as Item[]) : isRichText(content) ? content.children : undefined

/** Whether an item has fields of its own: a block, or an element of a group. */
export const hasFields = (item: Item | RichBlock): item is NestedItem | BlockItem => 'values' in item
export const isBlockItem = (item: Item): item is BlockItem => 'block' in item

/** The fields inside a place, with their values. */
export interface Inside {
  readonly owner: FieldOwner
  readonly values: Document
  /** Of an item; undefined inside a single group. */
  readonly id: string | undefined
  /** Its position among its siblings. */
  readonly index: number
}

/** The owners inside a content: the fields of its blocks, of the elements of a group, or of the single group. */
export function insideOf(model: Model, field: Field, content: unknown): Inside[] {
  const group = insideGroup(field)
  if (group && !field.many) return isRecord(content) ? [{ owner: group, values: content, id: undefined, index: 0 }] : []
  if ((!group && field.kind !== 'block') || !Array.isArray(content)) return []
  return (content as (NestedItem | BlockItem)[]).flatMap((item, index) => {
    const owner = group ?? ('block' in item ? blockTypeWithId(model, item.block) : undefined)
    return owner ? [{ owner, values: item.values, id: item.id, index }] : []
  })
}

/**
 * The place of a field inside another place. Inside a block or an element a new step begins; a field of a single group is joined to
 * the group's own step with a dot, as in a path.
 */
export const placeInside = (place: readonly string[], inside: Inside | undefined, step: string): string[] =>
  inside === undefined
    ? [...place, step]
    : inside.id === undefined
      ? [...place.slice(0, -1), `${place.at(-1)!}.${step}`]
      : [...place, inside.id, step]

/** The JSON Pointer of something inside a place. */
export const pointerInside = (pointer: string, { id, index }: Inside): string =>
  id === undefined ? pointer : `${pointer}/${index}/values`

/**
 * Whether a field's content is a map of locales at its place: inside a localized one, everything belongs to that locale already.
 */
export const holdsLocales = (field: Field, insideLocale: boolean): boolean => field.localized && !insideLocale

export const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** The place of a single value, for walks over all values. */
export interface Spot {
  readonly owner: FieldOwner
  readonly field: Field
  /** JSON Pointer under `/values`, by names and positions. */
  readonly pointer: string
  /** Field ids and ids from the top. */
  readonly place: readonly string[]
  /** The locale whose layer it is in; undefined in the shared layer. */
  readonly locale: string | undefined
  /** The values of the fields around it. */
  readonly around: Document
  /** Whether everything around it belongs to a locale already. */
  readonly insideLocale: boolean
}

/**
 * Calls `visit` for every possible content: each field of the entry, of its groups and of its blocks, per locale of `locales` where
 * localized. `content` is undefined where nothing is stored. A list or group is visited as a whole, then its inside, unless `visit`
 * returns false.
 */
export function walk(
  model: Model,
  owner: FieldOwner,
  document: Document,
  locales: readonly string[],
  visit: (content: unknown, spot: Spot) => boolean | void,
): void {
  const into = (
    type: FieldOwner,
    values: Document,
    pointer: string,
    placeOf: (step: string) => string[],
    locale: string | undefined,
  ) => {
    const insideLocale = locale !== undefined
    // One object literal for each spot: this is the innermost loop of all walks over documents.
    const spot = (field: Field, at: string, place: readonly string[], tag: string | undefined): Spot => ({
      owner: type,
      field,
      pointer: at,
      place,
      around: values,
      insideLocale,
      locale: tag,
    })
    for (const field of type.fields) {
      const content = values[field.id]
      const [path, place] = [`${pointer}/${field.name}`, placeOf(field.id)]
      if (!holdsLocales(field, insideLocale)) {
        at(content, spot(field, path, place, locale))
        continue
      }
      const map: LocaleMap = isRecord(content) ? content : {}
      for (const tag of locales) at(map[tag], spot(field, `${path}/${tag}`, place, tag))
    }
  }
  const at = (content: unknown, spot: Spot) => {
    if (visit(content, spot) === false) return
    const { field, pointer, place, locale } = spot
    // The fields of a single group are visited even while it has no content.
    const opened = field.kind === 'group' && !field.many && !isRecord(content) ? {} : content
    for (const inside of insideOf(model, field, opened))
      into(
        inside.owner,
        inside.values,
        pointerInside(pointer, inside),
        (step) => placeInside(place, inside, step),
        locale,
      )
  }
  into(owner, document, '/values', (step) => [step], undefined)
}

/** The ids of the items of a document: those of shared lists, and of lists of these locales. */
export function itemIdsIn(
  model: Model,
  owner: FieldOwner,
  document: Document,
  locales: readonly string[],
): Set<string> {
  const ids = new Set<string>()
  walk(model, owner, document, locales, (content, { field }) => {
    if (isList(field) && Array.isArray(content)) for (const { id } of content as Item[]) ids.add(id)
  })
  return ids
}

/** The single values of a content: itself, or those of its items. Empty ones and those with fields of their own are left out. */
export function valuesIn(content: unknown, field: Field): unknown[] {
  if (content === undefined || content === null || field.kind === 'group' || field.kind === 'block') return []
  return isList(field) ? (content as ValueItem[]).map((item) => item.value) : [content]
}

/** Whether a reader would see a value. An empty text, list, group or rich text is none. */
export const hasContent = (content: unknown): boolean =>
  content !== undefined &&
  content !== null &&
  content !== '' &&
  itemsOf(content)?.length !== 0 &&
  !(isRecord(content) && Object.keys(content).length === 0)

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
