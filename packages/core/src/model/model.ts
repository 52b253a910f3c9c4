import { kindNamed } from '../fields/kinds.js'
import type { FieldKind } from '../fields/kind.js'
import type { Shape } from '../fields/shape.js'

/** Rules in the condition language, over the fields around the field. */
export interface Rules {
  /** Shown, validated and published only where this holds. */
  readonly showIf?: string
  /** Required to publish where this holds. */
  readonly requireIf?: string
  /** Locked where this holds. */
  readonly lockIf?: string
}

/** A rule across fields, with the message for when it does not hold. */
export interface Check {
  /** A condition over the fields of an owner. */
  readonly holds: string
  readonly message?: string
}

export interface Field extends Rules {
  /** Internal: assigned when first seen, never reused. Stored documents are keyed by it. */
  readonly id: string
  readonly name: string
  /** Names that it had and still answers to. */
  readonly aliases?: readonly string[]
  readonly kind: string
  readonly label: string
  readonly help?: string
  /** An example value, shown to editors. */
  readonly example?: string
  readonly required: boolean
  readonly localized: boolean
  /** Whether readers get a list. */
  readonly many: boolean
  readonly count?: { readonly min?: number | undefined; readonly max?: number | undefined }
  readonly indexed: boolean
  /** Whether no two public entries of the type may have the same value in a locale. */
  readonly unique?: boolean
  /** The initial value of a new entry: a value, or an expression. */
  readonly default?: { readonly value: unknown } | { readonly expression: string }
  /** Its section. */
  readonly section?: string
  /** Of a group: the fields inside, and the rules across them. */
  readonly fields?: readonly Field[]
  readonly checks?: readonly Check[]
  /** The kind's own options, as the kind's schema read them. */
  readonly options: Readonly<Record<string, unknown>>
}

/** A named part of a form. */
export interface Section extends Rules {
  readonly name: string
  readonly label: string
  readonly help?: string
  /** Whether it is folded when the form opens. */
  readonly collapsed: boolean
}

/** Anything that has fields: a content type, a block type, or a field of kind group. */
export interface FieldOwner {
  readonly id: string
  readonly name: string
  readonly label: string
  readonly help?: string
  readonly icon?: string
  readonly aliases?: readonly string[]
  readonly sections?: readonly Section[]
  readonly checks?: readonly Check[]
  readonly fields: readonly Field[]
}

export interface ContentType extends FieldOwner {
  /** `one`: exactly one entry, which always exists. */
  readonly cardinality: 'many' | 'one'
  /** The name of the field that names an entry to people. */
  readonly namedBy: string
  /** Path patterns by locale; a locale without one has no paths. */
  readonly path?: Readonly<Record<string, string>>
  /** The name of the field (kind entry) that `{parent}` follows. */
  readonly parent?: string
  /** The name of the field (kind number) that orders entries with the same parent. */
  readonly order?: string
  /** The name of the field (kind boolean) that decides whether menus show an entry. */
  readonly menu?: string
  /** False where an entry needs a parent to be public. */
  readonly root?: false
  /** False where a save publishes at once. */
  readonly drafts?: false
  /** Whether its entries belong to regions. */
  readonly regional?: true
  /** Fixed when the type is made, so that existing queries keep working. */
  readonly graphql: { readonly type: string; readonly one: string; readonly many: string }
}

export interface BlockType extends FieldOwner {
  readonly graphql: { readonly type: string }
}

/** A field as it was when documents of older models were written, for reading them. */
export interface FieldForm {
  readonly kind: string
  readonly many: boolean
  readonly localized: boolean
  readonly options: Readonly<Record<string, unknown>>
}

/** A change of a field's form: documents written under a model before `version` are converted when they are read. */
export interface Conversion {
  readonly version: number
  readonly field: string
  readonly from: FieldForm
  readonly to: FieldForm
  /** The site's default locale and time zone at that time. */
  readonly locale: string
  readonly timeZone: string
}

export interface Model {
  /** 0 before anything was adopted. */
  readonly version: number
  /** The next internal id. */
  readonly nextId: number
  readonly types: readonly ContentType[]
  readonly blockTypes: readonly BlockType[]
  /** In the order in which they were adopted. */
  readonly conversions?: readonly Conversion[]
}

export const emptyModel: Model = { version: 0, nextId: 1, types: [], blockTypes: [] }

/** By its name, or an earlier one that still works. */
function named<T extends { readonly name: string; readonly aliases?: readonly string[] }>(
  all: readonly T[],
  name: string,
): T | undefined {
  return all.find((item) => item.name === name) ?? all.find((item) => item.aliases?.includes(name))
}

export const typeNamed = (model: Model, name: string): ContentType | undefined => named(model.types, name)

export const typeWithId = (model: Model, id: string): ContentType | undefined =>
  model.types.find((type) => type.id === id)

export const blockTypeNamed = (model: Model, name: string): BlockType | undefined => named(model.blockTypes, name)

export const blockTypeWithId = (model: Model, id: string): BlockType | undefined =>
  model.blockTypes.find((type) => type.id === id)

export const fieldNamed = (owner: FieldOwner, name: string): Field | undefined => named(owner.fields, name)

export const fieldWithId = (owner: FieldOwner, id: string): Field | undefined =>
  owner.fields.find((field) => field.id === id)

/** The field at a dotted path through groups: `contact.phone`; with every field on the way. */
export function fieldsAt(owner: FieldOwner, path: string): Field[] | undefined {
  const results: Field[] = []
  let here: FieldOwner = owner
  for (const name of path.split('.')) {
    const field = fieldNamed(here, name)
    if (!field) return undefined
    results.push(field)
    here = insideGroup(field) ?? { ...here, fields: [] }
  }
  return results
}

export const kindOf = (field: Field): FieldKind => kindNamed(field.kind)

export const shapeOf = (field: Field): Shape => kindOf(field).shape(field.options)

/** Whether a working copy has a list for it: many values, or blocks, even of a field with one block. */
export const isList = (field: Field): boolean => field.many || field.kind === 'block'

/** Whether readers get a list of it, whatever is stored. */
export const isListForReaders = (field: Field): boolean => {
  const shape = field.many ? undefined : shapeOf(field)
  return field.many || (shape?.is === 'reference' && shape.filled === true)
}

/** A group as something that has fields; undefined for any other field. */
export const insideGroup = (field: Field): FieldOwner | undefined =>
  field.kind === 'group' ? (field as Field & { fields: readonly Field[] }) : undefined

/** The owners inside a field: the block types that it accepts, or the group itself. */
export function ownersInside(model: Model, field: Field): FieldOwner[] {
  const group = insideGroup(field)
  if (group) return [group]
  const shape = shapeOf(field)
  return shape.is === 'blocks' ? shape.of.flatMap((name) => blockTypeNamed(model, name) ?? []) : []
}

/** Calls `visit` for every field of an owner and of the groups in it, with the fields on the way. Blocks are owners of their own. */
export function eachField(
  owner: FieldOwner,
  visit: (field: Field, on: readonly Field[]) => void,
  on: readonly Field[] = [],
): void {
  for (const field of owner.fields) {
    visit(field, on)
    const group = insideGroup(field)
    if (group) eachField(group, visit, [...on, field])
  }
}

/** Whether any field, at any depth of groups and blocks, passes. */
export function anyField(
  model: Model,
  owner: FieldOwner,
  passes: (field: Field, owner: FieldOwner) => boolean,
): boolean {
  const seen = new Set<string>()
  const within = (owner: FieldOwner): boolean => {
    if (seen.has(owner.id)) return false
    seen.add(owner.id)
    return owner.fields.some((field) => passes(field, owner) || ownersInside(model, field).some(within))
  }
  return within(owner)
}

const localizedOwners = new WeakMap<Model, Map<string, boolean>>()

/** Whether any field, at any depth, is localized. */
export function isLocalized(model: Model, owner: FieldOwner): boolean {
  const cached = localizedOwners.get(model) ?? new Map<string, boolean>()
  localizedOwners.set(model, cached)
  const answer = cached.get(owner.id) ?? anyField(model, owner, (field) => field.localized)
  cached.set(owner.id, answer)
  return answer
}

/** Every owner of the model: types, then block types. */
export const ownersOf = (model: Model): readonly (ContentType | BlockType)[] => [...model.types, ...model.blockTypes]

/** The field of an internal id, wherever in a model it is; undefined where the model has none. */
export function fieldAnywhere(model: Model, id: string): Field | undefined {
  let match: Field | undefined
  for (const owner of [...model.types, ...model.blockTypes])
    eachField(owner, (field) => {
      if (field.id === id) match = field
    })
  return match
}
