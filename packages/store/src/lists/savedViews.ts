import type { ListAsks } from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import type { ViewRow } from '../tables/tables.js'

/** A saved view. */
export interface SavedView {
  readonly id: string
  readonly site: string
  readonly name: string
  /** The actor it belongs to. */
  readonly owner: string
  /** Whether everybody on the site sees it. */
  readonly isShared: boolean
  readonly asks: ListAsks
  readonly createdAt: string
}

const viewFrom = (row: ViewRow): SavedView => ({
  id: row.id,
  site: row.site,
  name: row.name,
  owner: row.owner,
  isShared: row.shared === 1,
  asks: JSON.parse(row.asks) as ListAsks,
  createdAt: row.created_at,
})

/** The saved views of an account on a site: its own first, then the shared ones. */
export async function savedViewsFor(reader: Reader, site: string, actor: string): Promise<SavedView[]> {
  const rows = await reader.all<ViewRow>(
    'select * from views where site = ? and (owner = ? or shared = 1) order by shared, name, id',
    [site, actor],
  )
  return rows.map(viewFrom)
}

export async function savedViewFor(
  reader: Reader,
  site: string,
  actor: string,
  id: string,
): Promise<SavedView | undefined> {
  const [row] = await reader.all<ViewRow>(
    'select * from views where site = ? and id = ? and (owner = ? or shared = 1)',
    [site, id, actor],
  )
  return row && viewFrom(row)
}

/** How many views of a site an account has saved. */
export async function countSavedViews(reader: Reader, site: string, owner: string): Promise<number> {
  const [row] = await reader.all<{ count: number }>(
    'select count(*) as count from views where site = ? and owner = ?',
    [site, owner],
  )
  return row!.count
}

export async function insertSavedView(transaction: Transaction, view: SavedView): Promise<void> {
  await transaction.tables.views.create({
    id: view.id,
    site: view.site,
    name: view.name,
    owner: view.owner,
    shared: view.isShared ? 1 : 0,
    asks: JSON.stringify(view.asks),
    created_at: view.createdAt,
    updated_at: view.createdAt,
  })
}

export async function changeSavedView(transaction: Transaction, view: SavedView, at: string): Promise<void> {
  await transaction.run('update views set name = ?, shared = ?, asks = ?, updated_at = ? where id = ?', [
    view.name,
    view.isShared ? 1 : 0,
    JSON.stringify(view.asks),
    at,
    view.id,
  ])
}

export async function deleteSavedView(transaction: Transaction, id: string): Promise<void> {
  await transaction.run('delete from views where id = ?', [id])
}
