import { WisteriaError } from '../base/errors.js'
import type { Comparison } from '../fields/shape.js'
import {
  fieldNamed,
  insideGroup,
  kindOf,
  shapeOf,
  typeNamed,
  type Field,
  type FieldOwner,
  type Model,
} from '../model/model.js'
import { fold } from '../text/fold.js'
import { didYouMean } from '../text/nearest.js'
import { secondsIn } from '../text/span.js'
import { instantOf, isDate, startOfDay } from '../text/time.js'
import type { CheckedCondition, Condition, FactSource, Step, Subject, SystemFact, Value } from './condition.js'
import type { Expression, Operand, WrittenPath } from './expression.js'
import { conditionError, parseCondition } from './parse.js'

export interface CheckContext {
  readonly model: Model
  /** The type whose entries the condition is asked of; or a block type or group, for the rules inside it. */
  readonly owners: readonly FieldOwner[]
  /** Facts of the system that may be asked here: `$state` is refused to readers of the published edition. */
  readonly systemFacts: readonly SystemFact[]
  /** IANA name; says when a day begins. */
  readonly timeZone: string
  /** Whether it is a rule of a form: it sees its own entry only, and no moment. */
  readonly own?: boolean
  /** Whether only what all locales share may be asked. */
  readonly onlyShared?: boolean
}

const systemComparisons: Record<SystemFact, Comparison> = {
  type: 'exact',
  state: 'exact',
  updated: 'dateTime',
  published: 'dateTime',
}
const stateNames = ['new', 'public', 'edited', 'withdrawn', 'archived']

/** Reads and checks a condition. @throws WisteriaError `badCondition` with position and suggestion. */
export const readCondition = (text: string, context: CheckContext): CheckedCondition =>
  checkCondition(parseCondition(text), context, text)

/**
 * Checks an expression against the model.
 * @param text what the positions in the expression refer to.
 */
export function checkCondition(expression: Expression, context: CheckContext, text = ''): CheckedCondition {
  const types = new Set<string>()
  let time = false
  const fail = (at: number, message: string): never => {
    if (text === '') throw new WisteriaError('badCondition', message, { problems: [{ code: 'badCondition', message }] })
    throw conditionError(text, at, message)
  }

  const check = (one: Expression, from: readonly FieldOwner[]): Condition => {
    switch (one.is) {
      case 'and':
      case 'or':
        return { is: one.is, of: one.of.map((part) => check(part, from)) }
      case 'not':
        return { is: 'not', of: check(one.of, from) }
      case 'any': {
        const { steps, fields, to, isRepeated } = follow(one.path, from, 'any')
        const leads = fields[0]!.kind === 'group' ? 'elements' : 'entries'
        if (isRepeated && leads === 'elements')
          fail(
            one.path.at,
            `${dotted(one.path)} is repeated inside what is repeated: begin with \`any\` of the outer group.`,
          )
        const where = check(one.where, to)
        const last: Condition = { is: 'any', step: stepTo(leads, fields), where }
        return steps.reduceRight<Condition>((inner, step) => ({ is: 'any', step, where: inner }), last)
      }
      case 'test':
        return test(one, from)
    }
  }

  const test = (one: Expression & { is: 'test' }, from: readonly FieldOwner[]): Condition => {
    const { subject, comparison, label, options } = subjectOf(one.path, from)
    const wrongOperator = (wanted: string): never =>
      fail(one.at, `\`${one.operator}\` does not go with ${label}. Use ${wanted}.`)
    const isAsked = one.operator === 'has value' || one.operator === 'has no value'
    if (comparison === 'presence' && !isAsked) wrongOperator('`has value` or `has no value`')
    const exactOnly = comparison === 'reference' || comparison === 'boolean' || options !== undefined
    switch (one.operator) {
      case 'has value':
        return { is: 'hasValue', subject }
      case 'has no value':
        return { is: 'not', of: { is: 'hasValue', subject } }
      case 'in': {
        const list = one.operand as Operand & { is: 'list' }
        return { is: 'in', subject, values: list.of.map((item) => valueOf(item, comparison, label, options)) }
      }
      case 'contains':
      case 'starts with': {
        if (comparison !== 'text' && (comparison !== 'exact' || options))
          wrongOperator(exactOnly ? '`=` or `in`' : '`=`, `<` or `>`')
        const operand = one.operand!
        if (operand.is !== 'text') fail(operandAt(operand), `\`${one.operator}\` needs a text in double quotes.`)
        const written = (operand as { value: string }).value
        return {
          is: one.operator === 'contains' ? 'contains' : 'startsWith',
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
          value: valueOf(one.operand!, comparison, label, options),
        }
        return one.operator === '=' ? compare : { is: 'not', of: compare }
      }
      default:
        if (exactOnly) wrongOperator('`=`, `!=` or `in`')
        return {
          is: 'compare',
          subject,
          operator: one.operator,
          value: valueOf(one.operand!, comparison, label, options),
        }
    }
  }

  const subjectOf = (path: WrittenPath, from: readonly FieldOwner[]) => {
    const last = path.names.at(-1)!
    if (last.startsWith('$')) {
      const before =
        path.names.length > 1 ? follow({ ...path, names: path.names.slice(0, -1) }, from, 'entries') : undefined
      const name = last.slice(1) as SystemFact
      if (!(name in systemComparisons)) {
        const known = Object.keys(systemComparisons).map((one) => '$' + one)
        fail(path.at, `\`${last}\` is not a fact of the system.${didYouMean(last, known)}`)
      }
      if (!context.systemFacts.includes(name))
        fail(
          path.at,
          context.own
            ? `\`${last}\` cannot be asked in a rule of a form${context.systemFacts.length > 0 ? '' : '; of the facts of the system only `lockIf` may ask one, `$state`'}.`
            : `\`${last}\` cannot be asked of the published edition.`,
        )
      if (!before && !context.own && from.some((owner) => !('cardinality' in owner)))
        fail(path.at, `\`${last}\` is a fact of an entry, and ${from[0]!.name} is a group in one.`)
      const options =
        name === 'state' ? stateNames : name === 'type' ? context.model.types.map((type) => type.name) : undefined
      const fact: FactSource = { is: 'system', name }
      return {
        subject: { steps: before ? [...before.steps, stepTo('entries', before.fields)] : [], fact } satisfies Subject,
        comparison: systemComparisons[name],
        label: last,
        options,
      }
    }
    const { steps, fields, isRepeated } = follow(path, from)
    const first = fields[0]!
    const comparison = kindOf(first).comparison
    const label = `${dotted(path)} (kind ${first.kind})`
    if (comparison === undefined) return fail(path.at, `${label} cannot be compared.`)
    const ids = fields.map((field) => field.id)
    const many = isRepeated || (first.many && comparison !== 'presence')
    const fact: FactSource =
      comparison === 'reference' ? { is: 'reference', fields: ids } : { is: 'field', fields: ids, many }
    const shape = shapeOf(first)
    const options = shape.is === 'choice' ? [...new Set(fields.flatMap((field) => choicesOf(field)))] : undefined
    return { subject: { steps, fact } satisfies Subject, comparison, label, options }
  }

  /** Follows a path through references and groups to its last field(s); `wanted` says what these must lead to. */
  const follow = (path: WrittenPath, from: readonly FieldOwner[], wanted?: 'entries' | 'any') => {
    const steps: Step[] = []
    let here = from
    let fields: Field[] = []
    let isRepeated = false
    for (const [index, name] of path.names.entries()) {
      fields = here.flatMap((owner) => fieldNamed(owner, name) ?? [])
      if (fields.length === 0) {
        const known = [...new Set(here.flatMap((owner) => owner.fields.map((field) => field.name)))]
        const owners = here.map((owner) => owner.name).join(' or ')
        const guess = name.startsWith('$') ? '' : didYouMean(name, known)
        fail(path.at, `\`${name}\` is not a field of ${owners}.${guess}`)
      }
      const kinds = new Set(fields.map((field) => `${kindOf(field).comparison} ${field.many}`))
      if (kinds.size > 1)
        fail(path.at, `\`${name}\` is of different kinds in ${here.map((owner) => owner.name).join(' and ')}.`)
      const first = fields[0]!
      if (context.onlyShared && first.localized)
        fail(
          path.at,
          `\`${name}\` is localized: the rule of a field that all locales share can only ask what they share.`,
        )
      const isLast = index === path.names.length - 1
      const leads = first.kind === 'group' ? 'elements' : first.kind === 'entry' ? 'entries' : undefined
      if (!isLast && leads === undefined)
        fail(path.at, `\`${name}\` is of kind ${first.kind}, so nothing can be asked of it with a dot.`)
      if (isLast && wanted === 'entries' && leads !== 'entries')
        fail(path.at, `\`${name}\` is of kind ${first.kind}, so nothing can be asked of it with a dot.`)
      if (isLast && wanted === 'any' && !(leads === 'entries' || (leads === 'elements' && first.many)))
        fail(
          path.at,
          `\`any\` goes with a field of kind entry or a repeated group, and ${dotted(path)} is ${first.kind === 'group' ? 'one group' : `of kind ${first.kind}`}.`,
        )
      if (leads === 'entries') {
        if (!isLast || wanted !== undefined) {
          if (context.own) fail(path.at, `A rule of a form only sees its own entry: \`${name}\` leads to another one.`)
          isRepeated = false
        }
        here = [...new Set(fields.flatMap((field) => targetsOf(field)))].flatMap(
          (target) => typeNamed(context.model, target) ?? [],
        )
        if (!context.own) for (const type of here) types.add(type.name)
        if (!isLast) steps.push(stepTo('entries', fields))
      } else if (leads === 'elements') {
        here = fields.flatMap((field) => insideGroup(field) ?? [])
        isRepeated ||= first.many && !isLast
      }
    }
    return { steps, fields, to: here, isRepeated }
  }

  const valueOf = (
    operand: Operand,
    comparison: Comparison,
    label: string,
    options: readonly string[] | undefined,
  ): Value => {
    const wrong = (wanted: string): never => fail(operandAt(operand), `${label} is compared with ${wanted}.`)
    if (operand.is === 'moment') {
      if (context.own)
        fail(operand.at, `A rule of a form cannot ask \`${operand.base}\`: it must not change by waiting.`)
      time = true
      if (comparison === 'dateTime')
        return { base: operand.base, minutes: operand.minutes, days: operand.days, as: 'dateTime' }
      if (comparison !== 'date') return wrong(wantedFor(comparison))
      if (operand.base === '$now') return wrong('a day: use `$today`')
      return { base: '$today', minutes: 0, days: operand.days, as: 'date' }
    }
    if (operand.is === 'list') return wrong('one value; a list goes with `in`')
    const { value } = operand
    if (label === '$type') {
      // What is stored is the type's internal id, which outlives its name.
      const type = typeof value === 'string' ? typeNamed(context.model, value) : undefined
      if (type) return type.id
    }
    switch (comparison) {
      case 'text':
        return typeof value === 'string' ? fold(value) : wrong(wantedFor(comparison))
      case 'exact':
      case 'reference':
        if (typeof value !== 'string') return wrong(wantedFor(comparison))
        if (options && !options.includes(value))
          fail(
            operand.at,
            `\`${value}\` is not one of the values of ${label}: ${options.slice(0, 12).join(', ')}.${didYouMean(value, options)}`,
          )
        return value
      case 'span': {
        const seconds = typeof value === 'string' ? secondsIn(value) : undefined
        return seconds ?? wrong(wantedFor(comparison))
      }
      case 'presence':
        return wrong('nothing: ask whether it has a value')
      case 'number':
        return typeof value === 'number' ? value : wrong(wantedFor(comparison))
      case 'boolean':
        return typeof value === 'boolean' ? (value ? 1 : 0) : wrong(wantedFor(comparison))
      case 'date':
        return typeof value === 'string' && isDate(value) ? value : wrong(wantedFor(comparison))
      case 'dateTime': {
        const instant =
          typeof value === 'string'
            ? isDate(value)
              ? startOfDay(value, context.timeZone)
              : instantOf(value)
            : undefined
        return instant ?? wrong(wantedFor(comparison))
      }
    }
  }

  const condition = check(expression, context.owners)
  return { condition, dependencies: { types: [...types], time } }
}

const wantedFor = (comparison: Comparison): string =>
  ({
    text: 'a text in double quotes',
    exact: 'a text in double quotes',
    reference: 'the id of an entry in double quotes',
    number: 'a number',
    span: 'a length of time in double quotes, such as `"PT90M"`',
    presence: 'nothing',
    boolean: '`true` or `false`',
    date: 'a day, such as `2031-05-04` or `$today`',
    dateTime: 'an instant, such as `2031-05-04T20:30:00Z`, `2031-05-04` or `$now`',
  })[comparison]

const stepTo = (to: Step['to'], fields: readonly Field[]): Step => ({ to, fields: fields.map((field) => field.id) })
const dotted = (path: WrittenPath): string => `\`${path.names.join('.')}\``
const operandAt = (operand: Operand): number => operand.at

function choicesOf(field: Field): string[] {
  const shape = shapeOf(field)
  return shape.is === 'choice' ? shape.options.map((option) => option.value) : []
}

function targetsOf(field: Field): readonly string[] {
  const shape = shapeOf(field)
  return shape.is === 'reference' ? shape.to : []
}
