import { WisteriaError, type Condition } from '@wisteria/core'
import { LRUCache } from 'lru-cache'
import { conditionToSql } from './conditionSql.js'
import type { Binding, Reader } from '../connection/reader.js'
import { editionTables, literal } from '../projections/editionTables.js'
import type { ListQuery, SortKey } from './query.js'

/**
 * How a list is read. Types with few rows need no plan. For others SQLite, which has no statistics, cannot know whether a condition
 * matches three entries or most: we measure it.
 */
export type AccessPath =
  /** As written: few rows, or the index of the order serves the whole condition. */
  | { readonly is: 'plain' }
  /** One part of the condition matches so few entries that they are fetched by id, and the rest is tested on them. */
  | { readonly is: 'few'; readonly entries: readonly string[] }
  /** Walked in the order of an index, a limited number of rows, each tested on the parts without an index. */
  | { readonly is: 'walk'; readonly rows: number }

/** Up to this number of rows of a type a list is read as written. */
export const fewRows = 5_000
/** The most matches of a part that is read first. */
const fewEntries = 500
/** How often a measured result is used before it is measured again. */
const usesOfAnEstimate = 200

interface CachedEstimate {
  holds: boolean
  uses: number
}
const cachedEstimates = new LRUCache<string, CachedEstimate>({ max: 2_000 })

/** A recent result about something that changes slowly. */
async function cachedEstimate(key: string, find: () => Promise<boolean>): Promise<boolean> {
  const cached = cachedEstimates.get(key)
  if (cached && cached.uses++ < usesOfAnEstimate) return cached.holds
  const holds = await find()
  cachedEstimates.set(key, { holds, uses: 0 })
  return holds
}

type Asked = Pick<
  ListQuery,
  'edition' | 'projection' | 'type' | 'locale' | 'region' | 'condition' | 'moment' | 'indexed'
>

const base = (query: Asked, of: string): { text: string; bindings: Binding[] } => ({
  text: `${of}.projection = ${literal(query.projection)} and ${of}.type = ${literal(query.type!)} and ${of}.locale = ?`,
  bindings: [query.locale],
})

/** Whether there are more rows than the limit. */
export function hasMoreRows(reader: Reader, query: Asked, than: number): Promise<boolean> {
  if (query.type === undefined) return Promise.resolve(false)
  const { rows } = editionTables[query.edition]
  const { text, bindings } = base(query, 'p')
  return cachedEstimate(`${rows} ${query.projection} ${query.type} ${query.locale} ${than}`, async () => {
    const counted = await reader.all(
      `select 1 from ${rows} p where ${text} order by p.entry limit 1 offset ${than}`,
      bindings,
    )
    return counted.length > 0
  })
}

/** The parts of a condition that must all hold. */
export const partsOf = (condition: Condition | undefined): readonly Condition[] =>
  condition === undefined ? [] : condition.is === 'and' ? condition.of.flatMap(partsOf) : [condition]

/** The field whose index serves a part; undefined where none does. */
export function fieldServing(part: Condition, indexed: ReadonlySet<string>): string | undefined {
  if (part.is !== 'compare' && part.is !== 'in' && part.is !== 'startsWith') return undefined
  const { steps, fact } = part.subject
  const [field, ...others] = fact.is === 'field' && !fact.many ? fact.fields : []
  return steps.length === 0 && field !== undefined && others.length === 0 && indexed.has(field) ? field : undefined
}

/** The entries for which a part holds, from its own index or table; undefined where there is none. */
function candidatesSql(query: Asked, part: Condition): { text: string; bindings: readonly Binding[] } | undefined {
  const { rows } = editionTables[query.edition]
  if (fieldServing(part, query.indexed ?? new Set())) {
    const { text, bindings } = base(query, 'p')
    const sql = conditionToSql(part, query)
    return {
      text: `select p.entry from ${rows} p where ${text} and ${sql.text}`,
      bindings: [...bindings, ...sql.bindings],
    }
  }
  if (part.is !== 'compare' && part.is !== 'in') return undefined
  const { steps, fact } = part.subject
  const isBeside = fact.is === 'reference' || (fact.is === 'field' && fact.many)
  if (steps.length > 0 || !isBeside || (part.is === 'compare' && part.operator !== '=')) return undefined
  // The statement ends in `p.entry in (select …)`: this is the part inside.
  const sql = conditionToSql(part, query)
  const inside = /^p\.entry in \((select .*)\)$/s.exec(sql.text)?.[1]
  return inside === undefined ? undefined : { text: inside, bindings: sql.bindings }
}

/** The entries that a part names by their ids; undefined where it names none. */
function idsIn(part: Condition): readonly string[] | undefined {
  if (part.is !== 'in' && !(part.is === 'compare' && part.operator === '=')) return undefined
  const { steps, fact } = part.subject
  if (steps.length > 0 || fact.is !== 'system' || fact.name !== 'id') return undefined
  return (part.is === 'in' ? part.values : [part.value]) as string[]
}

/** The entries of a region, from the index of regions; undefined where all are asked for. */
function regionSql(query: Asked): { text: string; bindings: readonly Binding[] } | undefined {
  if (query.region === undefined) return undefined
  const { text, bindings } = base(query, 'p')
  const { rows } = editionTables[query.edition]
  return {
    text: `select p.entry from ${rows} p indexed by ${rows}_by_region where ${text} and p.region = ?`,
    bindings: [...bindings, query.region],
  }
}

/** The entries that one part leaves, when there are few. */
async function fewBy(reader: Reader, query: Asked): Promise<readonly string[] | undefined> {
  const parts = partsOf(query.condition)
  const named = parts.map(idsIn).find((ids) => ids !== undefined)
  if (named) return named
  for (const sql of [regionSql(query), ...parts.map((part) => candidatesSql(query, part))]) {
    if (!sql) continue
    let rows: { entry: string }[] | undefined
    const find = async (): Promise<boolean> => {
      rows = await reader.all<{ entry: string }>(`${sql.text} limit ${fewEntries + 1}`, sql.bindings)
      return rows.length > fewEntries
    }
    const isMany = await cachedEstimate(JSON.stringify([sql.text, sql.bindings]), find)
    if (isMany) continue
    if (!rows && (await find())) continue
    return rows!.map(({ entry }) => entry)
  }
  return undefined
}

const isServed = ({ by }: SortKey, indexed: ReadonlySet<string>): boolean =>
  'system' in by || (by.through === undefined && indexed.has(by.field))

/** @throws WisteriaError `tooCostly` where the order itself would need every row. */
export async function accessPathOf(reader: Reader, query: ListQuery): Promise<AccessPath> {
  if (query.type === undefined || !query.indexed) return { is: 'plain' }
  const [first] = query.sort
  const sorted = first && 'field' in first.by && !first.by.through ? first.by.field : undefined
  // A comparison of the field of the order sets where the walk begins and ends.
  const rest = partsOf(query.condition).filter(
    (part) => sorted === undefined || fieldServing(part, query.indexed!) !== sorted,
  )
  const isSortServed = first === undefined || isServed(first, query.indexed)
  if (isSortServed && rest.length === 0 && query.sort.length <= 1 && !query.exactLocale && query.region === undefined)
    return { is: 'plain' }
  if (!(await hasMoreRows(reader, query, fewRows))) return { is: 'plain' }
  const entries = await fewBy(reader, query)
  if (entries) return { is: 'few', entries }
  const { budget } = query
  if (budget === undefined || query.words !== undefined) return { is: 'plain' }
  if (!isSortServed && (await hasMoreRows(reader, query, budget)))
    throw new WisteriaError(
      'tooCostly',
      `Sorting by \`${first.name ?? 'this'}\` would look through more than ${budget} entries: no index serves it. ` +
        'Give the field `indexed: true` in the model, sort by an indexed field, or narrow the list by one.',
    )
  return isSortServed && (rest.length > 0 || query.region !== undefined)
    ? { is: 'walk', rows: budget }
    : { is: 'plain' }
}
