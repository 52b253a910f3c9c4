/** A condition as written, before it is checked against a model. Positions are offsets into the text. */
export type WrittenCondition =
  | { readonly is: 'and' | 'or'; readonly of: readonly WrittenCondition[] }
  | { readonly is: 'not'; readonly of: WrittenCondition }
  | {
      readonly is: 'test'
      readonly path: WrittenPath
      readonly operator: Operator
      readonly operand?: Operand | undefined
      readonly at: number
    }
  | { readonly is: 'any'; readonly path: WrittenPath; readonly where: WrittenCondition }

/** `museum.name`, or a fact of the system such as `entry.state`. */
export interface WrittenPath {
  readonly names: readonly string[]
  readonly at: number
}

/** Every operator, with its meaning. */
export const operatorSays = {
  '=': 'Is the same.',
  '!=': 'Is not the same: `not =`, so it also holds where there is no value.',
  '<': 'Before, or less.',
  '<=': 'Before, less, or equal.',
  '>': 'After, or more.',
  '>=': 'After, more, or equal.',
  in: 'Is one of a list: `format in ["walk", "talk"]`.',
  contains: 'Has the text anywhere in it.',
  'starts with': 'Begins with the text.',
  'has value': 'There is something.',
  'has no value': 'There is nothing.',
} as const
export type Operator = keyof typeof operatorSays
export const operators = Object.keys(operatorSays) as Operator[]

export type Operand =
  | {
      readonly is: 'text' | 'number' | 'boolean' | 'date' | 'dateTime'
      readonly value: string | number | boolean
      readonly at: number
    }
  | {
      readonly is: 'moment'
      readonly base: 'now' | 'today'
      readonly minutes: number
      readonly days: number
      readonly at: number
    }
  | { readonly is: 'list'; readonly of: readonly Operand[]; readonly at: number }
  /** Another field of the same entry, in rules of forms; or one of `here`, in lists that fill themselves. */
  | { readonly is: 'path'; readonly names: readonly string[]; readonly at: number; readonly end: number }
