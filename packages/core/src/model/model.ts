import { kindNamed } from '../fields/kinds.js'
import type { FieldKind } from '../fields/kind.js'
import type { Shape } from '../fields/shape.js'

export interface Field {
  /** Internal: assigned when first seen, never reused. Stored documents are keyed by it. */
  readonly id: string
  readonly name: string
  readonly kind: string
  readonly label: string
  readonly help?: string
  readonly required: boolean
  readonly localized: boolean
  readonly many: boolean
  readonly count?: { readonly min?: number | undefined; readonly max?: number | undefined }
  readonly index: boolean
  /** The kind's own options, as the kind's schema read them. */
  readonly options: Readonly<Record<string, unknown>>
}

/** Anything that has fields: a content type or a block type. */
export interface Fielded {
  readonly id: string
  readonly name: string
  readonly label: string
  readonly help?: string
  readonly fields: readonly Field[]
}

export interface ContentType extends Fielded {
  readonly cardinality: 'many'
  /** The name of the field that names an entry to people. */
  readonly namedBy: string
  /** Path patterns by locale; a locale without one has no paths. */
  readonly path?: Readonly<Record<string, string>>
  /** The name of the field (kind entry) that `{parent}` follows. */
  readonly parent?: string
  /** Fixed when the type is made, so that queries written then go on working. */
  readonly graphql: { readonly type: string; readonly one: string; readonly many: string }
}

export interface BlockType extends Fielded {
  readonly graphql: { readonly type: string }
}

export interface Model {
  /** 0 before anything was adopted. */
  readonly version: number
  /** The next internal id to give out. */
  readonly nextId: number
  readonly types: readonly ContentType[]
  readonly blockTypes: readonly BlockType[]
}

export const emptyModel: Model = { version: 0, nextId: 1, types: [], blockTypes: [] }

export const typeNamed = (model: Model, name: string): ContentType | undefined =>
  model.types.find((type) => type.name === name)

export const typeWithId = (model: Model, id: string): ContentType | undefined =>
  model.types.find((type) => type.id === id)

export const blockTypeNamed = (model: Model, name: string): BlockType | undefined =>
  model.blockTypes.find((type) => type.name === name)

export const blockTypeWithId = (model: Model, id: string): BlockType | undefined =>
  model.blockTypes.find((type) => type.id === id)

export const fieldNamed = (owner: Fielded, name: string): Field | undefined =>
  owner.fields.find((field) => field.name === name)

export const fieldWithId = (owner: Fielded, id: string): Field | undefined =>
  owner.fields.find((field) => field.id === id)

export const kindOf = (field: Field): FieldKind => kindNamed(field.kind)

export const shapeOf = (field: Field): Shape => kindOf(field).shape(field.options)

/** Whether any field, at any depth of blocks, holds a value per locale. */
export function isLocalized(model: Model, owner: Fielded, seen: ReadonlySet<string> = new Set()): boolean {
  if (seen.has(owner.id)) return false
  const within = new Set(seen).add(owner.id)
  return owner.fields.some((field) => {
    if (field.localized) return true
    const shape = shapeOf(field)
    if (shape.is !== 'blocks') return false
    return shape.of.some((name) => {
      const block = blockTypeNamed(model, name)
      return block !== undefined && isLocalized(model, block, within)
    })
  })
}
