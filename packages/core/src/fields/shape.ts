/**
 * What a value looks like, said once and neutrally. Validators, GraphQL types, documentation and forms
 * are printed from it.
 */
export type Shape =
  | { readonly is: 'scalar'; readonly scalar: Scalar }
  | { readonly is: 'choice'; readonly options: readonly ChoiceOption[] }
  | { readonly is: 'reference'; readonly to: readonly string[] }
  | { readonly is: 'blocks'; readonly of: readonly string[] }

export type Scalar = 'string' | 'number' | 'integer' | 'boolean' | 'date' | 'dateTime'

export interface ChoiceOption {
  readonly value: string
  readonly label: string
}

/** How the condition language compares a value of a kind. `text` is compared folded, the others exactly. */
export type Comparison = 'text' | 'exact' | 'number' | 'boolean' | 'date' | 'dateTime' | 'reference'

/** The comparable form of a value: what conditions and sorting work on. Booleans are 0 and 1. */
export type Fact = string | number
