import type { Comparison } from '../../fields/shape.js'
import { kindOf, type FieldOwner } from '../../model/model.js'
import { didYouMean } from '../../text/nearest.js'
import type { Value } from '../condition.js'
import type { Operand } from '../written.js'
import type { Checking } from './checking.js'
import { followPath } from './followPath.js'

type PathOperand = Operand & { readonly is: 'path' }

/**
 * The field on the right side of a test: one of the same entry in a rule of a form, one of the entry around it in a list that fills
 * itself.
 */
export function otherField(
  checking: Checking,
  operand: PathOperand,
  comparison: Comparison,
  label: string,
  from: readonly FieldOwner[],
): Value {
  const { here, own } = checking.context
  const [first, ...rest] = operand.names as [string, ...string[]]
  const written = operand.names.join('.')
  if (first === 'here') {
    if (!here) checking.fail(operand.at, '`here` is the entry around a list, and this condition is not one of a list.')
    if (rest.length === 0)
      return comparison === 'reference'
        ? ''
        : checking.fail(operand.at, `\`here\` is an entry, and ${label} is not compared with one.`)
    return match(checking, { ...operand, names: rest }, comparison, label, [here])
  }
  if (!own)
    return checking.fail(
      operand.at,
      `Expected a value, found the word \`${written}\`. Write texts in double quotes: \`"${written}"\`.${didYouMean(written, ['now', 'today'])}`,
    )
  return match(checking, operand, comparison, label, from)
}

function match(
  checking: Checking,
  operand: PathOperand,
  comparison: Comparison,
  label: string,
  from: readonly FieldOwner[],
): Value {
  const written = operand.names.join('.')
  const { fields, steps } = followPath(checking, { names: operand.names, at: operand.at }, from)
  const field = fields[0]!
  const other = kindOf(field).comparison
  if (steps.length > 0)
    return checking.fail(
      operand.at,
      `\`${written}\` leads to another entry: only a field of the entry itself is compared with.`,
    )
  if (other === 'presence' || other !== comparison)
    return checking.fail(operand.at, `${label} is not compared with \`${written}\`, which is of kind ${field.kind}.`)
  return { field: field.id }
}
