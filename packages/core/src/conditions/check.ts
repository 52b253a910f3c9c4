import { WisteriaError } from '../errors.js'
import type { Comparison } from '../fields/shape.js'
import { fieldNamed, kindOf, shapeOf, typeNamed, type ContentType, type Field, type Model } from '../model/model.js'
import { fold } from '../text/fold.js'
import { didYouMean } from '../text/nearest.js'
import { instantOf, isDate, startOfDay } from '../text/time.js'
import type { CheckedCondition, Condition, FactSource, Step, Subject, SystemFact, Value } from './condition.js'
import type { Expression, Operand, WrittenPath } from './expression.js'
import { conditionError, parseCondition } from './parse.js'

export interface CheckContext {
  readonly model: Model
  /** The type whose entries the condition is asked of. */
  readonly type: ContentType
  /** Facts of the system that may be asked here: `$state` is refused to readers of the published edition. */
  readonly systemFacts: readonly SystemFact[]
  /** IANA name; says when a day begins. */
  readonly timeZone: string
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

  const check = (one: Expression, from: readonly ContentType[]): Condition => {
    switch (one.is) {
      case 'and':
      case 'or':
        return { is: one.is, of: one.of.map((part) => check(part, from)) }
      case 'not':
        return { is: 'not', of: check(one.of, from) }
      case 'any': {
        const { steps, fields, to } = follow(one.path, from)
        if (fields[0]!.kind !== 'entry')
          fail(
            one.path.at,
            `\`any\` goes with a field of kind entry, and ${dotted(one.path)} is of kind ${fields[0]!.kind}.`,
          )
        const where = check(one.where, to)
        const last: Condition = { is: 'any', step: { fields: fields.map((field) => field.id) }, where }
        return steps.reduceRight<Condition>((inner, step) => ({ is: 'any', step, where: inner }), last)
      }
      case 'test':
        return test(one, from)
    }
  }

  const test = (one: Expression & { is: 'test' }, from: readonly ContentType[]): Condition => {
    const { subject, comparison, label, options } = subjectOf(one.path, from)
    const wrongOperator = (wanted: string): never =>
      fail(one.at, `\`${one.operator}\` does not go with ${label}. Use ${wanted}.`)
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

  const subjectOf = (path: WrittenPath, from: readonly ContentType[]) => {
    const last = path.names.at(-1)!
    if (last.startsWith('$')) {
      const before = path.names.length > 1 ? follow({ ...path, names: path.names.slice(0, -1) }, from, true) : undefined
      const name = last.slice(1) as SystemFact
      if (!(name in systemComparisons)) {
        const known = Object.keys(systemComparisons).map((one) => '$' + one)
        fail(path.at, `\`${last}\` is not a fact of the system.${didYouMean(last, known)}`)
      }
      if (!context.systemFacts.includes(name)) fail(path.at, `\`${last}\` cannot be asked of the published edition.`)
      const options =
        name === 'state' ? stateNames : name === 'type' ? context.model.types.map((type) => type.name) : undefined
      const fact: FactSource = { is: 'system', name }
      return {
        subject: { steps: before ? [...before.steps, stepOf(before.fields)] : [], fact } satisfies Subject,
        comparison: systemComparisons[name],
        label: last,
        options,
      }
    }
    const { steps, fields } = follow(path, from)
    const first = fields[0]!
    const comparison = kindOf(first).comparison
    const label = `${dotted(path)} (kind ${first.kind})`
    if (comparison === undefined) return fail(path.at, `${label} cannot be compared.`)
    const ids = fields.map((field) => field.id)
    const fact: FactSource =
      comparison === 'reference' ? { is: 'reference', fields: ids } : { is: 'field', fields: ids, many: first.many }
    const shape = shapeOf(first)
    const options = shape.is === 'choice' ? [...new Set(fields.flatMap((field) => choicesOf(field)))] : undefined
    return { subject: { steps, fact } satisfies Subject, comparison, label, options }
  }

  /** Follows a path to its last field(s); `whole` when all of it are references. */
  const follow = (path: WrittenPath, from: readonly ContentType[], whole = false) => {
    const steps: Step[] = []
    let here = from
    let fields: Field[] = []
    for (const [index, name] of path.names.entries()) {
      fields = here.flatMap((type) => fieldNamed(type, name) ?? [])
      if (fields.length === 0) {
        const known = [...new Set(here.flatMap((type) => type.fields.map((field) => field.name)))]
        const owners = here.map((type) => type.name).join(' or ')
        const guess = name.startsWith('$') ? '' : didYouMean(name, known)
        fail(path.at, `\`${name}\` is not a field of ${owners}.${guess}`)
      }
      const kinds = new Set(fields.map((field) => `${kindOf(field).comparison} ${field.many}`))
      if (kinds.size > 1)
        fail(path.at, `\`${name}\` is of different kinds in ${here.map((type) => type.name).join(' and ')}.`)
      const isLast = index === path.names.length - 1
      const reference = shapeOf(fields[0]!).is === 'reference'
      if ((!isLast || whole) && !reference)
        fail(path.at, `\`${name}\` is of kind ${fields[0]!.kind}, so nothing can be asked of it with a dot.`)
      if (reference) {
        here = [...new Set(fields.flatMap((field) => targetsOf(field)))].flatMap(
          (target) => typeNamed(context.model, target) ?? [],
        )
        for (const type of here) types.add(type.name)
      }
      if (!isLast) steps.push(stepOf(fields))
    }
    return { steps, fields, to: here }
  }

  const valueOf = (
    operand: Operand,
    comparison: Comparison,
    label: string,
    options: readonly string[] | undefined,
  ): Value => {
    const wrong = (wanted: string): never => fail(operandAt(operand), `${label} is compared with ${wanted}.`)
    if (operand.is === 'moment') {
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

  const condition = check(expression, [context.type])
  return { condition, dependencies: { types: [...types], time } }
}

const wantedFor = (comparison: Comparison): string =>
  ({
    text: 'a text in double quotes',
    exact: 'a text in double quotes',
    reference: 'the id of an entry in double quotes',
    number: 'a number',
    boolean: '`true` or `false`',
    date: 'a day, such as `2031-05-04` or `$today`',
    dateTime: 'an instant, such as `2031-05-04T20:30:00Z`, `2031-05-04` or `$now`',
  })[comparison]

const stepOf = (fields: readonly Field[]): Step => ({ fields: fields.map((field) => field.id) })
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
