import type { Fact } from '../fields/shape.js'
import { insideGroup, isList, kindOf, type Field, type FieldOwner } from '../model/model.js'
import { hasContent, holdsLocales, type LocaleMap, type NestedItem, type ValueItem } from './document.js'

/** The values of a set of fields, keyed by field ids as stored, or by names as in a form. */
export type Values = Readonly<Record<string, unknown>>

/** Reads a field's content from the values around it, as readers of one locale get it. */
export type ReadField = (values: Values, field: Field) => unknown

/** The facts of an entry, or of one element of a repeated group, for conditions. */
export interface Facts {
  /** By field id: single values, and lists for fields with multiple values or inside a repeated group. */
  readonly facts: Record<string, Fact | Fact[]>
  /** The facts of each element, by the id of the repeated group. */
  readonly elements: Record<string, Facts[]>
  /** By the id of a field of kind entry: the ids it refers to. */
  readonly references: Record<string, string[]>
}

/** The content for a reader of the chain, of documents keyed by ids. `insideLocale` when everything belongs to a locale already. */
export const storedReader =
  (chain: readonly string[], insideLocale = false): ReadField =>
  (values, field) =>
    holdsLocales(field, insideLocale) ? resolve(values[field.id], chain).content : values[field.id]

/** The same of values keyed by names. */
export const namedReader =
  (chain: readonly string[], insideLocale = false): ReadField =>
  (values, field) =>
    holdsLocales(field, insideLocale) ? resolve(values[field.name], chain).content : values[field.name]

/** The content of a field for a reader of the chain: the first that is not missing. Null is empty on purpose, and ends the search. */
export function resolve(content: unknown, chain: readonly string[]): { content: unknown; from: string | undefined } {
  const map = (content ?? {}) as LocaleMap
  for (const locale of chain) if (map[locale] !== undefined) return { content: map[locale], from: locale }
  return { content: undefined, from: undefined }
}

/** The comparable facts of an owner's fields, groups included; without fields that `isWanted` refuses. */
export function factsIn(
  owner: FieldOwner,
  values: Values,
  read: ReadField,
  isWanted: (owner: FieldOwner, field: Field, values: Values) => boolean = () => true,
): Facts {
  const facts: Facts = { facts: {}, elements: {}, references: {} }
  const within = (type: FieldOwner, inside: Values): void => {
    for (const field of type.fields) {
      const content = read(inside, field)
      if (!hasContent(content) || !isWanted(type, field, inside)) continue
      const group = insideGroup(field)
      if (group && !field.many) {
        facts.facts[field.id] = 1
        within(group, content as Values)
      } else if (group) {
        facts.facts[field.id] = 1
        const elements = (content as NestedItem[]).map((item) => factsIn(group, item.values, read, isWanted))
        facts.elements[field.id] = elements
        for (const element of elements) flatten(element, facts)
      } else single(field, content)
    }
  }
  const single = (field: Field, content: unknown): void => {
    const kind = kindOf(field)
    if (kind.comparison === 'presence') return void (facts.facts[field.id] = 1)
    const all = isList(field) ? (content as ValueItem[]).map((item) => item.value) : [content]
    const values = all.flatMap((value) =>
      kind.checkForm(value, field.options) === undefined ? (kind.fact(value) ?? []) : [],
    )
    if (kind.comparison === 'reference') facts.references[field.id] = values.map(String)
    else if (field.many) facts.facts[field.id] = values
    else if (values[0] !== undefined) facts.facts[field.id] = values[0]
  }
  within(owner, values)
  return facts
}

/** Facts of elements also count for the whole: a path through a repeated group means any of them. */
function flatten(element: Facts, into: Facts): void {
  for (const [id, fact] of Object.entries(element.facts)) {
    const before = into.facts[id]
    into.facts[id] = [
      ...(before === undefined ? [] : Array.isArray(before) ? before : [before]),
      ...(Array.isArray(fact) ? fact : [fact]),
    ]
  }
  for (const [id, targets] of Object.entries(element.references))
    into.references[id] = [...(into.references[id] ?? []), ...targets]
}
