import type { z } from 'zod'
import type { MessageParameters } from '../base/errors.js'
import type { Comparison, Fact, Shape } from './shape.js'

/** A rule that a value breaks; the message goes on after the field's label: "Title has 120 characters, …". */
export interface Finding {
  readonly code: string
  readonly message: string
  readonly parameters?: MessageParameters
}

/** What a value holds that lives elsewhere: ids. */
export interface ReferencedIds {
  readonly entries: readonly string[]
  readonly assets: readonly string[]
}

/**
 * A field kind: one file in this folder. Everything else about it (validators, SQL, GraphQL, forms,
 * documentation) is derived from this.
 */
export interface FieldKind<Options = Record<string, unknown>> {
  readonly name: string
  readonly label: string
  /** One sentence for the reference. */
  readonly summary: string
  /** A field of this kind in a model file, for the reference. */
  readonly example: string
  /** The kind's own options in a model file, as a strict Zod object. */
  readonly options: z.ZodType<Options>
  /** The kind's own options by name, with what each says. */
  readonly descriptions: Readonly<Record<string, string>>
  /** Whether `indexed: true` is the default. */
  readonly indexed: boolean
  /** Whether only one value of it makes sense in a field. */
  readonly single?: boolean
  /** Whether a field of this kind cannot hold a value per locale (what is inside it may). */
  readonly shared?: boolean
  shape(options: Options): Shape
  /** What is wrong with one value's form, or undefined. Such a value cannot even be saved. */
  checkForm(value: unknown, options: Options): string | undefined
  /**
   * The one form in which a value of the right form is stored, where several mean the same.
   * @param makeId makes ids of what inside it has one.
   * @param before what is stored there so far.
   */
  readonly canonical?: (value: unknown, makeId: () => string, before: unknown, options: Options) => unknown
  /** Rules that a value of the right form breaks: saved, but not published. */
  checkRules(value: unknown, options: Options): Finding[]
  /** How conditions compare it, or undefined where they cannot. */
  readonly comparison: Comparison | undefined
  /** The comparable form of a value of the right form. */
  fact(value: unknown): Fact | undefined
  /** What of a value people read as running text: compared word by word and searched. Nothing when left out. */
  readonly searchText?: (value: unknown) => string
  /** What a value refers to; nothing when left out. */
  references?(value: unknown): ReferencedIds
  /** What readers get of a stored value; itself when left out. References are printed as `{ id }`. */
  print?(value: unknown): unknown
  /** A plausible value as it is stored, the same for the same seed. Undefined where only a world of entries could give one. */
  sample(options: Options, seed: number): unknown
}

/** Declares a kind; inside its functions the options are typed, outside they are read from the model. */
export function defineKind<Options>(kind: FieldKind<Options>): FieldKind {
  return kind as unknown as FieldKind
}
