import type { Reader, Transaction } from '../connection/reader.js'
import type { FrontEndRow } from '../tables/tables.js'

/** A front end that shows previews. */
export interface FrontEnd {
  readonly id: string
  readonly site: string
  readonly name: string
  readonly label: string
  readonly origins: readonly string[]
  /** The address where a preview enters, by type; `*` for all others. */
  readonly enter: Readonly<Record<string, string>>
  readonly createdAt: string
}

const frontEndFrom = (row: FrontEndRow): FrontEnd => ({
  id: row.id,
  site: row.site,
  name: row.name,
  label: row.label,
  origins: JSON.parse(row.origins) as string[],
  enter: JSON.parse(row.enter) as Record<string, string>,
  createdAt: row.created_at,
})

/** The front ends of a site, by name. */
export async function frontEndsOf(reader: Reader, site: string): Promise<FrontEnd[]> {
  const rows = await reader.all<FrontEndRow>('select * from front_ends where site = ? order by name', [site])
  return rows.map(frontEndFrom)
}

export async function frontEndNamed(reader: Reader, site: string, name: string): Promise<FrontEnd | undefined> {
  const [row] = await reader.all<FrontEndRow>('select * from front_ends where site = ? and name = ?', [site, name])
  return row && frontEndFrom(row)
}

/** Registers a front end, or changes the one with its name, which keeps its id. */
export async function storeFrontEnd(transaction: Transaction, frontEnd: FrontEnd): Promise<void> {
  const { id, site, name, label, origins, enter, createdAt } = frontEnd
  await transaction.run(
    `insert into front_ends (id, site, name, label, origins, enter, created_at) values (?, ?, ?, ?, ?, ?, ?)
     on conflict (site, name) do update set label = excluded.label, origins = excluded.origins, enter = excluded.enter`,
    [id, site, name, label, JSON.stringify(origins), JSON.stringify(enter), createdAt],
  )
}

/** Deletes a front end with its preview codes and grants. */
export async function deleteFrontEnd(transaction: Transaction, id: string): Promise<void> {
  await transaction.run('delete from front_ends where id = ?', [id])
}
