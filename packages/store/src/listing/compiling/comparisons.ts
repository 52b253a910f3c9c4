import type { Condition } from '@wisteria/core'
import type { Compiling } from './compiling.js'

/** A comparison with a fact, whose expression is given. */
export function comparisonSql(
  compiling: Compiling,
  condition: Exclude<Condition, { is: 'and' | 'or' | 'not' | 'any' }>,
  expression: string,
): string {
  switch (condition.is) {
    case 'hasValue':
      return `${expression} is not null`
    case 'compare':
      return `${expression} ${condition.operator} ${compiling.bind(compiling.valueOf(condition.value))}`
    case 'in':
      return condition.values.length === 0
        ? '0'
        : `${expression} in (${condition.values.map((value) => compiling.bind(compiling.valueOf(value))).join(', ')})`
    case 'contains':
      return `instr(${expression}, ${compiling.bind(condition.text)}) > 0`
    case 'startsWith': {
      const end = afterPrefix(condition.text)
      const from = `${expression} >= ${compiling.bind(condition.text)}`
      return end === undefined ? from : `(${from} and ${expression} < ${compiling.bind(end)})`
    }
  }
}

/** The least text that sorts after every text with the prefix; undefined when there is none. */
function afterPrefix(prefix: string): string | undefined {
  const points = [...prefix].map((letter) => letter.codePointAt(0)!)
  for (let last = points.pop(); last !== undefined; last = points.pop()) {
    if (last >= 0x10ffff) continue
    const next = last + 1 >= 0xd800 && last + 1 <= 0xdfff ? 0xe000 : last + 1
    return String.fromCodePoint(...points, next)
  }
  return undefined
}
