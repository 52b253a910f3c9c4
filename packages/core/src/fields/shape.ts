/**
 * The form of a printed value, declared once and neutrally. Validators, GraphQL types, JSON Schema, TypeScript types, documentation
 * and forms are derived from it.
 */
export type Shape =
  | { readonly is: 'scalar'; readonly scalar: Scalar; readonly format?: string }
  | { readonly is: 'choice'; readonly options: readonly ChoiceOption[] }
  /** `filled`: always a list, which the service fills when it is read. */
  | { readonly is: 'reference'; readonly to: readonly string[]; readonly filled?: true }
  | { readonly is: 'asset'; readonly accepts: readonly string[] }
  | { readonly is: 'blocks'; readonly of: readonly string[] }
  | { readonly is: 'group' }
  | { readonly is: 'richText'; readonly entries: readonly string[] }
  | { readonly is: 'json'; readonly schema?: unknown }
  | ObjectShape

/** A value with members of its own, the same wherever the kind is used; `name` is its name in GraphQL and TypeScript. */
export interface ObjectShape {
  readonly is: 'object'
  readonly name: string
  readonly members: Readonly<Record<string, Member>>
}

export interface Member {
  readonly shape: Extract<Shape, { is: 'scalar' | 'asset' }>
  /** Whether it is always there; null otherwise. */
  readonly always: boolean
  readonly says: string
}

/** `integer` fits into 32 bits, `long` is a whole number that may not. */
export type Scalar = 'string' | 'number' | 'integer' | 'long' | 'boolean' | 'date' | 'dateTime'

export interface ChoiceOption {
  readonly value: string
  readonly label: string
  /** Labels in other locales, by tag. */
  readonly labels?: Readonly<Record<string, string>>
  /** The values that it had, and still answers to. */
  readonly was?: readonly string[]
}

/**
 * How the condition language compares values of a kind. `text` is compared folded, `span` by length, the others exactly; for
 * `presence` only `has value` is possible.
 */
export type Comparison =
  'text' | 'exact' | 'number' | 'boolean' | 'date' | 'dateTime' | 'span' | 'reference' | 'presence'

/** The comparable form of a value, for conditions and sorting. Booleans are 0 and 1. */
export type Fact = string | number
