import {
  blockTypeWithId,
  fieldNamed,
  kindOf,
  type ContentType,
  type Field,
  type Fielded,
  type Model,
} from '../model/model.js'
import type { Fact } from '../fields/shape.js'
import { hasContent, holdsLocales, type BlockItem, type Document, type LocaleMap, type ValueItem } from './document.js'

/** A reference that a projection holds. */
export interface Reference {
  /** The id of the field that holds it; inside blocks, of the block's field. */
  readonly field: string
  readonly target: string
  /** Whether the entry itself holds it, and not one of its blocks. */
  readonly direct: boolean
}

/** An entry as a reader of one locale gets it, with what conditions and sorting need to know of it. */
export interface Projection {
  /** By names, after fallback. A reference is `{ "id": … }`, a missing value null, a list without items `[]`. */
  readonly values: Record<string, unknown>
  /** By field id, comparable forms: single values, and lists for fields that hold many. */
  readonly facts: Record<string, Fact | Fact[]>
  /** In order. */
  readonly references: readonly Reference[]
  /** What the entry is called. */
  readonly title: string
}

/** The content of a field for a reader of the chain: the first that is not missing. Null is empty on purpose, and ends the search. */
export function resolve(content: unknown, chain: readonly string[]): { content: unknown; from: string | undefined } {
  const map = (content ?? {}) as LocaleMap
  for (const locale of chain) if (map[locale] !== undefined) return { content: map[locale], from: locale }
  return { content: undefined, from: undefined }
}

/** The content of a top-level field for a reader of the chain, whether localized or not. */
export const contentFor = (field: Field, document: Document, chain: readonly string[]): unknown =>
  field.localized ? resolve(document[field.id], chain).content : document[field.id]

export function project(model: Model, type: ContentType, document: Document, chain: readonly string[]): Projection {
  const facts: Record<string, Fact | Fact[]> = {}
  const references: Reference[] = []
  const within = (
    owner: Fielded,
    values: Document,
    insideLocale: boolean,
    direct: boolean,
  ): Record<string, unknown> => {
    const printed: Record<string, unknown> = {}
    for (const field of owner.fields) {
      const localized = holdsLocales(field, insideLocale)
      const content = localized ? resolve(values[field.id], chain).content : values[field.id]
      printed[field.name] = print(field, content, insideLocale || localized, direct)
    }
    return printed
  }
  const print = (field: Field, content: unknown, insideLocale: boolean, direct: boolean): unknown => {
    if (field.kind === 'block')
      return ((content as BlockItem[] | null | undefined) ?? []).flatMap((item) => {
        const block = blockTypeWithId(model, item.block)
        return block
          ? [{ handle: item.handle, block: block.name, values: within(block, item.values, insideLocale, false) }]
          : []
      })
    const values = !hasContent(content)
      ? []
      : field.many
        ? (content as ValueItem[]).map((item) => item.value)
        : [content]
    if (direct) {
      const kind = kindOf(field)
      const known = values.map((value) => kind.fact(value)).filter((fact) => fact !== undefined)
      if (field.many) facts[field.id] = known
      else if (known[0] !== undefined) facts[field.id] = known[0]
    }
    if (field.kind === 'entry') {
      for (const value of values) references.push({ field: field.id, target: value as string, direct })
      const held = values.map((id) => ({ id }))
      return field.many ? held : (held[0] ?? null)
    }
    return field.many ? values : (values[0] ?? null)
  }
  const values = within(type, document, false, true)
  return { values, facts, references, title: titleOf(type, document, chain) }
}

/** What an entry is called in a locale: its naming field, after fallback. Empty when it has no name yet. */
export function titleOf(type: ContentType, document: Document, chain: readonly string[]): string {
  const naming = fieldNamed(type, type.namedBy)
  const title = naming ? contentFor(naming, document, chain) : undefined
  return typeof title === 'string' ? title : ''
}

/**
 * Removes the references that a reader may not follow: a single one becomes null, one of many drops out.
 * `typeOf` answers the type's name of an entry that the reader may see, and undefined otherwise.
 */
export function settleReferences(
  model: Model,
  owner: Fielded,
  values: Record<string, unknown>,
  typeOf: (id: string) => string | undefined,
): Record<string, unknown> {
  const settled: Record<string, unknown> = { ...values }
  for (const field of owner.fields) {
    const content = settled[field.name]
    if (field.kind === 'entry') {
      const alive = ((field.many ? content : content === null ? [] : [content]) as { id: string }[]).flatMap(
        ({ id }) => {
          const type = typeOf(id)
          return type === undefined ? [] : [{ id, type }]
        },
      )
      settled[field.name] = field.many ? alive : (alive[0] ?? null)
    } else if (field.kind === 'block')
      settled[field.name] = (content as { block: string; values: Record<string, unknown> }[]).map((item) => {
        const block = model.blockTypes.find((one) => one.name === item.block)
        return block ? { ...item, values: settleReferences(model, block, item.values, typeOf) } : item
      })
  }
  return settled
}
