import type { FieldOwner } from '../../model/model.js'
import { fold } from '../../text/fold.js'
import type { Condition } from '../condition.js'
import type { WrittenCondition, Operand } from '../written.js'
import type { Checking } from './checking.js'
import { subjectOf } from './subject.js'
import { valueOf } from './value.js'

/** A test: a subject, an operator and its operand. */
export function checkTest(
  checking: Checking,
  expression: WrittenCondition & { is: 'test' },
  from: readonly FieldOwner[],
): Condition {
  const { subject, comparison, label, options, current } = subjectOf(checking, expression.path, from)
  const valueIn = (operand: Operand) =>
    valueOf(checking, withCurrent(operand, current), comparison, label, options, from)
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
      for (const item of list.of)
        if (item.is === 'path')
          checking.fail(item.at, `A list holds values. Write texts in double quotes: \`"${item.names.join('.')}"\`.`)
      return { is: 'in', subject, values: list.of.map((item) => valueIn(item)) }
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
        value: valueIn(expression.operand!),
      }
      return expression.operator === '=' ? compare : { is: 'not', of: compare }
    }
    default:
      if (exactOnly) wrongOperator('`=`, `!=` or `in`')
      return {
        is: 'compare',
        subject,
        operator: expression.operator,
        value: valueIn(expression.operand!),
      }
  }
}

/** A text, with an option's earlier value replaced by the current one. */
const withCurrent = (operand: Operand, current: ((value: string) => string) | undefined): Operand =>
  current && operand.is === 'text' ? { ...operand, value: current(operand.value as string) } : operand
