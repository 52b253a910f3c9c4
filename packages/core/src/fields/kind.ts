import type { z } from 'zod'
import type { Comparison, Fact, Shape } from './shape.js'

/** A rule that a value breaks; the message goes on after the field's label: "Title has 120 characters, …". */
export interface Finding {
  readonly code: string
  readonly message: string
}

/**
 * A field kind: one file in this folder. Everything else about it (validators, SQL, GraphQL, forms,
 * documentation) is derived from what stands here.
 */
export interface FieldKind<Options = Record<string, unknown>> {
  readonly name: string
  readonly label: string
  /** One sentence for the reference. */
  readonly summary: string
  /** The kind's own options in a model file, as a strict Zod object. */
  readonly options: z.ZodType<Options>
  /** Names of those options, for suggestions. */
  readonly optionNames: readonly string[]
  /** Whether `index: true` is the default. */
  readonly indexed: boolean
  /** Whether a field of this kind always holds many. */
  readonly alwaysMany?: boolean
  shape(options: Options): Shape
  /** What is wrong with one value's form, or undefined. Such a value cannot even be saved. */
  misfit(value: unknown, options: Options): string | undefined
  /** Rules that a value of the right form breaks: saved, but not published. */
  judge(value: unknown, options: Options): Finding[]
  /** How conditions compare it, or undefined where they cannot. */
  readonly comparison: Comparison | undefined
  /** The comparable form of a value of the right form. */
  fact(value: unknown): Fact | undefined
  /** A plausible value, the same for the same seed. */
  sample(options: Options, seed: number): unknown
}

/** Declares a kind; inside its functions the options are typed, outside they are read from the model. */
export function defineKind<Options>(kind: FieldKind<Options>): FieldKind {
  return kind as unknown as FieldKind
}
