import {
  anyField,
  eachField,
  ownersInside,
  typeWithId,
  type ContentType,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { same } from '../modelFiles/consequences.js'

/** Whether stored entries of a type would be read differently, or validated by other rules. */
export function touches(before: Model, after: Model, type: ContentType): boolean {
  const now = typeWithId(after, type.id)
  return now !== undefined && !same(readAs(before, type), readAs(after, now))
}

/** The options that decide how a type's values are read and validated; labels and the like do not. */
function readAs(model: Model, type: ContentType): unknown {
  const owners = new Map<string, unknown>()
  const within = (owner: FieldOwner): void => {
    if (owners.has(owner.id)) return
    owners.set(owner.id, undefined)
    owners.set(owner.id, [
      owner.fields.map((field) => plain(field)),
      (owner.sections ?? []).map(({ name, showIf, requireIf }) => [name, showIf, requireIf]),
    ])
    for (const field of owner.fields) ownersInside(model, field).forEach(within)
  }
  within(type)
  return [...owners]
}

/** The options of a field that decide how its values are read and validated. */
const read = [
  'id',
  'kind',
  'required',
  'localized',
  'many',
  'count',
  'unique',
  'section',
  'showIf',
  'requireIf',
  'options',
] as const satisfies readonly (keyof Field)[]

const plain = (field: Field): unknown => [...read.map((name) => field[name]), field.fields?.map(plain)]

/** Ids of every field and owner that a type reaches. */
export function idsOf(model: Model, type: ContentType): Set<string> {
  const all = new Set<string>([type.id])
  anyField(
    model,
    type,
    (field, owner) => (
      all.add(field.id),
      all.add(owner.id),
      ownersInside(model, field).forEach((other) => all.add(other.id)),
      false
    ),
  )
  return all
}

/** The place of a field, for people: `activity.price`, `visitorInfo.contact.phone`, `quote.by`. */
export function placeOf(model: Model, type: ContentType, id: string): string {
  for (const owner of [type, ...model.blockTypes]) {
    let path: string | undefined
    eachField(owner, (field, on) => {
      if (field.id === id) path = [owner, ...on, field].map((step) => step.name).join('.')
    })
    if (path) return path
  }
  return type.name
}

/** Ids of every field of a model, in groups too. */
export function fieldIds(model: Model): Set<string> {
  const all = new Set<string>()
  for (const owner of [...model.types, ...model.blockTypes]) eachField(owner, (field) => void all.add(field.id))
  return all
}

export const isListing = (field: Field): boolean => field.kind === 'listing'

/** The names of all types, now and before: the queries of lists use them. */
export const namesOf = (model: Model): unknown => model.types.map(({ id, name, aliases }) => [id, name, aliases])

export const uniqueFields = (type: ContentType): Field[] => {
  const all: Field[] = []
  eachField(type, (field) => void (field.unique && all.push(field)))
  return all
}
