import type { Origins } from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import type { AssetRevisionRow, AssetRow } from '../tables/tables.js'

/** The part of an asset that can change: its file, and its texts by locale. */
export interface AssetContent {
  readonly name: string
  readonly mediaType: string
  /** Bytes. */
  readonly size: number
  /** The digest of the bytes. */
  readonly hash: string
  /** Pixels, of a picture. */
  readonly width: number | null
  readonly height: number | null
  readonly alt: Readonly<Record<string, string>>
  readonly title: Readonly<Record<string, string>>
  readonly caption: Readonly<Record<string, string>>
  /** The focal point of a picture: from 0 to 1 from the left and from the top. */
  readonly focalPoint: { readonly x: number; readonly y: number } | null
  /** What its translated texts were made from; null where no change has recorded it. */
  readonly origins: Origins | null
}

/** A file with its texts. */
export interface Asset extends AssetContent {
  readonly id: string
  readonly site: string
  readonly createdAt: string
  readonly createdBy: string
  readonly updatedAt: string
  /** The number of its newest revision, from 1. */
  readonly revision: number
}

/** A state of an asset. It never changes. */
export interface AssetRevision extends AssetContent {
  readonly revision: number
  readonly at: string
  readonly by: string
}

const textsFrom = (text: string) => JSON.parse(text) as Record<string, string>

type ContentRow = Omit<AssetRevisionRow, 'asset' | 'revision' | 'at' | 'by'>

const contentFrom = (row: ContentRow): AssetContent => ({
  name: row.name,
  mediaType: row.media_type,
  size: row.size,
  hash: row.hash,
  width: row.width,
  height: row.height,
  alt: textsFrom(row.alt),
  title: textsFrom(row.title),
  caption: textsFrom(row.caption),
  focalPoint: row.focal_x === null || row.focal_y === null ? null : { x: row.focal_x, y: row.focal_y },
  origins: row.origins === null ? null : (JSON.parse(row.origins) as Origins),
})

const assetFrom = (row: AssetRow): Asset => ({
  id: row.id,
  site: row.site,
  ...contentFrom(row),
  createdAt: row.created_at,
  createdBy: row.created_by,
  updatedAt: row.updated_at ?? row.created_at,
  revision: row.revision,
})

const contentRow = (asset: AssetContent): ContentRow => ({
  name: asset.name,
  media_type: asset.mediaType,
  size: asset.size,
  hash: asset.hash,
  width: asset.width,
  height: asset.height,
  alt: JSON.stringify(asset.alt),
  title: JSON.stringify(asset.title),
  caption: JSON.stringify(asset.caption),
  focal_x: asset.focalPoint?.x ?? null,
  focal_y: asset.focalPoint?.y ?? null,
  origins: asset.origins === null ? null : JSON.stringify(asset.origins),
})

export async function assetOnSite(reader: Reader, site: string, id: string): Promise<Asset | undefined> {
  const [row] = await reader.all<AssetRow>('select * from assets where site = ? and id = ?', [site, id])
  return row && assetFrom(row)
}

/** The assets with some ids, in no order; ids that are not on the site are left out. */
export async function assetsWithIds(reader: Reader, site: string, ids: readonly string[]): Promise<Asset[]> {
  const rows = await reader.all<AssetRow>(
    'select * from assets where id in (select value from json_each(?)) and +site = ?',
    [JSON.stringify(ids), site],
  )
  return rows.map(assetFrom)
}

/** The oldest asset of a site with the same bytes, by their digests. */
export async function assetsByHash(
  reader: Reader,
  site: string,
  hashes: readonly string[],
): Promise<ReadonlyMap<string, string>> {
  const rows = await reader.all<{ hash: string; id: string }>(
    'select hash, min(id) as id from assets where site = ? and hash in (select value from json_each(?)) group by hash',
    [site, JSON.stringify(hashes)],
  )
  return new Map(rows.map(({ hash, id }) => [hash, id]))
}

/** The ids of assets by their names. */
export async function assetsByName(
  reader: Reader,
  site: string,
  names: readonly string[],
): Promise<Map<string, readonly string[]>> {
  const rows = await reader.all<{ name: string; ids: string }>(
    `select a.name, json_group_array(a.id) as ids from json_each(?) v join assets a on a.site = ? and a.name = v.value group by a.name`,
    [JSON.stringify(names), site],
  )
  return new Map(rows.map(({ name, ids }) => [name, JSON.parse(ids) as string[]]))
}

/** Which assets are listed, and in which order. */
export interface AssetQuery {
  readonly sort: 'newest' | 'name'
  /** Media types; a `*` at the end stands for any ending. Empty for all. */
  readonly accepts: readonly string[]
  /** Each must be in the name or in a text. */
  readonly words: readonly string[]
  /** Only pictures that have no alternative text in this locale. */
  readonly withoutAlt?: string | undefined
  readonly after?: AssetPosition | undefined
  readonly limit: number
}

/** The end of a page of assets: the name of the last one, or its time of creation, and its id. */
export interface AssetPosition {
  readonly value: string
  readonly id: string
}

/** A page of assets. */
export async function listAssets(
  reader: Reader,
  site: string,
  { sort, accepts, words, withoutAlt, after, limit }: AssetQuery,
): Promise<{ readonly assets: readonly Asset[]; readonly next: AssetPosition | undefined }> {
  const terms = ['site = ?']
  const bindings: (string | number)[] = [site]
  const [key, beyond, order] =
    sort === 'name' ? ['name', '>', 'name, id'] : ['created_at', '<', 'created_at desc, id desc']
  if (after) {
    terms.push(`(${key}, id) ${beyond} (?, ?)`)
    bindings.push(after.value, after.id)
  }
  for (const word of words) {
    terms.push("instr(lower(name || ' ' || alt || ' ' || title || ' ' || caption), lower(?)) > 0")
    bindings.push(word)
  }
  if (withoutAlt !== undefined) {
    terms.push("media_type like 'image/%' and coalesce(json_extract(alt, ?), '') = ''")
    bindings.push(`$.${JSON.stringify(withoutAlt)}`)
  }
  if (accepts.length > 0) {
    terms.push(`(${accepts.map(() => 'media_type like ?').join(' or ')})`)
    bindings.push(...accepts.map((type) => type.replace(/[%_]/g, '').replace(/\*$/, '%')))
  }
  const rows = await reader.all<AssetRow>(
    `select * from assets where ${terms.join(' and ')} order by ${order} limit ?`,
    [...bindings, limit + 1],
  )
  const page = rows.slice(0, limit).map(assetFrom)
  const last = page.at(-1)
  const next = last && { value: sort === 'name' ? last.name : last.createdAt, id: last.id }
  return { assets: page, next: rows.length > limit ? next : undefined }
}

export async function insertAsset(transaction: Transaction, asset: Asset): Promise<void> {
  const { id, site, createdAt, createdBy, updatedAt, revision } = asset
  const row = { id, site, ...contentRow(asset), created_at: createdAt, created_by: createdBy, updated_at: updatedAt }
  await transaction.tables.assets.create({ ...row, revision })
  await insertRevision(transaction, asset, createdBy)
}

/** Stores another state of an asset as a new revision, the current one from now on. @returns the asset. */
export async function changeAsset(
  transaction: Transaction,
  asset: Asset,
  change: Partial<AssetContent>,
  at: string,
  by: string,
): Promise<Asset> {
  const next: Asset = { ...asset, ...change, updatedAt: at, revision: asset.revision + 1 }
  const row = { ...contentRow(next), updated_at: at, revision: next.revision }
  const columns = Object.keys(row)
  await transaction.run(`update assets set ${columns.map((column) => `${column} = ?`).join(', ')} where id = ?`, [
    ...Object.values(row),
    asset.id,
  ])
  await insertRevision(transaction, next, by)
  return next
}

/** Records what the texts of an asset were made from, without another revision: its texts stay. */
export async function storeAssetOrigins(transaction: Transaction, asset: Asset, origins: Origins): Promise<Asset> {
  const text = JSON.stringify(origins)
  await transaction.run('update assets set origins = ? where id = ?', [text, asset.id])
  await transaction.run('update asset_revisions set origins = ? where asset = ? and revision = ?', [
    text,
    asset.id,
    asset.revision,
  ])
  return { ...asset, origins }
}

async function insertRevision(transaction: Transaction, asset: Asset, by: string): Promise<void> {
  const { id, revision, updatedAt } = asset
  await transaction.tables.asset_revisions.create({ asset: id, revision, ...contentRow(asset), at: updatedAt, by })
}

const revisionFrom = (row: AssetRevisionRow): AssetRevision => ({
  revision: row.revision,
  ...contentFrom(row),
  at: row.at,
  by: row.by,
})

/** Revisions of an asset, newest first: those before a number, at most so many. */
export async function revisionsOfAsset(
  reader: Reader,
  asset: string,
  before: number,
  limit: number,
): Promise<AssetRevision[]> {
  const rows = await reader.all<AssetRevisionRow>(
    'select * from asset_revisions where asset = ? and revision < ? order by revision desc limit ?',
    [asset, before, limit],
  )
  return rows.map(revisionFrom)
}

export async function assetRevision(
  reader: Reader,
  asset: string,
  revision: number,
): Promise<AssetRevision | undefined> {
  const [row] = await reader.all<AssetRevisionRow>('select * from asset_revisions where asset = ? and revision = ?', [
    asset,
    revision,
  ])
  return row && revisionFrom(row)
}

export async function deleteAsset(transaction: Transaction, id: string): Promise<void> {
  await transaction.run('delete from assets where id = ?', [id])
}
