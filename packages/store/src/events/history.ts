import { makeId, type Environment } from '@wisteria/core'
import { Act } from './act.js'
import type { Reader, Transaction } from '../connection/reader.js'
import { siteWithId } from '../sites/sites.js'

/** How far a site's history had come. */
export interface HistoryPosition {
  readonly epoch: string
  readonly sequence: number
}

/** How far the history of each site has come, by the site's id. */
export async function positionsOf(reader: Reader): Promise<Record<string, HistoryPosition>> {
  const rows = await reader.all<{ id: string; epoch: string; sequence: number }>(
    'select id, epoch, sequence from sites',
  )
  return Object.fromEntries(rows.map(({ id, epoch, sequence }) => [id, { epoch, sequence }]))
}

/** More events than can have been told after the copy was made: no position of the lost history comes again. */
const leap = 1_000_000

/**
 * Begins another history on every site, after the data was restored from a copy. What was told since the copy was made is lost,
 * and its numbers would come again with another meaning. So the epoch changes, which makes generations incomparable, the
 * numbers leap, and an event says that everything counts as changed.
 */
export async function beginHistory(transaction: Transaction, environment: Environment): Promise<void> {
  for (const { id } of await transaction.all<{ id: string }>('select id from sites'))
    await beginHistoryOf(transaction, id, environment)
}

/** Begins another history on one site. */
export async function beginHistoryOf(transaction: Transaction, site: string, environment: Environment): Promise<void> {
  await transaction.run('update sites set epoch = ?, sequence = sequence + ? where id = ?', [
    makeId(environment).slice(10),
    leap,
    site,
  ])
  const act = new Act(transaction, await siteWithId(transaction, site), 'service', environment)
  await act.tell('site.restored', {}, { entries: [], paths: [], all: true })
}
