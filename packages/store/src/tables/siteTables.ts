import { integer, key, nullable, table, text, type RowOf } from './table.js'

export const sites = table('sites', {
  id: key(text),
  name: text,
  /** 1 when the published edition may be read without a key. */
  open: integer,
  model_version: integer,
  settings_version: integer,
  /** The number of the newest event. */
  sequence: integer,
  /** Moves only when something that a published reader sees has changed. */
  generation: integer,
  /** Changes when a backup is restored, so that generations of two histories are never compared. */
  epoch: text,
  created_at: text,
  /** The projection set that the site's rows are read from. */
  projection: text,
  /** The job that is building another projection set, if there is one. */
  adoption: nullable(text),
})
export type SiteRow = RowOf<typeof sites>

export const settings = table('settings', {
  site: key(text),
  version: key(integer),
  settings: text,
  sequence: integer,
  at: text,
  actor: text,
})
export type SettingsRow = RowOf<typeof settings>

export const models = table('models', {
  site: key(text),
  version: key(integer),
  model: text,
  files: text,
  consequences: text,
  sequence: integer,
  at: text,
  actor: text,
})
export type ModelRow = RowOf<typeof models>

export const proposals = table('proposals', {
  id: key(text),
  site: text,
  base_version: integer,
  model: text,
  files: text,
  consequences: text,
  at: text,
  actor: text,
})
export type ProposalRow = RowOf<typeof proposals>

export const fieldReads = table('field_reads', {
  site: key(text),
  key: key(text),
  type: key(text),
  /** Internal id of the field, or `*` for all of the type. */
  field: key(text),
  name: key(text),
  at: text,
})
export type FieldReadRow = RowOf<typeof fieldReads>

export const service = table('service', {
  name: key(text),
  value: text,
})
export type ServiceRow = RowOf<typeof service>
