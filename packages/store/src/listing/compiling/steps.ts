import type { Step } from '@wisteria/core'
import { literal } from '../../projections/editionTables.js'
import { isOneOf, jsonPath, type Compiling, type Row } from './compiling.js'

/** Whether a step leads to a match: rows of the edition, or elements of a group. */
export function passesThrough(
  compiling: Compiling,
  steps: readonly Step[],
  row: Row,
  positive: boolean,
  passes: (last: Row) => string,
): string {
  const [step, ...rest] = steps
  const inner = (next: Row): string =>
    rest.length > 0 ? passesThrough(compiling, rest, next, true, passes) : passes(next)
  if (step!.to === 'elements') {
    const element = compiling.alias('e')
    const from = row.is === 'element' ? `${row.alias}.value` : `${row.alias}.facts`
    return anyOf(
      step!.fields,
      positive,
      (field) => `json_each(${from}, '${jsonPath(field)}e') ${element}`,
      () => inner({ is: 'element', alias: element }),
    )
  }
  const next: Row = { is: 'row', alias: compiling.alias('t') }
  if (row.is === 'element') {
    const holder = compiling.alias('h')
    return anyOf(
      step!.fields,
      positive,
      (field) =>
        `json_each(${row.alias}.value, '${jsonPath(field)}') ${holder} join ${compiling.tables.rows} ${next.alias} on ${next.alias}.projection = ${literal(compiling.context.projection)}` +
        ` and ${next.alias}.entry = ${holder}.value and ${next.alias}.locale = ${compiling.bind(compiling.context.locale)}`,
      () => inner(next),
    )
  }
  const reference = compiling.alias('r')
  if (compiling.context.byRow)
    return anyOf(
      ['all'],
      positive,
      () =>
        `${compiling.tables.refs} ${reference} cross join ${compiling.tables.rows} ${next.alias} on ${next.alias}.projection = ${reference}.projection` +
        ` and ${next.alias}.entry = ${reference}.target and ${next.alias}.locale = ${reference}.locale`,
      () =>
        `${reference}.projection = ${literal(compiling.context.projection)} and ${reference}.entry = ${row.alias}.entry and ${reference}.locale = ${compiling.bind(compiling.context.locale)}` +
        ` and ${reference}.field ${isOneOf(step!.fields)} and ${reference}.direct = 1 and ${inner(next)}`,
    )
  const before =
    `select ${reference}.entry from ${compiling.tables.refs} ${reference} join ${compiling.tables.rows} ${next.alias} on ${next.alias}.projection = ${reference}.projection` +
    ` and ${next.alias}.entry = ${reference}.target and ${next.alias}.locale = ${reference}.locale` +
    ` where ${reference}.projection = ${literal(compiling.context.projection)} and ${reference}.field ${isOneOf(step!.fields)} and ${reference}.direct = 1 and ${reference}.locale = ${compiling.bind(compiling.context.locale)}`
  return `${row.alias}.entry ${positive ? '' : 'not '}in (${before} and ${inner(next)})`
}

/** Whether there is a value, in any of the fields. */
export function anyOf(
  fields: readonly string[],
  positive: boolean,
  from: (field: string) => string,
  where: () => string,
): string {
  const each = fields.map((field) => `exists (select 1 from ${from(field)} where ${where()})`)
  return `${positive ? '' : 'not '}(${each.join(' or ')})`
}
