import { endOfDay, timeDependenciesOf } from '@wisteria/core'
import type { Reader } from '../connection/reader.js'
import { editionTables, factExpression, literal } from '../projections/editionTables.js'
import type { ListQuery } from './query.js'
import { fewRows, hasMoreRows } from './accessPath.js'

/**
 * The earliest instant at which the answer to a query may change with the time, in milliseconds since the epoch: Infinity where it
 * does not, 0 where that is unknown.
 */
export async function nextChangeAt(
  reader: Reader,
  query: Pick<ListQuery, 'edition' | 'projection' | 'type' | 'locale' | 'condition' | 'moment' | 'indexed'>,
): Promise<number> {
  if (!query.condition) return Infinity
  const { facts, daily, unknown } = timeDependenciesOf(query.condition)
  if (unknown) return 0
  let until = daily ? endOfDay(query.moment) : Infinity
  if (facts.length === 0) return until
  if (query.type === undefined) return 0
  const { rows } = editionTables[query.edition]
  for (const { by, shift } of facts) {
    const isQuick = 'system' in by || query.indexed?.has(by.field)
    if (!isQuick && (await hasMoreRows(reader, query, fewRows))) return 0
    const expression = 'system' in by ? `p.${by.system}_at` : factExpression(by.field, 'p')
    const [next] = await reader.all<{ at: string }>(
      `select ${expression} as at from ${rows} p where p.projection = ${literal(query.projection)} and p.type = ${literal(query.type)} and p.locale = ?` +
        ` and ${expression} >= ? order by ${expression} limit 1`,
      [query.locale, new Date(query.moment.now + shift).toISOString()],
    )
    if (next) until = Math.min(until, Date.parse(next.at) - shift)
  }
  return until
}
