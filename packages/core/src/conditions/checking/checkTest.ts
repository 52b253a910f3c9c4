import type { FieldOwner } from '../../model/model.js'
import { fold } from '../../text/fold.js'
import type { Condition } from '../condition.js'
import type { Expression, Operand } from '../expression.js'
import type { Checking } from './checking.js'
import { subjectOf } from './subject.js'
import { valueOf } from './value.js'

/** A test: a subject, an operator and its operand. */
export function checkTest(
  checking: Checking,
  expression: Expression & { is: 'test' },
  from: readonly FieldOwner[],
): Condition {
  const { subject, comparison, label, options } = subjectOf(checking, expression.path, from)
  const wrongOperator = (wanted: string): never =>
    checking.fail(expression.at, `\`${expression.operator}\` does not go with ${label}. Use ${wanted}.`)
  const isAsked = expression.operator === 'has value' || expression.operator === 'has no value'
  if (comparison === 'presence' && !isAsked) wrongOperator('`has value` or `has no value`')
  const exactOnly = comparison === 'reference' || comparison === 'boolean' || options !== undefined
  switch (expression.operator) {
    case 'has value':
      return { is: 'hasValue', subject }
    case 'has no value':
      return { is: 'not', of: { is: 'hasValue', subject } }
    case 'in': {
      const list = expression.operand as Operand & { is: 'list' }
      return { is: 'in', subject, values: list.of.map((item) => valueOf(checking, item, comparison, label, options)) }
    }
    case 'contains':
    case 'starts with': {
      if (comparison !== 'text' && (comparison !== 'exact' || options))
        wrongOperator(exactOnly ? '`=` or `in`' : '`=`, `<` or `>`')
      const operand = expression.operand!
      if (operand.is !== 'text') checking.fail(operand.at, `\`${expression.operator}\` needs a text in double quotes.`)
      const written = (operand as { value: string }).value
      return {
        is: expression.operator === 'contains' ? 'contains' : 'startsWith',
        subject,
        text: comparison === 'text' ? fold(written) : written,
      }
    }
    case '=':
    case '!=': {
      const compare: Condition = {
        is: 'compare',
        subject,
        operator: '=',
        value: valueOf(checking, expression.operand!, comparison, label, options),
      }
      return expression.operator === '=' ? compare : { is: 'not', of: compare }
    }
    default:
      if (exactOnly) wrongOperator('`=`, `!=` or `in`')
      return {
        is: 'compare',
        subject,
        operator: expression.operator,
        value: valueOf(checking, expression.operand!, comparison, label, options),
      }
  }
}
