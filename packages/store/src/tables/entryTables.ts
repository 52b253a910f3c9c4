import { counter, integer, key, nullable, table, text, type RowOf } from './table.js'

export const entries = table('entries', {
  id: key(text),
  site: text,
  /** Internal id of the content type. */
  type: text,
  version: integer,
  /** Number of the newest revision: the working copy. */
  revision: integer,
  created_at: text,
  created_by: text,
  updated_at: text,
  updated_by: text,
  /** The oldest version that a save may still be based on: the edits of all saves after it are kept. */
  mergeable_from: integer,
  /** When it was archived; null while it is in use. */
  archived_at: nullable(text),
  /** When it was moved to the bin; null while it is not there. */
  deleted_at: nullable(text),
  deleted_by: nullable(text),
  /** Null for the main region. */
  region: nullable(text),
  /** Of a counterpart: the entry that it was copied from. */
  counterpart_of: nullable(text),
  /** The first of all its counterparts, which may be itself; null without any. */
  counterpart_root: nullable(text),
  /** The revision of its source that was taken last. */
  counterpart_revision: nullable(integer),
})
export type EntryRow = RowOf<typeof entries>

export const revisions = table('revisions', {
  entry: key(text),
  number: key(integer),
  site: text,
  document: text,
  model_version: integer,
  /** The entry's version when this revision last changed. */
  version: integer,
  author: text,
  created_at: text,
  updated_at: text,
  /** Null while it is open. A sealed revision never changes. */
  sealed_at: nullable(text),
  /** What its translated units were made from, as JSON; null in revisions of earlier versions. */
  origins: nullable(text),
})
export type RevisionRow = RowOf<typeof revisions>

export const saves = table('saves', {
  entry: key(text),
  version: key(integer),
  site: text,
  edits: text,
  author: text,
  at: text,
})
export type SaveRow = RowOf<typeof saves>

export const publications = table('publications', {
  id: counter,
  site: text,
  entry: text,
  /** A locale, or `*` for the shared layer. */
  layer: text,
  /** Null withdraws the layer. */
  revision: nullable(integer),
  model_version: integer,
  sequence: integer,
  at: text,
  actor: text,
  action: text,
})
export type PublicationRow = RowOf<typeof publications>

export const paths = table('paths', {
  site: key(text),
  path: key(text),
  locale: text,
  entry: text,
  current: integer,
  since: text,
})
export type PathRow = RowOf<typeof paths>
