import { entryRoot, publicFacts, draftFacts } from '../conditions/condition.js'
import { orderOf, type Moment } from '../conditions/evaluate.js'
import { conditionError } from '../conditions/tokens.js'
import { fold } from '../text/fold.js'
import { secondsIn } from '../text/span.js'
import { addDays, dayIn, instantOf, isDate, startOfDay } from '../text/time.js'
import type { CheckedExpression } from './check.js'
import type { Arithmetic, Expression, FunctionName, Path, Test, TestOperator } from './grammar.js'

/** A value as JSON has it. `undefined` and `null` are no value. Days and instants are texts, as everywhere. */
export type Data = string | number | boolean | null | undefined | readonly Data[] | { readonly [name: string]: Data }

/**
 * What the roots are. An entry is an object of its fields by name, with its facts in `entry`; those of the root `entry` are reached
 * directly too.
 */
export type Scope = Readonly<Record<string, Data>>

/** A length of time, between the parts of an expression. */
class Duration {
  constructor(
    readonly minutes: number,
    readonly days: number,
  ) {}
}

const facts: ReadonlySet<string> = new Set([...publicFacts, ...draftFacts])

/**
 * The value of an expression; undefined where there is none.
 * @throws WisteriaError `badCondition`, with the position, where values do not go together: a text times a number, say.
 */
export function valueOfExpression({ text, expression }: CheckedExpression, scope: Scope, moment: Moment): Data {
  const value = new Evaluation(text, scope, moment).value(expression)
  if (value instanceof Duration)
    throw conditionError(text, 0, 'A length of time is no value by itself: add it to a day or an instant.')
  return value
}

/** Whether an expression is true. Two-valued, as conditions are: a comparison with no value is false, and `not` negates that. */
export const holds = (checked: CheckedExpression, scope: Scope, moment: Moment): boolean =>
  valueOfExpression(checked, scope, moment) === true

const hasValue = (value: Data | Duration): boolean =>
  value !== undefined && value !== null && value !== '' && !(Array.isArray(value) && value.length === 0)
/** A list of many values, or of one, or of none. */
const listOf = (value: Data | Duration): readonly (Data | Duration)[] =>
  value === undefined || value === null ? [] : Array.isArray(value) ? (value as readonly Data[]) : [value]
const isObject = (value: unknown): value is { readonly [name: string]: Data } =>
  typeof value === 'object' && value !== null && !Array.isArray(value) && !(value instanceof Duration)

class Evaluation {
  readonly #text: string
  readonly #scope: Scope
  readonly #moment: Moment

  constructor(text: string, scope: Scope, moment: Moment) {
    this.#text = text
    this.#scope = scope
    this.#moment = moment
  }

  value(expression: Expression): Data | Duration {
    switch (expression.is) {
      case 'and':
        return expression.of.every((part) => this.value(part) === true)
      case 'or':
        return expression.of.some((part) => this.value(part) === true)
      case 'not':
        return this.value(expression.of) !== true
      case 'test':
        return this.#test(expression)
      case 'any':
        return listOf(this.value(expression.list)).some(
          (item) =>
            new Evaluation(this.#text, { ...this.#scope, item: item as Data }, this.#moment).value(expression.where) ===
            true,
        )
      case 'constant':
        return expression.value
      case 'moment':
        return expression.base === 'now'
          ? new Date(this.#moment.now).toISOString()
          : dayIn(this.#moment.now, this.#moment.timeZone)
      case 'duration':
        return new Duration(expression.minutes, expression.days)
      case 'path':
        return this.#path(expression)
      case 'list':
        return expression.of.map((part) => this.#plain(this.value(part), expression.at))
      case 'joined':
        return expression.of.map((part) => this.#written(this.value(part), expression.at)).join('')
      case 'arithmetic':
        return this.#arithmetic(expression)
      case 'call':
        return this.#call(
          expression.name,
          expression.of.map((part) => this.#plain(this.value(part), expression.at)),
          expression.at,
        )
    }
  }

  #path({ names }: Path): Data {
    const [root, ...rest] = names as [string, ...string[]]
    let value = Object.hasOwn(this.#scope, root) ? this.#scope[root] : undefined
    if (root === entryRoot && rest[0] !== undefined && facts.has(rest[0])) rest.unshift(entryRoot)
    for (const name of rest) value = inside(value, name)
    return value
  }

  #test({ left, operator, right, exact = false, at }: Test): boolean {
    const value = this.value(left)
    if (operator === 'has value') return hasValue(value)
    if (operator === 'has no value') return !hasValue(value)
    if (operator === '!=') return !this.#compares(value, '=', this.value(right!), exact, at)
    return this.#compares(value, operator, this.value(right!), exact, at)
  }

  /** Of many values, one must match. */
  #compares(
    left: Data | Duration,
    operator: TestOperator,
    right: Data | Duration,
    exact: boolean,
    at: number,
  ): boolean {
    if (left instanceof Duration || right instanceof Duration)
      throw conditionError(this.#text, at, 'A length of time is not compared: add it to a day or an instant.')
    return listOf(left).some((a) => listOf(right).some((b) => this.#pair(a as Data, operator, b as Data, exact)))
  }

  #pair(a: Data, operator: TestOperator, b: Data, exact: boolean): boolean {
    const [left, right] = [comparable(a), comparable(b)]
    if (left === undefined || right === undefined) return false
    if (operator === 'contains' || operator === 'starts with') {
      if (typeof left !== 'string' || typeof right !== 'string') return false
      const [whole, part] = exact ? [left, right] : [fold(left), fold(right)]
      return operator === 'contains' ? whole.includes(part) : whole.startsWith(part)
    }
    if (typeof left !== typeof right) return false
    const order =
      typeof left === 'string' ? this.#orderOfTexts(left, right as string, exact) : Number(left) - Number(right)
    switch (operator) {
      case '<':
        return order < 0
      case '<=':
        return order <= 0
      case '>':
        return order > 0
      case '>=':
        return order >= 0
      default:
        return order === 0
    }
  }

  #orderOfTexts(left: string, right: string, exact: boolean): number {
    const times = [left, right].map((text) => (isDate(text) ? text : instantOf(text)))
    if (times[0] !== undefined && times[1] !== undefined) {
      const { timeZone } = this.#moment
      const [a, b] =
        isDate(left) === isDate(right)
          ? times
          : times.map((time) => (isDate(time!) ? startOfDay(time!, timeZone) : time))
      return a! < b! ? -1 : a! > b! ? 1 : 0
    }
    const spans = [secondsIn(left), secondsIn(right)]
    if (spans[0] !== undefined && spans[1] !== undefined) return spans[0] - spans[1]
    return exact ? orderOf(left, right) : orderOf(fold(left), fold(right))
  }

  #arithmetic({ operator, left, right, at }: Arithmetic): Data | Duration {
    const [a, b] = [this.value(left), this.value(right)]
    if (!hasValue(a) || !hasValue(b)) return undefined
    if (typeof a === 'number' && typeof b === 'number') {
      const result = operator === '+' ? a + b : operator === '-' ? a - b : operator === '*' ? a * b : a / b
      return Number.isFinite(result) ? result : undefined
    }
    if (operator === '+' && a instanceof Duration && typeof b === 'string') return this.#moved(b, a, 1, at)
    if ((operator === '+' || operator === '-') && typeof a === 'string' && b instanceof Duration)
      return this.#moved(a, b, operator === '+' ? 1 : -1, at)
    if (operator === '-' && typeof a === 'string' && typeof b === 'string') {
      const days = this.#daysBetween(a, b)
      if (days !== undefined) return days
    }
    const kinds = [a, b].map(kindOfData)
    throw conditionError(
      this.#text,
      at,
      `\`${operator}\` does not go with ${kinds[0]} and ${kinds[1]}.${kinds.includes('a text') ? ' Texts are joined with `&`, and `number(…)` reads the number in one.' : ''}`,
    )
  }

  /** A day or an instant, later by a length of time. */
  #moved(from: string, { minutes, days }: Duration, sign: 1 | -1, at: number): string {
    if (isDate(from)) {
      if (minutes !== 0) throw conditionError(this.#text, at, `\`${from}\` is a whole day: add days or weeks to it.`)
      return addDays(from, sign * days)
    }
    const instant = instantOf(from)
    if (instant === undefined)
      throw conditionError(this.#text, at, `“${from.slice(0, 40)}” is neither a day nor an instant.`)
    return new Date(Date.parse(instant) + sign * (minutes * 60_000 + days * 86_400_000)).toISOString()
  }

  /** Between two days whole ones; between instants parts of days too. */
  #daysBetween(later: string, earlier: string): number | undefined {
    const times = [later, earlier].map((text) => (isDate(text) ? `${text}T00:00:00.000Z` : instantOf(text)))
    if (times[0] === undefined || times[1] === undefined || isDate(later) !== isDate(earlier)) return undefined
    return (Date.parse(times[0]) - Date.parse(times[1])) / 86_400_000
  }

  #call(name: FunctionName, values: readonly Data[], at: number): Data {
    const [value, second] = values
    if (name === 'firstOf') return values.find(hasValue)
    if (name === 'count') return listOf(value).length
    if (!hasValue(value)) return undefined
    const fail = (wanted: string): never => {
      throw conditionError(this.#text, at, `\`${name}\` wants ${wanted}, and this is ${kindOfData(value)}.`)
    }
    switch (name) {
      case 'first':
        return listOf(value)[0] as Data
      case 'last':
        return listOf(value).at(-1) as Data
      case 'text':
        return this.#written(value, at)
      case 'number': {
        if (typeof value === 'number') return value
        const text = typeof value === 'string' ? value.trim() : ''
        if (!/^[+-]?\d+(\.\d+)?([eE][+-]?\d+)?$/.test(text))
          return typeof value === 'string' ? fail(`a text such as \`"12.5"\``) : fail('a number, or a text with one')
        return Number(text)
      }
      case 'round': {
        if (typeof value !== 'number') return fail('a number')
        const factor = 10 ** Math.min(Math.max(Math.trunc(Number(second ?? 0)), 0), 12)
        return Math.round(value * factor) / factor
      }
      case 'day': {
        if (typeof value !== 'string') return fail('an instant')
        if (isDate(value)) return value
        const instant = instantOf(value)
        return instant === undefined ? fail('an instant') : dayIn(Date.parse(instant), this.#moment.timeZone)
      }
      case 'lower':
        return typeof value === 'string' ? value.toLowerCase() : fail('a text')
      case 'trim':
        return typeof value === 'string' ? value.trim() : fail('a text')
      case 'split':
        if (typeof value !== 'string' || typeof second !== 'string' || second === '') return fail('two texts')
        return value
          .split(second)
          .map((part) => part.trim())
          .filter((part) => part !== '')
      case 'join':
        return listOf(value)
          .filter(hasValue)
          .map((item) => this.#written(item, at))
          .join(this.#written(second, at))
    }
  }

  /** A value in a text. */
  #written(value: Data | Duration, at: number): string {
    if (value === undefined || value === null) return ''
    if (Array.isArray(value)) return (value as readonly Data[]).map((item) => this.#written(item, at)).join(', ')
    if (typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean') return String(value)
    throw conditionError(
      this.#text,
      at,
      `${kindOfData(value)[0]!.toUpperCase() + kindOfData(value).slice(1)} is not written in a text.`,
    )
  }

  #plain(value: Data | Duration, at: number): Data {
    if (value instanceof Duration)
      throw conditionError(this.#text, at, 'A length of time is no value by itself: add it to a day or an instant.')
    return value
  }
}

/** The value of a name in an object, or its values in a list of them. */
function inside(value: Data, name: string): Data {
  if (Array.isArray(value)) {
    const all = (value as readonly Data[]).flatMap((item) => listOf(inside(item, name)) as readonly Data[])
    return all.length === 0 ? undefined : all
  }
  return isObject(value) && Object.hasOwn(value, name) ? value[name] : undefined
}

/** The comparable form of one value: an entry or a file is its id. */
function comparable(value: Data): string | number | boolean | undefined {
  if (value === null || value === undefined || Array.isArray(value)) return undefined
  if (!isObject(value)) return value as string | number | boolean
  const id = inside(value[entryRoot], 'id') ?? value['id']
  return typeof id === 'string' ? id : undefined
}

function kindOfData(value: Data | Duration): string {
  if (value instanceof Duration) return 'a length of time'
  if (Array.isArray(value)) return 'a list'
  if (typeof value === 'string')
    return isDate(value) ? 'a day' : instantOf(value) === undefined ? 'a text' : 'an instant'
  return typeof value === 'number' ? 'a number' : typeof value === 'boolean' ? 'true or false' : 'an object'
}
