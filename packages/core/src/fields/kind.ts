import type { z } from 'zod'
import type { MessageParameters } from '../base/errors.js'
import type { InlineCode } from '../richtext/segments.js'
import type { SegmentText } from '../text/segmentText.js'
import type { Comparison, Fact, Shape } from './shape.js'

/** A rule that a value breaks; the message follows the field's label: "Title has 120 characters, …". */
export interface Finding {
  readonly code: string
  readonly message: string
  readonly parameters?: MessageParameters
}

/** A unit of translation in a value. */
export interface ValueSegment {
  /** Its place in the value: the id of a block of rich text, a member; empty for the value as a whole. */
  readonly part: string
  readonly text: SegmentText
  /** The meaning of the codes in the text, by id; none when left out. */
  readonly codes?: Readonly<Record<string, InlineCode>>
  /** In characters; no limit when left out. */
  readonly maxLength?: number | undefined
  /** Whether a translation of it stays current when its source changes, as a slug does: it follows the title of its own locale. */
  readonly isIndependent?: boolean
}

/** The ids of entries and assets in a value. */
export interface ReferencedIds {
  readonly entries: readonly string[]
  readonly assets: readonly string[]
}

/**
 * A field kind: one file in this folder. Everything else about it (validators, SQL, GraphQL, forms, documentation) is derived from
 * this.
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
  /** The kind's own options by name, with a description each. */
  readonly descriptions: Readonly<Record<string, string>>
  /** Whether `indexed: true` is the default. */
  readonly indexed: boolean
  /** Whether a field of this kind has one value only. */
  readonly single?: boolean
  /** Whether a field of this kind cannot be localized (fields inside it may). */
  readonly shared?: boolean
  shape(options: Options): Shape
  /** The problem with one value's form, or undefined. Such a value cannot be saved. */
  checkForm(value: unknown, options: Options): string | undefined
  /**
   * The one stored form of a valid value, where several forms mean the same.
   * @param makeId makes ids for parts that have one.
   * @param before the stored content.
   */
  readonly canonical?: (value: unknown, makeId: () => string, before: unknown, options: Options) => unknown
  /** Rules that a value of the right form breaks: saved, but not published. */
  checkRules(value: unknown, options: Options): Finding[]
  /** How conditions compare it, or undefined where they cannot. */
  readonly comparison: Comparison | undefined
  /** The comparable form of a value of the right form. */
  fact(value: unknown): Fact | undefined
  /** The running text of a value: compared word by word and searched. None when left out. */
  readonly searchText?: (value: unknown) => string
  /** The units of translation in a value, in reading order; none when left out. */
  readonly segments?: (value: unknown, options: Options) => readonly ValueSegment[]
  /**
   * A translation of a value, made of translated units on top of the translation so far.
   * @param texts the translated units, by part; parts without one stay as they are in the translation, and one without words is removed.
   * @returns undefined where nothing is left of it.
   */
  readonly translate?: (source: unknown, texts: ReadonlyMap<string, SegmentText>, translation: unknown) => unknown
  /** The references of a value; none when left out. */
  references?(value: unknown): ReferencedIds
  /** The printed form of a stored value; itself when left out. References are printed as `{ id }`. */
  print?(value: unknown): unknown
  /** A plausible value as it is stored, the same for the same seed. Undefined where it would need other entries. */
  sample(options: Options, seed: number): unknown
}

/** Declares a kind; inside its functions the options are typed, outside they are read from the model. */
export function defineKind<Options>(kind: FieldKind<Options>): FieldKind {
  return kind as unknown as FieldKind
}
