import type { Model } from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import { dropFactIndexes } from '../projections/factIndexes.js'
import { siteIds, siteWithId } from '../sites/sites.js'

/** Deletes some rows of a projection set that is no longer read, and with the last the indexes that only it had. @returns whether any are left. */
export async function clearProjection(transaction: Transaction, projection: string, size: number): Promise<boolean> {
  for (const table of ['published', 'drafts']) {
    const some = `select entry from ${table} where projection = ? limit ${size}`
    const rows = await transaction.all(some, [projection])
    if (rows.length === 0) continue
    await transaction.run(`delete from ${table} where projection = ? and entry in (${some})`, [projection, projection])
    if (table === 'published' || rows.length === size) return true
  }
  await dropFactIndexes(transaction, await modelsInUse(transaction))
  return false
}

/** The models of all sites, and those that are being adopted. */
async function modelsInUse(reader: Reader): Promise<Model[]> {
  const all = await Promise.all((await siteIds(reader)).map((id) => siteWithId(reader, id)))
  return all.flatMap((site) => (site.next ? [site.model, site.next.model] : [site.model]))
}

/** Whether a site reads from a projection set, or is about to. */
export async function isProjectionInUse(reader: Reader, projection: string): Promise<boolean> {
  return (await reader.all('select 1 from sites where projection = ?1 or adoption = ?1', [projection])).length > 0
}

/** The projection sets that have rows. */
export async function projectionsWithRows(reader: Reader): Promise<string[]> {
  const all = new Set<string>()
  for (const table of ['published', 'drafts'])
    for (let after = ''; ;) {
      // One by one, by the primary key: there may be very many rows.
      const [row] = await reader.all<{ projection: string | null }>(
        `select min(projection) as projection from ${table} where projection > ?`,
        [after],
      )
      if (row!.projection === null) break
      after = row!.projection
      all.add(after)
    }
  return [...all]
}
