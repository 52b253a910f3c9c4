import type { Site } from '../sites/sites.js'
import type { Transaction } from '../connection/reader.js'
import { editionTables, type Edition } from './editionTables.js'
import { writeDraftRows, writePublicRows } from './editionWriting.js'
import { publicHistoryOf } from '../publications/publicHistory.js'
import { workingCopiesOf } from '../entries/workingCopies.js'

/**
 * Writes rows of an edition again that an earlier version of the service wrote in a form of its own, at most so many entries at
 * once. They count as unchanged. While a model is being adopted, the rows that it will have are completed too.
 * @returns how many entries; 0 when all are complete.
 */
export async function completeRows(
  transaction: Transaction,
  site: Site,
  edition: Edition,
  at: string,
  limit: number,
): Promise<number> {
  const { rows: table } = editionTables[edition]
  const rows = await transaction.all<{ entry: string }>(
    `select distinct entry from ${table} where content_locale = '' and projection in (?, ?) limit ${limit}`,
    [site.projection, site.next?.projection ?? site.projection],
  )
  const ids = rows.map(({ entry }) => entry)
  const copies = await workingCopiesOf(transaction, site, ids)
  for (const id of ids) {
    const copy = copies.get(id)
    // Of a removed type: nobody reads it.
    if (!copy) await transaction.run(`delete from ${table} where content_locale = '' and entry = ?`, [id])
    else {
      const history = await publicHistoryOf(transaction, site, copy.type, id)
      if (edition === 'draft') await writeDraftRows(transaction, site, copy.type, copy, copy.document, history, at)
      else await writePublicRows(transaction, site, copy.type, id, history.layers, at)
    }
  }
  return ids.length
}
