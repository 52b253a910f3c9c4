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
  /** Which values come from other locales (`Fallbacks`), as JSON. */
  fallbacks: text,
  facts: text,
  /** The ids it refers to, anywhere, as a JSON list. */
  refs: text,
  /** The ids of its assets, as a JSON list. */
  assets: text,
  path: nullable(text),
  /** Null where the type is not regional. */
  region: nullable(text),
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
  /** Numbers of units of translation, and of words in their sources; 0 where the locale is no translation or the entry is archived. */
  units_missing: integer,
  units_outdated: integer,
  units_done: integer,
  words_missing: integer,
  words_outdated: integer,
  words_done: integer,
  /** Since when units are missing or outdated; null where none is. */
  work_since: nullable(text),
})
export type DraftRow = RowOf<typeof drafts>

/** Sums of `drafts` by type and locale, without archived entries. Triggers write them. */
export const translationCounts = table('translation_counts', {
  projection: key(text),
  type: key(text),
  locale: key(text),
  entries: integer,
  entries_to_do: integer,
  units_missing: integer,
  units_outdated: integer,
  units_done: integer,
  words_missing: integer,
  words_outdated: integer,
  words_done: integer,
})
export type TranslationCountRow = RowOf<typeof translationCounts>

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

/** When the self-filling lists of a site were looked at last. */
export const listScans = table('list_scans', {
  site: key(text),
  generation: text,
  at: text,
})

/** When the lists of a public entry can turn with the time next. */
export const listTurns = table('list_turns', {
  site: key(text),
  entry: key(text),
  locale: key(text),
  at: text,
  /** A digest of what they show until then. */
  shows: text,
})
