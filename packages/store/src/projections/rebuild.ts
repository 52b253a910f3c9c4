import type { Transaction } from '../connection/reader.js'
import { insertMany } from '../connection/inserting.js'
import type { Site } from '../sites/sites.js'
import { replayPublished } from './replay.js'
import { writeSideRows } from './rowWriting.js'

/** Deletes the published rows of a site and rebuilds them. @returns how many there are. */
export async function rebuildPublished(transaction: Transaction, site: Site): Promise<number> {
  const rows = await replayPublished(transaction, site)
  await transaction.run('delete from published where projection = ?', [site.projection])
  const { projection } = site
  await insertMany(
    transaction,
    'published',
    rows.map(({ side: _, ...row }) => ({ projection, ...row })),
  )
  await writeSideRows(transaction, 'published', projection, rows)
  return rows.length
}
