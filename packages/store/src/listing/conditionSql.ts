import {
  factAt,
  type Condition,
  type FactSource,
  type Moment,
  type Step,
  type Subject,
  type Value,
} from '@wisteria/core'
import type { Binding } from '../connection/reader.js'
import { editionTables, factExpression, literal, type Edition } from '../projections/editionTables.js'

export interface Sql {
  readonly text: string
  readonly bindings: readonly Binding[]
}

export interface SqlContext {
  readonly edition: Edition
  /** The shelf of the site. */
  readonly shelf: string
  readonly locale: string
  readonly moment: Moment
  /**
   * Whether what stands in other tables is asked row by row. Otherwise all that passes is worked out first, which is right
   * where few do, or where all rows are looked at anyway.
   */
  readonly byRow?: boolean
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

  const compile = (one: Condition, row: Row, positive: boolean): string => {
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
  const test = (subject: Subject, row: Row, positive: boolean, on: (expression: string) => string): string =>
    subject.steps.length > 0
      ? through(subject.steps, row, positive, (last) => testFact(subject.fact, last, true, on))
      : testFact(subject.fact, row, positive, on)

  const testFact = (fact: FactSource, row: Row, positive: boolean, on: (expression: string) => string): string => {
    switch (fact.is) {
      case 'system':
        return sign(on(systemColumn(fact.name, row.alias)), positive)
      case 'reference':
        return through([{ to: 'entries', fields: fact.fields }], row, positive, (last) => on(`${last.alias}.entry`))
      case 'field': {
        if (!fact.many) {
          const expressions = fact.fields.map((field) => factOf(field, row))
          return sign(on(expressions.length === 1 ? expressions[0]! : `coalesce(${expressions.join(', ')})`), positive)
        }
        const value = `v${aliases++}`
        if (row.is === 'element')
          return anyOf(
            fact.fields,
            positive,
            (field) => `json_each(${row.alias}.value, '${jsonPath(field)}') ${value}`,
            () => on(`${value}.value`),
          )
        if (context.byRow)
          return anyOf(
            ['all'],
            positive,
            () => `${values} ${value}`,
            () =>
              `${value}.shelf = ${literal(context.shelf)} and ${value}.entry = ${row.alias}.entry and ${value}.locale = ${bind(context.locale)}` +
              ` and ${value}.field ${oneOf(fact.fields)} and ${on(`${value}.value`)}`,
          )
        const inside =
          `select ${value}.entry from ${values} ${value} where ${value}.shelf = ${literal(context.shelf)} and ${value}.field ${oneOf(fact.fields)}` +
          ` and ${value}.locale = ${bind(context.locale)} and ${on(`${value}.value`)}`
        return `${row.alias}.entry ${positive ? '' : 'not '}in (${inside})`
      }
    }
  }

  /** What some step leads to passes: rows of what the edition has, or elements of a group. */
  const through = (steps: readonly Step[], row: Row, positive: boolean, passes: (last: Row) => string): string => {
    const [step, ...rest] = steps
    const inner = (next: Row): string => (rest.length > 0 ? through(rest, next, true, passes) : passes(next))
    if (step!.to === 'elements') {
      const element = `e${aliases++}`
      const from = row.is === 'element' ? `${row.alias}.value` : `${row.alias}.facts`
      return anyOf(
        step!.fields,
        positive,
        (field) => `json_each(${from}, '${jsonPath(field)}e') ${element}`,
        () => inner({ is: 'element', alias: element }),
      )
    }
    const next: Row = { is: 'row', alias: `t${aliases++}` }
    if (row.is === 'element') {
      const held = `h${aliases++}`
      return anyOf(
        step!.fields,
        positive,
        (field) =>
          `json_each(${row.alias}.value, '${jsonPath(field)}') ${held} join ${rows} ${next.alias} on ${next.alias}.shelf = ${literal(context.shelf)}` +
          ` and ${next.alias}.entry = ${held}.value and ${next.alias}.locale = ${bind(context.locale)}`,
        () => inner(next),
      )
    }
    const reference = `r${aliases++}`
    if (context.byRow)
      return anyOf(
        ['all'],
        positive,
        () =>
          `${refs} ${reference} cross join ${rows} ${next.alias} on ${next.alias}.shelf = ${reference}.shelf` +
          ` and ${next.alias}.entry = ${reference}.target and ${next.alias}.locale = ${reference}.locale`,
        () =>
          `${reference}.shelf = ${literal(context.shelf)} and ${reference}.entry = ${row.alias}.entry and ${reference}.locale = ${bind(context.locale)}` +
          ` and ${reference}.field ${oneOf(step!.fields)} and ${reference}.direct = 1 and ${inner(next)}`,
      )
    const before =
      `select ${reference}.entry from ${refs} ${reference} join ${rows} ${next.alias} on ${next.alias}.shelf = ${reference}.shelf` +
      ` and ${next.alias}.entry = ${reference}.target and ${next.alias}.locale = ${reference}.locale` +
      ` where ${reference}.shelf = ${literal(context.shelf)} and ${reference}.field ${oneOf(step!.fields)} and ${reference}.direct = 1 and ${reference}.locale = ${bind(context.locale)}`
    return `${row.alias}.entry ${positive ? '' : 'not '}in (${before} and ${inner(next)})`
  }

  /** Whether something is there, in the place that any of the fields says. */
  const anyOf = (
    fields: readonly string[],
    positive: boolean,
    from: (field: string) => string,
    where: () => string,
  ): string => {
    const each = fields.map((field) => `exists (select 1 from ${from(field)} where ${where()})`)
    return `${positive ? '' : 'not '}(${each.join(' or ')})`
  }

  const text = compile(condition, { is: 'row', alias }, true)
  return { text, bindings }
}

/** What a condition is asked of: a row of the edition, or an element of a repeated group in one. */
interface Row {
  readonly is: 'row' | 'element'
  readonly alias: string
}

const jsonPath = (field: string): string => `$.${literal(field).slice(1, -1)}`

const factOf = (field: string, { is, alias }: Row): string =>
  is === 'row' ? factExpression(field, alias) : `json_extract(${alias}.value, '${jsonPath(field)}')`

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
