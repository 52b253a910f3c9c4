import { bindHere, speaksOfHere, type Here } from '../conditions/here.js'
import type { BoundListing, Listing } from '../fields/listing.js'
import { mainRegion } from '../locales/regions.js'
import { isShownAt } from './fieldRules.js'
import type { Fact } from '../fields/shape.js'
import {
  fieldNamed,
  insideGroup,
  isList,
  kindOf,
  type ContentType,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { hasContent, holdsLocales, insideOf, isRecord, type Document, type ValueItem } from './document.js'
import { factsIn, resolve, storedReader, type Facts, type Values } from './facts.js'
import type { Fallbacks } from './fallbacks.js'

/** A reference in a projection. */
export interface Reference {
  /** The id of its field; inside blocks, of the block's field. */
  readonly field: string
  readonly target: string
  /** Whether the entry itself has it, in a field of kind entry, and not one of its blocks or texts. */
  readonly direct: boolean
}

/** The facts of an element of a repeated group, for conditions and sorting: by field id, its own groups by id and an `e`. */
export interface Element {
  readonly [key: string]: Fact | readonly Fact[] | readonly Element[]
}

/** An entry for readers of one locale, with its facts for conditions and sorting. */
export interface Projection {
  /** By names, after fallback. A reference is `{ "id": … }`, a missing value null, a list without items `[]`. */
  readonly values: Record<string, unknown>
  /** The values that come from another locale than the first of the chain. */
  readonly fallbacks: Fallbacks
  /** By field id, comparable forms: single values, and lists for fields with multiple values. */
  readonly facts: Record<string, Fact | Fact[]>
  /** By the id of a repeated group. */
  readonly elements: Record<string, Element[]>
  /** In order. */
  readonly references: readonly Reference[]
  /** Ids of its assets, each once. */
  readonly assets: readonly string[]
  /** Its running text, in order. */
  readonly texts: readonly string[]
  /** The title of the entry. */
  readonly title: string
}

/** The content of a top-level field for a reader of the chain, whether localized or not. */
export const contentFor = (field: Field, document: Document, chain: readonly string[]): unknown =>
  storedReader(chain)(document, field)

/**
 * An entry as readers of a chain of locales get it.
 * @param id of the entry, which its lists may call `here`.
 * @param region of the entry, whose entries its lists find; null for none.
 */
export function project(
  model: Model,
  type: ContentType,
  document: Document,
  chain: readonly string[],
  id = '',
  region: string | null = null,
): Projection {
  const references: Reference[] = []
  const assets = new Set<string>()
  const texts: string[] = []
  const fallbacks: Record<string, string[]> = {}
  const noteFallback = (locale: string, pointer: string): void => void (fallbacks[locale] ??= []).push(pointer)
  const shown = (insideLocale: boolean) => {
    const read = storedReader(chain, insideLocale)
    return (owner: FieldOwner, field: Field, values: Values): boolean => isShownAt(model, owner, field, values, read)
  }
  const facts = factsIn(type, document, storedReader(chain), shown(false))
  const here = { id, owner: type, facts: facts.facts, references: facts.references }
  const within = (
    owner: FieldOwner,
    values: Document,
    pointer: string,
    insideLocale: boolean,
    direct: boolean,
  ): Record<string, unknown> => {
    const printed: Record<string, unknown> = {}
    const isShown = shown(insideLocale)
    /** By the names of fields. */
    const from = new Map<string, string>()
    for (const field of owner.fields) {
      const isHere = holdsLocales(field, insideLocale)
      const found = isHere ? resolve(values[field.id], chain) : { content: values[field.id], from: undefined }
      const content = isShown(owner, field, values) ? found.content : undefined
      if (content !== undefined && found.from !== undefined && found.from !== chain[0])
        for (const name of [field.name, ...(field.aliases ?? [])]) from.set(name, found.from)
      printed[field.name] = print(field, content, `${pointer}/${field.name}`, insideLocale || isHere, direct)
    }
    for (const field of owner.fields) {
      if (field.kind === 'metadata') completeMetadata(owner, field, printed, from)
    }
    for (const field of owner.fields) for (const alias of field.aliases ?? []) printed[alias] = printed[field.name]
    for (const [name, locale] of from) noteFallback(locale, `${pointer}/${name}`)
    return printed
  }
  const print = (field: Field, content: unknown, pointer: string, insideLocale: boolean, direct: boolean): unknown => {
    const group = insideGroup(field)
    if (group && !field.many) return within(group, isRecord(content) ? content : {}, pointer, insideLocale, direct)
    if (group || field.kind === 'block') {
      const items = insideOf(model, field, content).map((inside, index) => {
        const at = field.many ? `${pointer}/${index}/values` : `${pointer}/values`
        const values = within(inside.owner, inside.values, at, insideLocale, direct && group !== undefined)
        const { id } = inside
        return group ? { id, values } : { id, block: inside.owner.name, values }
      })
      return field.many ? items : (items[0] ?? null)
    }
    const kind = kindOf(field)
    const all = !hasContent(content)
      ? []
      : isList(field)
        ? (content as ValueItem[]).map((item) => item.value)
        : [content]
    for (const value of all) {
      const referred = kind.references?.(value)
      for (const target of referred?.entries ?? [])
        references.push({ field: field.id, target, direct: direct && field.kind === 'entry' })
      for (const asset of referred?.assets ?? []) assets.add(asset)
      if (kind.searchText) texts.push(kind.searchText(value))
    }
    const printed = all.map(
      (value) => kind.print?.(value) ?? (field.kind === 'listing' ? listingHere(value, here, region) : value),
    )
    return field.many ? printed : (printed[0] ?? null)
  }
  const values = within(type, document, '', false, true)
  for (const field of type.fields)
    if (field.kind === 'metadata') for (const id of imagesIn(values[field.name])) assets.add(id)
  return {
    values,
    fallbacks,
    facts: facts.facts,
    elements: Object.fromEntries(Object.entries(facts.elements).map(([id, all]) => [id, all.map(elementOf)])),
    references,
    assets: [...assets],
    texts,
    title: titleOf(type, document, chain),
  }
}

/** A list with the values of the entry around it. */
function listingHere(value: unknown, here: Here, region: string | null): unknown {
  const { where, ...more } = value as Listing
  const bound = speaksOfHere(where) ? { ...more, where: bindHere(where!, here) } : (value as Listing)
  return region === null || region === mainRegion ? bound : ({ ...bound, region } satisfies BoundListing)
}

function elementOf({ facts, elements, references }: Facts): Element {
  const inner = Object.entries(elements).map(([id, all]) => [`${id}e`, all.map(elementOf)] as const)
  return { ...facts, ...references, ...Object.fromEntries(inner) }
}

/**
 * Missing parts of metadata are taken from the fields that its `from` names.
 * @param locales those that values come from, by name: of metadata its parts are noted, since each has its own.
 */
function completeMetadata(
  owner: FieldOwner,
  field: Field,
  printed: Record<string, unknown>,
  locales: Map<string, string>,
): void {
  const from = (field.options['from'] ?? {}) as Readonly<Record<string, string>>
  const written = (printed[field.name] ?? {}) as Record<string, unknown>
  const names = [field.name, ...(field.aliases ?? [])]
  const ownLocale = locales.get(field.name)
  for (const name of names) locales.delete(name)
  const part = (member: string): unknown => {
    const name = from[member]
    const isWritten = (written[member] ?? null) !== null
    const source = isWritten || name === undefined ? undefined : fieldNamed(owner, name)
    const value = isWritten ? written[member] : source ? (printed[source.name] ?? null) : null
    const locale = isWritten ? ownLocale : source && locales.get(source.name)
    if (value !== null && locale !== undefined) for (const name of names) locales.set(`${name}/${member}`, locale)
    return value
  }
  printed[field.name] = {
    title: part('title'),
    description: part('description'),
    image: part('image'),
    hidden: written['hidden'] ?? false,
  }
}

const imagesIn = (metadata: unknown): string[] => {
  const image = (metadata as { image?: { id: string } | null } | null)?.image
  return image ? [image.id] : []
}

/** The title of an entry in a locale: its title field, after fallback. Empty when it has none yet. */
export function titleOf(type: ContentType, document: Document, chain: readonly string[]): string {
  const naming = fieldNamed(type, type.namedBy)
  const title = naming ? contentFor(naming, document, chain) : undefined
  return typeof title === 'string' ? title : ''
}
