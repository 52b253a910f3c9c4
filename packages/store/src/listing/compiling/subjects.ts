import type { FactSource, Subject, SystemFact } from '@wisteria/core'
import { literal } from '../../projections/editionTables.js'
import { factOf, isOneOf, jsonPath, sign, type Compiling, type Row } from './compiling.js'
import { anyOf, passesThrough } from './steps.js'

/** A test of a subject: on the row itself, or on any row or value that it leads to. */
export const testSubject = (
  compiling: Compiling,
  subject: Subject,
  row: Row,
  positive: boolean,
  on: (expression: string) => string,
): string =>
  subject.steps.length > 0
    ? passesThrough(compiling, subject.steps, row, positive, (last) =>
        testFact(compiling, subject.fact, last, true, on),
      )
    : testFact(compiling, subject.fact, row, positive, on)

function testFact(
  compiling: Compiling,
  fact: FactSource,
  row: Row,
  positive: boolean,
  on: (expression: string) => string,
): string {
  switch (fact.is) {
    case 'system':
      return sign(on(systemColumn(fact.name, row)), positive)
    case 'reference':
      return passesThrough(compiling, [{ to: 'entries', fields: fact.fields }], row, positive, (last) =>
        on(`${last.alias}.entry`),
      )
    case 'field': {
      if (!fact.many) {
        const expressions = fact.fields.map((field) => factOf(field, row))
        return sign(on(expressions.length === 1 ? expressions[0]! : `coalesce(${expressions.join(', ')})`), positive)
      }
      const value = compiling.alias('v')
      if (row.is === 'element')
        return anyOf(
          fact.fields,
          positive,
          (field) => `json_each(${row.alias}.value, '${jsonPath(field)}') ${value}`,
          () => on(`${value}.value`),
        )
      if (compiling.context.byRow)
        return anyOf(
          ['all'],
          positive,
          () => `${compiling.tables.values} ${value}`,
          () =>
            `${value}.projection = ${literal(compiling.context.projection)} and ${value}.entry = ${row.alias}.entry and ${value}.locale = ${compiling.bind(compiling.context.locale)}` +
            ` and ${value}.field ${isOneOf(fact.fields)} and ${on(`${value}.value`)}`,
        )
      const inside =
        `select ${value}.entry from ${compiling.tables.values} ${value} where ${value}.projection = ${literal(compiling.context.projection)} and ${value}.field ${isOneOf(fact.fields)}` +
        ` and ${value}.locale = ${compiling.bind(compiling.context.locale)} and ${on(`${value}.value`)}`
      return `${row.alias}.entry ${positive ? '' : 'not '}in (${inside})`
    }
  }
}

/** The prefix of an actor that is a person. */
const accountPrefix = 'account:'

/** The SQL of a fact of a row. Types without localized fields, and the default locale, have no freshness: an empty text. */
function systemColumn(fact: SystemFact, { alias }: Row): string {
  if (fact === 'freshness') return `nullif(${alias}.freshness, '')`
  if (fact === 'updatedBy')
    return (
      `(select b.email from entries w join accounts b on b.id = substr(w.updated_by, ${accountPrefix.length + 1})` +
      ` where w.id = ${alias}.entry and w.updated_by glob '${accountPrefix}*')`
    )
  return `${alias}.${systemColumns[fact]}`
}

const systemColumns: Readonly<Record<Exclude<SystemFact, 'freshness' | 'updatedBy'>, string>> = {
  id: 'entry',
  type: 'type',
  region: 'region',
  state: 'state',
  updated: 'updated_at',
  published: 'published_at',
}
