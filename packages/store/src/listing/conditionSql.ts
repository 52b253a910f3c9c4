import type { Condition } from '@wisteria/core'
import { comparisonSql } from './compiling/comparisons.js'
import { Compiling, type Row, type Sql, type SqlContext } from './compiling/compiling.js'
import { passesThrough } from './compiling/steps.js'
import { testSubject } from './compiling/subjects.js'

export type { Sql, SqlContext }

/**
 * Compiles a checked condition to an SQL expression over a row of the edition, named `alias`. `not` is pushed down to the tests,
 * where a missing value becomes false before the negation: SQL's third truth value never appears.
 */
export function conditionToSql(condition: Condition, context: SqlContext, alias = 'p'): Sql {
  const compiling = new Compiling(context)
  const text = compile(compiling, condition, { is: 'row', alias }, true)
  return { text, bindings: compiling.bindings }
}

function compile(compiling: Compiling, condition: Condition, row: Row, positive: boolean): string {
  switch (condition.is) {
    case 'and':
    case 'or': {
      const word = (condition.is === 'and') === positive ? ' and ' : ' or '
      return '(' + condition.of.map((part) => compile(compiling, part, row, positive)).join(word) + ')'
    }
    case 'not':
      return compile(compiling, condition.of, row, !positive)
    case 'any':
      return passesThrough(compiling, [condition.step], row, positive, (last) =>
        compile(compiling, condition.where, last, true),
      )
    default:
      return testSubject(compiling, condition.subject, row, positive, (expression) =>
        comparisonSql(compiling, condition, expression),
      )
  }
}
