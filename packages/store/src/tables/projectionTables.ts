import { integer, key, nullable, scalar, table, text, type RowOf } from './table.js'

/** Of `published` and of `drafts`: the same columns, and nothing shared. */
const edition = {
  projection: key(text),
  type: text,
  entry: key(text),
  locale: key(text),
  /** The locale that its words are in. */
  content_locale: text,
  doc: text,
  facts: text,
  /** The ids it refers to, anywhere, as a JSON list. */
  refs: text,
  /** The ids of its assets, as a JSON list. */
  assets: text,
  path: nullable(text),
  title: text,
  published_at: nullable(text),
  updated_at: text,
}

export const published = table('published', edition)
export type EditionTableRow = RowOf<typeof published>

export const drafts = table('drafts', {
  ...edition,
  state: text,
  /** Of the locale as a translation; empty where it is none. */
  freshness: text,
  summary: text,
  version: integer,
})
export type DraftRow = RowOf<typeof drafts>

const values = {
  projection: text,
  entry: text,
  locale: text,
  field: text,
  value: scalar,
}
const refs = {
  projection: text,
  entry: text,
  locale: text,
  field: text,
  target: text,
  direct: integer,
}

export const publishedValues = table('published_values', values)
export const draftValues = table('draft_values', values)
export const publishedRefs = table('published_refs', refs)
export const draftRefs = table('draft_refs', refs)
