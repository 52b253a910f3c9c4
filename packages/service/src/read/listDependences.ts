import {
  anyByte,
  asksFor,
  eachField,
  fieldsIn,
  kindOf,
  shapeOf,
  tellsValues,
  toldFact,
  typeNamed,
  type CheckedCondition,
  type Condition,
  type ContentType,
  type Dependences,
  type Field,
  type FieldValues,
  type Model,
} from '@wisteria/core'
import type { SortKey } from '@wisteria/store'

/** A type whose entries decide on a list, with the top-level fields that do. */
interface TypeUse {
  readonly type: string
  /** The type that refers to them; undefined for those that are listed. */
  readonly by: string | undefined
  /** Where a field has one of these values. */
  readonly having?: FieldValues | undefined
  readonly fields: readonly string[]
}

/** What decides which entries are listed, also through references; and which of their fields order them. */
export interface ListUses {
  readonly entries: readonly TypeUse[]
  readonly order: readonly Pick<TypeUse, 'type' | 'fields'>[]
}

/** The fields that a list asks for: of its type, and of the types that references lead to. */
export function usesOf(
  model: Model,
  type: ContentType | undefined,
  checked: CheckedCondition | undefined,
  sort: readonly SortKey[],
  searches: boolean,
): ListUses {
  const listed = type ? [type] : model.types
  const asked = checked ? fieldsIn(checked.condition) : []
  const ordering = sort.flatMap(({ by }) => ('field' in by ? [[...(by.through ?? []), by.field]] : []))
  const through = new Set([...asked, ...ordering.flat()])
  const places = placesIn(model)
  const fieldsOf = (type: string, ids: Iterable<string>): string[] =>
    [...ids].flatMap((id) => (places.get(id)?.type === type ? [places.get(id)!.top] : []))
  const isByUpdated = checked !== undefined && asksFor(checked.condition, 'updated')
  const always = isByUpdated ? [anyByte] : []
  const having = type && checked && valuesAsked(model, checked.condition)
  const others = having ? asked.filter((id, at) => id !== having.id || asked.indexOf(id) !== at) : asked
  const entries: TypeUse[] = listed.map(({ name, fields }) => ({
    type: name,
    by: undefined,
    having: having?.values,
    fields: [...always, ...fieldsOf(name, others), ...(searches ? searchedIn(fields) : [])],
  }))
  for (const [by, type] of referencesAmong(model, through))
    entries.push({ type, by, fields: [...always, ...fieldsOf(type, through)] })
  const isSortedByUpdated = sort.some(({ by }) => 'system' in by && by.system === 'updated')
  const order = listed.map(({ name: type }) => ({
    type,
    fields: [
      ...fieldsOf(
        type,
        ordering.map(([own]) => own!),
      ),
      ...(isSortedByUpdated ? [anyByte] : []),
    ],
  }))
  return { entries, order }
}

/** The most values that a list is told by. */
const mostValues = 5

/** A field of which all listed entries have one of some values, as the condition says. */
function valuesAsked(model: Model, condition: Condition): { id: string; values: FieldValues } | undefined {
  if (condition.is === 'and') {
    for (const part of condition.of) {
      const asked = valuesAsked(model, part)
      if (asked) return asked
    }
    return undefined
  }
  const isEqual = condition.is === 'compare' && condition.operator === '='
  if (!isEqual && condition.is !== 'in') return undefined
  const { steps, fact } = condition.subject
  const all = condition.is === 'in' ? condition.values : [condition.value]
  if (steps.length > 0 || fact.is === 'system' || fact.fields.length !== 1 || all.length > mostValues) return undefined
  const values = all.flatMap((value) => (typeof value === 'object' ? [] : toldFact(value)))
  if (values.length < all.length) return undefined
  const [id] = fact.fields as [string]
  const place = placesIn(model).get(id)
  if (!place || place.top !== place.field.name || !tellsValues(place.field)) return undefined
  return { id, values: { field: place.top, values } }
}

/** Which types refer to which, by some fields. */
function referencesAmong(model: Model, ids: ReadonlySet<string>): [by: string, type: string][] {
  const pairs = new Map<string, [string, string]>()
  for (const id of ids) {
    const place = placesIn(model).get(id)
    const shape = place && shapeOf(place.field)
    if (shape?.is !== 'reference') continue
    for (const target of shape.to) {
      const type = typeNamed(model, target)?.name ?? target
      pairs.set(`${place!.type} ${type}`, [place!.type, type])
    }
  }
  return [...pairs.values()]
}

/** The names of the fields whose texts are searched, and of those that may hold such fields. */
export const searchedIn = (fields: readonly Field[]): string[] =>
  fields.filter((field) => kindOf(field).searchText || ['group', 'block'].includes(field.kind)).map(({ name }) => name)

/**
 * Notes what a page of a list depends on, besides the entries on it.
 * @param isWhole whether it is the whole list, with every byte of its entries: what orders them is then known to be on it.
 */
export function dependOnList(
  depends: Dependences,
  { uses, query: { locale } }: { readonly uses: ListUses; readonly query: { readonly locale: string } },
  isWhole: boolean,
): void {
  for (const { type, by, having, fields } of uses.entries)
    if (having) depends.having(having, type, fields, locale)
    else if (by === undefined) depends.type(type, fields, locale)
    else depends.used(by, type, fields, locale)
  // Which entries there are has been said.
  if (!isWhole) for (const { type, fields } of uses.order) depends.fields(type, fields, locale)
}

interface FieldPlace {
  readonly type: string
  readonly field: Field
  /** The name of the field of the type itself that it is, or is inside. */
  readonly top: string
}

const fieldPlaces = new WeakMap<Model, ReadonlyMap<string, FieldPlace>>()

/** Every field of a type, also inside groups, by its id. */
function placesIn(model: Model): ReadonlyMap<string, FieldPlace> {
  const cached = fieldPlaces.get(model)
  if (cached) return cached
  const all = new Map<string, FieldPlace>()
  for (const type of model.types)
    eachField(type, (field, on) => all.set(field.id, { type: type.name, field, top: (on[0] ?? field).name }))
  fieldPlaces.set(model, all)
  return all
}
