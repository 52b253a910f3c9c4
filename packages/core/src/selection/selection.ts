import type { Rendition } from './options.js'
import type { ChoiceForm } from '../fields/choice.js'
import type { RichTextForm } from '../richtext/print.js'
import { shapeOf, type Field, type FieldOwner, type Model } from '../model/model.js'

/** A selection from owners that may differ: the types that a reference accepts, the blocks of a field. */
export interface Selection {
  /** The selection for an owner; undefined when nothing is selected. */
  of(owner: FieldOwner): readonly ChosenField[] | undefined
}

/** A field that is printed, and how. */
export interface ChosenField {
  /** The name in the request: an earlier name stays one. */
  readonly name: string
  readonly field: Field
  /** Of rich text and choices; the answer's own form when left out. */
  readonly as?: RichTextForm | ChoiceForm
  /** Of pictures: the address is that of the rendition. */
  readonly rendition?: Rendition
  /** Of lists: the most items, from the beginning. */
  readonly first?: number
  /** Of objects and assets: the members that are printed; all when left out. */
  readonly members?: readonly string[]
  /** Of groups, blocks and references; a reference without it is printed as id and type. */
  readonly inside?: Selection
}

/** How far references may be followed without a selection. */
export const maxFollow = 3

const whole = new WeakMap<Model, Selection[]>()

/** Every field of a model's owners, with references followed so far: 0 leaves them as id and type. */
export function everything(model: Model, depth = 0): Selection {
  const cached = whole.get(model) ?? []
  whole.set(model, cached)
  return (cached[depth] ??= allFields(depth > 0 ? everything(model, depth - 1) : undefined))
}

function allFields(next: Selection | undefined): Selection {
  const fields = new Map<string, readonly ChosenField[]>()
  const selection: Selection = {
    of: (owner) => {
      const chosen = fields.get(owner.id) ?? owner.fields.flatMap((field) => allOf(field, selection, next))
      fields.set(owner.id, chosen)
      return chosen
    },
  }
  return selection
}

function allOf(field: Field, here: Selection, next: Selection | undefined): ChosenField[] {
  const { is } = shapeOf(field)
  const inside = is === 'reference' ? next : is === 'group' || is === 'blocks' ? here : undefined
  return [field.name, ...(field.aliases ?? [])].map((name) => ({ name, field, ...(inside ? { inside } : {}) }))
}

/** A field of a selection, and its name in the request. */
export interface AskedField {
  /** Internal ids of the owner, a type or block type, and of the field. */
  readonly owner: string
  readonly field: string
  readonly name: string
}

/** Every field that a selection reads of some owners, at any depth, each once. */
export function askedFields(
  selection: Selection,
  owners: readonly FieldOwner[],
  inside: (field: Field) => readonly FieldOwner[],
): AskedField[] {
  const fields = new Map<string, AskedField>()
  const walk = (inner: Selection, owner: FieldOwner, root: FieldOwner): void => {
    for (const { name, field, inside: within } of inner.of(owner) ?? []) {
      const key = `${root.id} ${field.id} ${name}`
      if (fields.has(key)) continue
      fields.set(key, { owner: root.id, field: field.id, name })
      if (within) for (const next of inside(field)) walk(within, next, field.kind === 'group' ? root : next)
    }
  }
  for (const owner of owners) walk(selection, owner, owner)
  return [...fields.values()]
}
