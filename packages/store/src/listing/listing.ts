import { WisteriaError, type Condition, type Fact } from '@wisteria/core'
import { conditionToSql } from './conditionSql.js'
import type { Binding, Reader } from '../connection/reader.js'
import { editionTables, factExpression, literal, readColumns, type Edition } from '../projections/editionTables.js'
import type { ListQuery, Position, SortKey } from './query.js'
import { wordsSql } from './search.js'
import { fieldServing, hasMoreRows, partsOf, accessPathOf, type AccessPath } from './accessPath.js'
import type { DraftRow, EditionTableRow } from '../tables/tables.js'

type Row<E extends Edition> = E extends 'draft' ? DraftRow : EditionTableRow

export interface Page<E extends Edition> {
  readonly rows: readonly Row<E>[]
  /** The beginning of the next page; undefined at the end. */
  readonly next: Position | undefined
  /** Whether it ended because so many rows had been looked at, and not because it was full. */
  readonly isPartial: boolean
}

type ListedRow<E extends Edition> = Row<E> & Record<string, unknown>

/** Whether the site has no model yet: then it has no projection set, and no entries. */
const hasNoModel = ({ projection }: Pick<ListQuery, 'projection'>): boolean => projection === ''

/**
 * A page of entries. Paging is by the values of the last row, so that a later page costs as much as the first.
 * @throws WisteriaError `tooCostly` where the parts without an index would read more rows than the budget.
 */
export async function listEntries<E extends Edition>(
  reader: Reader,
  query: ListQuery & { readonly edition: E },
): Promise<Page<E>> {
  if (hasNoModel(query)) return { rows: [], next: undefined, isPartial: false }
  const access = await accessPathOf(reader, query)
  const wanted = query.limit + 1
  const results: ListedRow<E>[] = []
  const positionOf = (row: Record<string, unknown> & { readonly entry: string }): Position => ({
    values: query.sort.map((_, index) => row[`s${index}`] as Fact | null),
    entry: row.entry,
  })
  for (const phase of phasesOf(query)) {
    const { text, bindings } = listSql(query, phase, wanted - results.length, access)
    results.push(...(await reader.all<ListedRow<E>>(text, bindings)))
    if (results.length >= wanted) break
    if (access.is !== 'walk') continue
    const last = await lastLookedAt(reader, query, phase, access.rows)
    if (last) return { rows: results.slice(0, query.limit), next: positionOf(last), isPartial: true }
  }
  const rows = results.slice(0, query.limit)
  const last = rows.at(-1)
  return { rows, next: results.length > query.limit && last ? positionOf(last) : undefined, isPartial: false }
}

/** The row at which a walk ended, where it ended before the rows did. */
async function lastLookedAt(
  reader: Reader,
  query: ListQuery,
  phase: Phase,
  rows: number,
): Promise<(Record<string, unknown> & { readonly entry: string }) | undefined> {
  const { text, bindings } = walkSql(query, phase, rows)
  const [last] = await reader.all<Record<string, unknown> & { readonly entry: string }>(
    `select * from (${text}) limit 1 offset ${rows - 1}`,
    bindings,
  )
  return last
}

/**
 * The total number of entries of a query.
 * @throws WisteriaError `tooCostly` where counting would read more rows than the budget.
 */
export async function countEntries(
  reader: Reader,
  query: Omit<ListQuery, 'sort' | 'limit' | 'after'>,
): Promise<number> {
  if (hasNoModel(query)) return 0
  const parts = partsOf(query.condition)
  const isServed =
    !query.exactLocale &&
    query.region === undefined &&
    (parts.length === 0 || (parts.length === 1 && fieldServing(parts[0]!, query.indexed ?? new Set())))
  const access = isServed ? ({ is: 'plain' } as const) : await accessPathOf(reader, { ...query, sort: [], limit: 1 })
  if (access.is === 'walk' && (await hasMoreRows(reader, query, access.rows)))
    throw new WisteriaError(
      'tooCostly',
      `Counting would look through more than ${access.rows} entries: no index serves the condition. ` +
        'Leave the count out, give a field in it `indexed: true` in the model, or narrow it by an indexed one.',
    )
  const { text, bindings } = whereSql(query, access)
  const [row] = await reader.all<{ total: number }>(
    `select count(*) as total from ${editionTables[query.edition].rows} p where ${text}`,
    bindings,
  )
  return row!.total
}

/** The ids of all entries that a query finds, oldest first. */
export async function idsOf(
  reader: Reader,
  query: Omit<ListQuery, 'sort' | 'limit' | 'after'>,
  limit: number,
): Promise<string[]> {
  if (hasNoModel(query)) return []
  const { text, bindings } = whereSql(query)
  const rows = await reader.all<{ entry: string }>(
    `select p.entry from ${editionTables[query.edition].rows} p where ${text} order by p.entry limit ${limit}`,
    bindings,
  )
  return rows.map(({ entry }) => entry)
}

/** Rows with a value for the first sort key, then those without: apart, each can use an index. */
type Phase = 'all' | 'with' | 'without'

function phasesOf({ sort, after }: ListQuery): readonly Phase[] {
  const first = sort[0]
  if (first === undefined || !('field' in first.by)) return ['all']
  return after && after.values[0] === null ? ['without'] : ['with', 'without']
}

type Filtering = Omit<ListQuery, 'sort' | 'limit' | 'after'>

/** Restrictions of rows, besides the condition. */
function ofQuery(query: Filtering, access: AccessPath): { terms: string[]; bindings: Binding[] } {
  // Rows with known ids are found by these: SQLite must not use an index by type then.
  const isFew = access.is === 'few'
  const ofType = query.type === undefined ? "p.projection > ''" : `${isFew ? '+' : ''}p.type = ${literal(query.type)}`
  const terms = [`p.projection = ${literal(query.projection)}`, ofType, 'p.locale = ?']
  const bindings: Binding[] = [query.locale]
  if (isFew) {
    terms.push('p.entry in (select value from json_each(?))')
    bindings.push(JSON.stringify(access.entries))
  }
  return { terms, bindings }
}

function whereSql(query: Filtering, access: AccessPath = { is: 'plain' }): { text: string; bindings: Binding[] } {
  const { terms, bindings } = ofQuery(query, access)
  const asked = askedSql(query, query.condition, access.is !== 'plain')
  return { text: [...terms, ...asked.terms].join(' and '), bindings: [...bindings, ...asked.bindings] }
}

/** The condition on rows, in SQL. */
function askedSql(
  query: Filtering,
  condition: Condition | undefined,
  byRow: boolean,
): { terms: string[]; bindings: Binding[] } {
  const terms: string[] = []
  const bindings: Binding[] = []
  if (condition) {
    const { text, bindings: more } = conditionToSql(condition, { ...query, byRow })
    terms.push(text)
    bindings.push(...more)
  }
  if (query.region !== undefined) {
    terms.push(query.type === undefined ? '(p.region is null or p.region = ?)' : 'p.region = ?')
    bindings.push(query.region)
  }
  if (query.exactLocale) terms.push('p.content_locale = p.locale')
  if (query.withoutArchived) terms.push('p.entry not in (select id from entries where archived_at is not null)')
  if (query.words !== undefined) {
    const { text, bindings: more } = wordsSql(query.edition, query.words, query.projection, query.locale)
    terms.push(text)
    bindings.push(...more)
  }
  return { terms, bindings }
}

/** The expression of a sort key, of a row named `p`. */
function sortExpression({ by }: SortKey, query: Filtering): string {
  if ('system' in by) return `p.${by.system}_at`
  const { rows, refs } = editionTables[query.edition]
  const at = (row: string, [step, ...rest]: readonly string[], depth: number): string =>
    step === undefined
      ? factExpression(by.field, row)
      : `(select ${at(`k${depth}`, rest, depth + 1)} from ${refs} j${depth} cross join ${rows} k${depth}` +
        ` on k${depth}.projection = j${depth}.projection and k${depth}.entry = j${depth}.target and k${depth}.locale = j${depth}.locale` +
        ` where j${depth}.projection = ${literal(query.projection)} and j${depth}.entry = ${row}.entry and j${depth}.locale = ${row}.locale` +
        ` and j${depth}.field = ${literal(step)} and j${depth}.direct = 1 limit 1)`
  return at('p', by.through ?? [], 0)
}

/** The statement of one phase; exported so that tests can read its query plan. */
export function listSql(
  query: ListQuery,
  phase: Phase,
  limit: number,
  access: AccessPath = { is: 'plain' },
): { text: string; bindings: Binding[] } {
  if (access.is === 'walk') {
    const walk = walkSql(query, phase, access.rows)
    const asked = askedSql(query, query.condition, true)
    const sortValues = query.sort.map((_, index) => `, p.s${index}`).join('')
    // The walk is in the order of the list, and SQLite reads its rows one by one: sorting again would read all of them.
    return {
      text:
        `select ${readColumns(query.edition, 'r')}${sortValues} from (${walk.text}) p cross join ${editionTables[query.edition].rows} r` +
        ` on r.projection = ${literal(query.projection)} and r.entry = p.entry and r.locale = ?` +
        ` where ${asked.terms.join(' and ')} limit ${limit}`,
      bindings: [...walk.bindings, query.locale, ...asked.bindings],
    }
  }
  const { text: where, bindings } = whereSql(query, access)
  const ordered = orderedSql(query, phase, where, bindings)
  return {
    text: `select ${readColumns(query.edition, 'p')}${ordered.sortValues} from ${editionTables[query.edition].rows} p where ${ordered.where} order by ${ordered.order} limit ${limit}`,
    bindings: ordered.bindings,
  }
}

/** Rows in the order of the list, up to a limit, with the columns that a condition may need. */
function walkSql(query: ListQuery, phase: Phase, limit: number): { text: string; bindings: Binding[] } {
  const { terms, bindings } = ofQuery(query, { is: 'plain' })
  const [first] = query.sort
  const sorted = first && 'field' in first.by ? first.by.field : undefined
  for (const part of partsOf(query.condition)) {
    if (sorted === undefined || fieldServing(part, query.indexed ?? new Set()) !== sorted) continue
    const sql = conditionToSql(part, query)
    terms.push(sql.text)
    bindings.push(...sql.bindings)
  }
  const ordered = orderedSql(query, phase, terms.join(' and '), bindings)
  const more = query.edition === 'draft' ? ', p.state, p.summary' : ''
  return {
    text:
      `select p.entry, p.type, p.locale, p.content_locale, p.region, p.facts, p.updated_at, p.published_at${more}${ordered.sortValues}` +
      ` from ${editionTables[query.edition].rows} p where ${ordered.where} order by ${ordered.order} limit ${limit}`,
    bindings: ordered.bindings,
  }
}

/** Where a phase begins, and in which direction it goes on. */
function orderedSql(
  query: ListQuery,
  phase: Phase,
  where: string,
  before: readonly Binding[],
): { where: string; order: string; sortValues: string; bindings: Binding[] } {
  const bindings = [...before]
  const expressions = query.sort.map((key) => sortExpression(key, query))
  // The entry breaks ties in the direction of the first key, so that one index can be walked either way.
  const backwards = query.sort[0]?.descending ?? false
  const terms = [where]
  if (phase === 'with') terms.push(`${expressions[0]} is not null`)
  if (phase === 'without') terms.push(`${expressions[0]} is null`)
  const after = phase === 'without' && query.after?.values[0] !== null ? undefined : query.after
  if (after) {
    if (after.values.length !== query.sort.length)
      throw new WisteriaError('badRequest', 'The cursor belongs to another sort order.')
    const from = phase === 'without' ? 1 : 0
    // As a condition of its own, the bound on the first key lets SQLite seek instead of walk.
    const seek = expressions[from === 0 ? 0 : -1]
    if (seek !== undefined && after.values[0] !== null) {
      terms.push(`${seek} ${query.sort[0]!.descending ? '<=' : '>='} ?`)
      bindings.push(after.values[0]!)
    }
    const alternatives: string[] = []
    for (let index = from; index <= query.sort.length; index++) {
      const steps: string[] = []
      const values: Binding[] = []
      for (let before = from; before < index; before++) {
        steps.push(`${expressions[before]} is ?`)
        values.push(after.values[before]!)
      }
      if (index === query.sort.length) {
        steps.push(`p.entry ${backwards ? '<' : '>'} ?`)
        values.push(after.entry)
      } else {
        const value = after.values[index]!
        if (value === null) continue
        const beyond = `${expressions[index]} ${query.sort[index]!.descending ? '<' : '>'} ?`
        steps.push(index === 0 ? beyond : `(${beyond} or ${expressions[index]} is null)`)
        values.push(value)
      }
      alternatives.push('(' + steps.join(' and ') + ')')
      bindings.push(...values)
    }
    terms.push('(' + alternatives.join(' or ') + ')')
  }
  const order = expressions.flatMap((expression, index) => {
    if (phase === 'without' && index === 0) return []
    const direction = query.sort[index]!.descending ? ' desc' : ''
    return index === 0 ? [`${expression}${direction}`] : [`${expression} is null`, `${expression}${direction}`]
  })
  order.push(`p.entry${backwards ? ' desc' : ''}`)
  const sortValues = expressions.map((expression, index) => `, ${expression} as s${index}`).join('')
  return { where: terms.join(' and '), order: order.join(', '), sortValues, bindings }
}
