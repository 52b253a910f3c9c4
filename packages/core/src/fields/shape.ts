/**
 * What readers get of a value, said once and neutrally. Validators, GraphQL types, JSON Schema, TypeScript types,
 * documentation and forms are printed from it.
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

/** A value with members of its own, the same wherever the kind is used; `name` is what GraphQL and TypeScript call it. */
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
 * How the condition language compares a value of a kind. `text` is compared folded, `span` by length, the others exactly;
 * of a `presence` only whether it is there can be asked.
 */
export type Comparison =
  'text' | 'exact' | 'number' | 'boolean' | 'date' | 'dateTime' | 'span' | 'reference' | 'presence'

/** The comparable form of a value: what conditions and sorting work on. Booleans are 0 and 1. */
export type Fact = string | number
