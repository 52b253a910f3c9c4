import {
  factAt,
  type Condition,
  type FactSource,
  type Moment,
  type Step,
  type Subject,
  type Value,
} from '@wisteria/core'
import type { Binding } from './database.js'
import { editionTables, factExpression, literal, type Edition } from './editionTables.js'

export interface Sql {
  readonly text: string
  readonly bindings: readonly Binding[]
}

export interface SqlContext {
  readonly edition: Edition
  /** The site's internal id. */
  readonly site: string
  readonly locale: string
  readonly moment: Moment
}

/**
 * Compiles a checked condition to an SQL expression over a row of the edition, known as `alias`. `not` is pushed down to
 * the tests, where a missing value is made false before it is turned around: SQL's third truth value never shows.
 */
export function conditionToSql(condition: Condition, context: SqlContext, alias = 'p'): Sql {
  const { rows, values, refs } = editionTables[context.edition]
  let aliases = 0
  const bindings: Binding[] = []
  const bind = (value: Binding): string => (bindings.push(value), '?')
  const at = (value: Value): Binding => factAt(value, context.moment)

  const compile = (one: Condition, row: string, positive: boolean): string => {
    switch (one.is) {
      case 'and':
      case 'or': {
        const word = (one.is === 'and') === positive ? ' and ' : ' or '
        return '(' + one.of.map((part) => compile(part, row, positive)).join(word) + ')'
      }
      case 'not':
        return compile(one.of, row, !positive)
      case 'any':
        return through([one.step], row, positive, (last) => compile(one.where, last, true))
      default:
        return test(one.subject, row, positive, (expression) => testOn(one, expression))
    }
  }

  const testOn = (one: Exclude<Condition, { is: 'and' | 'or' | 'not' | 'any' }>, expression: string): string => {
    switch (one.is) {
      case 'hasValue':
        return `${expression} is not null`
      case 'compare':
        return `${expression} ${one.operator} ${bind(at(one.value))}`
      case 'in':
        return one.values.length === 0
          ? '0'
          : `${expression} in (${one.values.map((value) => bind(at(value))).join(', ')})`
      case 'contains':
        return `instr(${expression}, ${bind(one.text)}) > 0`
      case 'startsWith': {
        const end = afterPrefix(one.text)
        const from = `${expression} >= ${bind(one.text)}`
        return end === undefined ? from : `(${from} and ${expression} < ${bind(end)})`
      }
    }
  }

  /** A test of a subject: on the row itself, or on any row or value that it leads to. */
  const test = (subject: Subject, row: string, positive: boolean, on: (expression: string) => string): string =>
    subject.steps.length > 0
      ? through(subject.steps, row, positive, (last) => testFact(subject.fact, last, true, on))
      : testFact(subject.fact, row, positive, on)

  const testFact = (fact: FactSource, row: string, positive: boolean, on: (expression: string) => string): string => {
    switch (fact.is) {
      case 'system':
        return sign(on(systemColumn(fact.name, row)), positive)
      case 'reference':
        return through([{ fields: fact.fields }], row, positive, (last) => on(`${last}.entry`))
      case 'field': {
        if (!fact.many) {
          const expressions = fact.fields.map((field) => factExpression(field, row))
          return sign(on(expressions.length === 1 ? expressions[0]! : `coalesce(${expressions.join(', ')})`), positive)
        }
        const value = `v${aliases++}`
        const inside =
          `select ${value}.entry from ${values} ${value} where ${value}.site = ${literal(context.site)} and ${value}.field ${oneOf(fact.fields)}` +
          ` and ${value}.locale = ${bind(context.locale)} and ${on(`${value}.value`)}`
        return `${row}.entry ${positive ? '' : 'not '}in (${inside})`
      }
    }
  }

  /** The rows from which some reference leads to a row that passes. Only references to what the edition has count. */
  const through = (
    steps: readonly Step[],
    row: string,
    positive: boolean,
    passes: (last: string) => string,
  ): string => {
    const [step, ...rest] = steps
    const reference = `r${aliases++}`
    const next = `t${aliases++}`
    const before =
      `select ${reference}.entry from ${refs} ${reference} join ${rows} ${next} on ${next}.entry = ${reference}.target and ${next}.locale = ${reference}.locale` +
      ` where ${reference}.field ${oneOf(step!.fields)} and ${reference}.direct = 1 and ${reference}.locale = ${bind(context.locale)}`
    const inside = rest.length > 0 ? through(rest, next, true, passes) : passes(next)
    return `${row}.entry ${positive ? '' : 'not '}in (${before} and ${inside})`
  }

  const text = compile(condition, alias, true)
  return { text, bindings }
}

const sign = (test: string, positive: boolean): string => (positive ? test : `not coalesce(${test}, 0)`)

const oneOf = (fields: readonly string[]): string =>
  fields.length === 1 ? `= ${literal(fields[0]!)}` : `in (${fields.map((field) => literal(field)).join(', ')})`

function systemColumn(name: 'type' | 'state' | 'updated' | 'published', row: string): string {
  return { type: `${row}.type`, state: `${row}.state`, updated: `${row}.updated_at`, published: `${row}.published_at` }[
    name
  ]
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
