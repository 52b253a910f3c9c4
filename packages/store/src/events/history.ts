import { makeId, type Environment } from '@wisteria/core'
import { Act } from './act.js'
import type { Reader, Transaction } from '../connection/reader.js'
import { siteWithId } from '../sites/sites.js'

/** The position of a site's history. */
export interface HistoryPosition {
  readonly epoch: string
  readonly sequence: number
}

/** The position of each site's history, by the site's id. */
export async function positionsOf(reader: Reader): Promise<Record<string, HistoryPosition>> {
  const rows = await reader.all<{ id: string; epoch: string; sequence: number }>(
    'select id, epoch, sequence from sites',
  )
  return Object.fromEntries(rows.map(({ id, epoch, sequence }) => [id, { epoch, sequence }]))
}

/** More events than can have happened since the copy was made, so that no position of the lost history is used again. */
const leap = 1_000_000

/**
 * Begins another history on every site, after the data was restored from a copy. Events since the copy are lost, and their numbers
 * would be used again for others. So the epoch changes, which makes generations incomparable, the numbers leap, and an event says
 * that everything counts as changed.
 */
export async function beginHistory(transaction: Transaction, environment: Environment): Promise<void> {
  for (const { id } of await transaction.all<{ id: string }>('select id from sites'))
    await beginHistoryOf(transaction, id, environment)
}

/**
 * Begins another history on one site.
 * @param skipped how many numbers of events may have been used by the history that ends.
 */
export async function beginHistoryOf(
  transaction: Transaction,
  site: string,
  environment: Environment,
  actor = 'service',
  skipped = leap,
): Promise<void> {
  await transaction.run('update sites set epoch = ?, sequence = sequence + ? where id = ?', [
    makeId(environment).slice(10),
    skipped,
    site,
  ])
  const act = new Act(transaction, await siteWithId(transaction, site), actor, environment)
  await act.tell('site.restored', {}, { entries: [], paths: [], all: true })
}
