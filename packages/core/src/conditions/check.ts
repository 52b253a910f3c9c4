import type { FieldOwner } from '../model/model.js'
import { Checking, type CheckContext } from './checking/checking.js'
import { dotted, followPath, stepTo } from './checking/followPath.js'
import { checkTest } from './checking/checkTest.js'
import type { CheckedCondition, Condition } from './condition.js'
import type { WrittenCondition } from './written.js'
import { parseCondition } from './parse.js'

export type { CheckContext }

/** Reads and checks a condition. @throws WisteriaError `badCondition` with position and suggestion. */
export const readCondition = (text: string, context: CheckContext): CheckedCondition =>
  checkCondition(parseCondition(text), context, text)

/**
 * Checks an expression against the model.
 * @param text the text that positions in the expression refer to.
 */
export function checkCondition(expression: WrittenCondition, context: CheckContext, text = ''): CheckedCondition {
  const checking = new Checking(context, text)
  const condition = checkIn(checking, expression, context.owners)
  return { condition, dependencies: { types: [...checking.types], time: checking.usesTime } }
}

function checkIn(checking: Checking, expression: WrittenCondition, from: readonly FieldOwner[]): Condition {
  switch (expression.is) {
    case 'and':
    case 'or':
      return { is: expression.is, of: expression.of.map((part) => checkIn(checking, part, from)) }
    case 'not':
      return { is: 'not', of: checkIn(checking, expression.of, from) }
    case 'any': {
      const { steps, fields, to, isRepeated } = followPath(checking, expression.path, from, 'any')
      const leads = fields[0]!.kind === 'group' ? 'elements' : 'entries'
      if (isRepeated && leads === 'elements')
        checking.fail(
          expression.path.at,
          `${dotted(expression.path)} is a repeated group inside another: begin with \`any\` of the outer group.`,
        )
      const where = checkIn(checking, expression.where, to)
      const last: Condition = { is: 'any', step: stepTo(leads, fields), where }
      return steps.reduceRight<Condition>((inner, step) => ({ is: 'any', step, where: inner }), last)
    }
    case 'test':
      return checkTest(checking, expression, from)
  }
}
