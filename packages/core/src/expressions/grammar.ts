/*
 * Expressions: the language of conditions, extended by values. Webhooks and automations use it. A condition is a value too, `true`
 * or `false`; either side of a comparison is any value. Every path begins with a root: `entry.title`, `before.price`.
 */

/** An expression as written. Positions are offsets into the text. */
export type Expression =
  | { readonly is: 'and' | 'or'; readonly of: readonly Expression[] }
  | { readonly is: 'not'; readonly of: Expression }
  | Test
  /** Whether an item of a list meets a condition, which names it `item`. */
  | { readonly is: 'any'; readonly list: Expression; readonly where: Expression; readonly at: number }
  | { readonly is: 'constant'; readonly value: string | number | boolean; readonly at: number }
  | { readonly is: 'moment'; readonly base: 'now' | 'today'; readonly at: number }
  | { readonly is: 'duration'; readonly minutes: number; readonly days: number; readonly at: number }
  | Path
  | { readonly is: 'list'; readonly of: readonly Expression[]; readonly at: number }
  | Arithmetic
  | { readonly is: 'joined'; readonly of: readonly Expression[]; readonly at: number }
  | { readonly is: 'call'; readonly name: FunctionName; readonly of: readonly Expression[]; readonly at: number }

export interface Test {
  readonly is: 'test'
  readonly left: Expression
  readonly operator: TestOperator
  /** Absent after `has value`. */
  readonly right?: Expression
  /** Texts are compared exactly, and not in their folded form. The check sets it. */
  readonly exact?: boolean
  readonly at: number
}
export type TestOperator =
  '=' | '!=' | '<' | '<=' | '>' | '>=' | 'in' | 'contains' | 'starts with' | 'has value' | 'has no value'

/** The first name is the root. */
export interface Path {
  readonly is: 'path'
  readonly names: readonly string[]
  readonly at: number
}

export interface Arithmetic {
  readonly is: 'arithmetic'
  readonly operator: '+' | '-' | '*' | '/'
  readonly left: Expression
  readonly right: Expression
  readonly at: number
}

/** The functions, with the number of their values and what they make. */
export const functions = {
  text: { least: 1, most: 1, says: 'The value as a text.' },
  number: { least: 1, most: 1, says: 'The number that a text holds: `number("12.5")`.' },
  day: { least: 1, most: 1, says: 'The day of an instant, in the time zone of the site.' },
  round: { least: 1, most: 2, says: 'The number rounded, to so many decimals if said.' },
  lower: { least: 1, most: 1, says: 'The text in lower case.' },
  trim: { least: 1, most: 1, says: 'The text without spaces at its ends.' },
  split: { least: 2, most: 2, says: 'The parts of a text between separators: `split("a, b", ",")`.' },
  join: { least: 2, most: 2, says: 'The texts of a list with a separator between them.' },
  count: { least: 1, most: 1, says: 'How many values a list has.' },
  first: { least: 1, most: 1, says: 'The first value of a list.' },
  last: { least: 1, most: 1, says: 'The last value of a list.' },
  firstOf: { least: 2, most: 20, says: 'The first of these that has a value.' },
} as const satisfies Record<string, { least: number; most: number; says: string }>
export type FunctionName = keyof typeof functions

export const isFunction = (name: string): name is FunctionName => Object.hasOwn(functions, name)

/** All parts directly inside an expression. */
export function partsOf(expression: Expression): readonly Expression[] {
  switch (expression.is) {
    case 'and':
    case 'or':
    case 'list':
    case 'joined':
    case 'call':
      return expression.of
    case 'not':
      return [expression.of]
    case 'test':
      return expression.right ? [expression.left, expression.right] : [expression.left]
    case 'any':
      return [expression.list, expression.where]
    case 'arithmetic':
      return [expression.left, expression.right]
    default:
      return []
  }
}
