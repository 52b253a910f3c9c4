import { integer, key, nullable, real, table, text, type RowOf } from './table.js'

/** The part of an asset that can change: its file, and its texts. */
const changing = {
  name: text,
  media_type: text,
  size: integer,
  hash: text,
  width: nullable(integer),
  height: nullable(integer),
  /** By locale, as JSON. */
  alt: text,
  title: text,
  caption: text,
  /** The focal point of a picture: from 0 to 1 from the left and from the top. */
  focal_x: nullable(real),
  focal_y: nullable(real),
  /** What its translated texts were made from, as JSON; null where no change has recorded it. */
  origins: nullable(text),
}

export const assets = table('assets', {
  id: key(text),
  site: text,
  ...changing,
  created_at: text,
  created_by: text,
  /** Every row has it; the column could be without, because it was added later. */
  updated_at: nullable(text),
  /** The number of the newest revision, from 1. */
  revision: integer,
})
export type AssetRow = RowOf<typeof assets>

/** Every state of an asset, the newest included. */
export const assetRevisions = table('asset_revisions', {
  asset: key(text),
  revision: key(integer),
  ...changing,
  at: text,
  by: text,
})
export type AssetRevisionRow = RowOf<typeof assetRevisions>

/** The bytes of assets, each once however many assets use them. */
export const files = table('files', {
  /** The digest of the bytes. */
  hash: key(text),
  size: integer,
  /** When it was last stored: an upload is on its way into the tables from then on. */
  stored_at: text,
})
export type FileRow = RowOf<typeof files>
