import { integer, key, nullable, real, table, text, type RowOf } from './table.js'

export const assets = table('assets', {
  id: key(text),
  site: text,
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
  /** What matters in a picture, from 0 to 1 from the start and from the top. */
  focal_x: nullable(real),
  focal_y: nullable(real),
  created_at: text,
  created_by: text,
  /** Every row has it; the column could be without, because it was added later. */
  updated_at: nullable(text),
})
export type AssetRow = RowOf<typeof assets>

/** The bytes of assets, each once however many assets hold them. */
export const files = table('files', {
  /** The digest of the bytes. */
  hash: key(text),
  size: integer,
  /** When it was last stored: an upload is on its way into the tables from then on. */
  stored_at: text,
})
export type FileRow = RowOf<typeof files>
