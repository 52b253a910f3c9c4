import type { Model } from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import { dropFactIndexes } from '../projections/factIndexes.js'
import { siteIds, siteWithId } from '../sites/sites.js'

/** Takes some rows of a shelf that is no longer read away. @returns whether any are left. */
export async function clearShelf(transaction: Transaction, shelf: string, size: number): Promise<boolean> {
  for (const table of ['published', 'drafts']) {
    const some = `select entry from ${table} where shelf = ? limit ${size}`
    const rows = await transaction.all(some, [shelf])
    if (rows.length === 0) continue
    await transaction.run(`delete from ${table} where shelf = ? and entry in (${some})`, [shelf, shelf])
    return true
  }
  await dropFactIndexes(transaction, await modelsInUse(transaction))
  return false
}

/** The models of all sites, and those that are being adopted. */
async function modelsInUse(reader: Reader): Promise<Model[]> {
  const all = await Promise.all((await siteIds(reader)).map((id) => siteWithId(reader, id)))
  return all.flatMap((site) => (site.next ? [site.model, site.next.model] : [site.model]))
}

/** Whether a site reads from a shelf, or is about to. */
export async function isShelfInUse(reader: Reader, shelf: string): Promise<boolean> {
  return (await reader.all('select 1 from sites where shelf = ?1 or adoption = ?1', [shelf])).length > 0
}

/** The shelves that have rows. */
export async function shelvesWithRows(reader: Reader): Promise<string[]> {
  const all = new Set<string>()
  for (const table of ['published', 'drafts'])
    for (let after = ''; ;) {
      // One by one, each found by the primary key: there may be very many rows.
      const [row] = await reader.all<{ shelf: string | null }>(
        `select min(shelf) as shelf from ${table} where shelf > ?`,
        [after],
      )
      if (row!.shelf === null) break
      after = row!.shelf
      all.add(after)
    }
  return [...all]
}
