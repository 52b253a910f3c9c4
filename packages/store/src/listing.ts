import { WisteriaError, type Condition, type Fact, type Moment } from '@wisteria/core'
import { conditionToSql } from './conditionSql.js'
import type { Binding, Reader } from './database.js'
import { editionTables, factExpression, literal, type Edition } from './editionTables.js'
import { wordsSql } from './search.js'
import type { DraftRow, EditionTableRow } from './tables.js'

/** What a list is sorted by: a field's fact, or a fact of the system. Missing values come last either way. */
export interface SortKey {
  readonly by: { readonly field: string } | { readonly system: 'updated' | 'published' }
  readonly descending: boolean
}

export interface ListQuery {
  readonly edition: Edition
  /** The shelf of the site. */
  readonly shelf: string
  /** Internal id; undefined for entries of all types. */
  readonly type: string | undefined
  readonly locale: string
  readonly condition?: Condition | undefined
  /** An FTS5 expression that the words of working copies must meet. */
  readonly words?: string | undefined
  /** Whether entries that were set aside are left out. */
  readonly withoutArchived?: boolean | undefined
  readonly moment: Moment
  readonly sort: readonly SortKey[]
  readonly limit: number
  readonly after?: Position | undefined
}

/** Where a page ended: the sort values of its last row, null where it had none, and its entry. */
export interface Position {
  readonly values: readonly (Fact | null)[]
  readonly entry: string
}

type Row<E extends Edition> = E extends 'draft' ? DraftRow : EditionTableRow

export interface Page<E extends Edition> {
  readonly rows: readonly Row<E>[]
  /** Where the next page begins; undefined at the end. */
  readonly next: Position | undefined
}

/** A page of entries. Paging is by the values of the last row, so that a far page costs what the first does. */
export async function listEntries<E extends Edition>(
  reader: Reader,
  query: ListQuery & { readonly edition: E },
): Promise<Page<E>> {
  const wanted = query.limit + 1
  const found: (Row<E> & Record<string, unknown>)[] = []
  for (const phase of phasesOf(query)) {
    const { text, bindings } = listSql(query, phase, wanted - found.length)
    found.push(...(await reader.all<Row<E> & Record<string, unknown>>(text, bindings)))
    if (found.length >= wanted) break
  }
  const rows = found.slice(0, query.limit)
  const last = rows.at(-1)
  return {
    rows,
    next:
      found.length > query.limit && last
        ? { values: query.sort.map((_, index) => last[`s${index}`] as Fact | null), entry: last.entry }
        : undefined,
  }
}

/** How many entries a query has in all. */
export async function countEntries(
  reader: Reader,
  query: Omit<ListQuery, 'sort' | 'limit' | 'after'>,
): Promise<number> {
  const { text, bindings } = whereSql(query)
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

function whereSql(query: Omit<ListQuery, 'sort' | 'limit' | 'after'>): { text: string; bindings: Binding[] } {
  const ofType = query.type === undefined ? "p.shelf > ''" : `p.type = ${literal(query.type)}`
  const terms = [`p.shelf = ${literal(query.shelf)}`, ofType, 'p.locale = ?']
  const bindings: Binding[] = [query.locale]
  if (query.condition) {
    const { text, bindings: more } = conditionToSql(query.condition, query)
    terms.push(text)
    bindings.push(...more)
  }
  // Few are set aside: they are looked up once, and counting goes on needing no more than an index.
  if (query.withoutArchived) terms.push('p.entry not in (select id from entries where archived_at is not null)')
  if (query.words !== undefined) {
    const { text, bindings: more } = wordsSql(query.words, query.shelf, query.locale)
    terms.push(text)
    bindings.push(...more)
  }
  return { text: terms.join(' and '), bindings }
}

/** The statement of one phase; exported so that tests can ask for its query plan. */
export function listSql(query: ListQuery, phase: Phase, limit: number): { text: string; bindings: Binding[] } {
  const { text: where, bindings } = whereSql(query)
  const expressions = query.sort.map(({ by }) => ('field' in by ? factExpression(by.field, 'p') : `p.${by.system}_at`))
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
    // Said apart from the rest, the bound on the first key lets SQLite seek instead of walk.
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
  return {
    text: `select p.*${sortValues} from ${editionTables[query.edition].rows} p where ${terms.join(' and ')} order by ${order.join(', ')} limit ${limit}`,
    bindings,
  }
}
