/** A condition as written, before anything is known of the model. Positions are offsets into the text. */
export type Expression =
  | { readonly is: 'and' | 'or'; readonly of: readonly Expression[] }
  | { readonly is: 'not'; readonly of: Expression }
  | {
      readonly is: 'test'
      readonly path: WrittenPath
      readonly operator: Operator
      readonly operand?: Operand | undefined
      readonly at: number
    }
  | { readonly is: 'any'; readonly path: WrittenPath; readonly where: Expression }

/** `museum.name`, or a fact of the system such as `$state`. */
export interface WrittenPath {
  readonly names: readonly string[]
  readonly at: number
}

export const operators = [
  '=',
  '!=',
  '<',
  '<=',
  '>',
  '>=',
  'in',
  'contains',
  'starts with',
  'has value',
  'has no value',
] as const
export type Operator = (typeof operators)[number]

export type Operand =
  | {
      readonly is: 'text' | 'number' | 'boolean' | 'date' | 'dateTime'
      readonly value: string | number | boolean
      readonly at: number
    }
  | {
      readonly is: 'moment'
      readonly base: '$now' | '$today'
      readonly minutes: number
      readonly days: number
      readonly at: number
    }
  | { readonly is: 'list'; readonly of: readonly Operand[]; readonly at: number }
