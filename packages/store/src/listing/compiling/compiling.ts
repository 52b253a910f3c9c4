import { factAt, type Moment, type Value } from '@wisteria/core'
import type { Binding } from '../../connection/reader.js'
import { editionTables, factExpression, literal, type Edition } from '../../projections/editionTables.js'

export interface Sql {
  readonly text: string
  readonly bindings: readonly Binding[]
}

export interface SqlContext {
  readonly edition: Edition
  /** The projection set of the site. */
  readonly projection: string
  readonly locale: string
  readonly moment: Moment
  /**
   * Whether other tables are read row by row. Otherwise all matching ids are computed first, which is right where few match, or
   * where all rows are read anyway.
   */
  readonly byRow?: boolean
}

/** The subject of a condition: a row of the edition, or an element of a repeated group in one. */
export interface Row {
  readonly is: 'row' | 'element'
  readonly alias: string
}

/** One compilation of a condition: its subject, and the bound values so far, in the order of the text. */
export class Compiling {
  readonly context: SqlContext
  readonly tables: (typeof editionTables)[Edition]
  readonly bindings: Binding[] = []
  #aliases = 0

  constructor(context: SqlContext) {
    this.context = context
    this.tables = editionTables[context.edition]
  }

  /** Binds a value. @returns its place in the text. */
  bind(value: Binding): string {
    this.bindings.push(value)
    return '?'
  }

  /** A name that no other table of the statement has. */
  alias(letter: string): string {
    return `${letter}${this.#aliases++}`
  }

  valueOf(value: Value): Binding {
    return factAt(value, this.context.moment)
  }
}

export const jsonPath = (field: string): string => `$.${literal(field).slice(1, -1)}`

/** A field's single fact. */
export const factOf = (field: string, { is, alias }: Row): string =>
  is === 'row' ? factExpression(field, alias) : `json_extract(${alias}.value, '${jsonPath(field)}')`

/** A test, or its contrary: a missing value makes a test false before it is turned around. */
export const sign = (test: string, positive: boolean): string => (positive ? test : `not coalesce(${test}, 0)`)

export const isOneOf = (fields: readonly string[]): string =>
  fields.length === 1 ? `= ${literal(fields[0]!)}` : `in (${fields.map((field) => literal(field)).join(', ')})`
