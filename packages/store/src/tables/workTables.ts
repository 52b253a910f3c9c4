import { integer, key, nullable, oneOf, table, text, type RowOf } from './table.js'

/** A job: its task, its progress and its end. */
export const jobs = table('jobs', {
  id: key(text),
  site: text,
  /** The name of a kind that the service registers. */
  kind: text,
  state: oneOf<'running' | 'done' | 'failed' | 'stopped'>(),
  done: integer,
  total: integer,
  task: text,
  cursor: text,
  message: text,
  actor: text,
  created_at: text,
  finished_at: nullable(text),
})
export type JobRow = RowOf<typeof jobs>

/** One entry of a bulk job. */
export const jobItems = table('job_items', {
  job: key(text),
  position: key(integer),
  entry: text,
  title: text,
  state: oneOf<'waiting' | 'done' | 'refused' | 'skipped'>(),
  /** Why it was refused or skipped. */
  message: text,
  /** The data to undo it, as JSON; null where nothing was changed. */
  before: nullable(text),
  /** The version that the job left it at. */
  after: nullable(integer),
})
export type JobItemRow = RowOf<typeof jobItems>

/** A publish or a withdrawal of an entry at a time. */
export const schedules = table('schedules', {
  id: key(text),
  site: text,
  entry: text,
  does: oneOf<'publish' | 'withdraw'>(),
  /** A JSON list; null for all locales with content, or all that are public. */
  locales: nullable(text),
  /** ISO instant. */
  at: text,
  /** The time zone in which the time was chosen. */
  zone: text,
  state: oneOf<'scheduled' | 'done' | 'failed' | 'cancelled'>(),
  message: text,
  actor: text,
  created_at: text,
  ended_at: nullable(text),
  /** How often it was begun. */
  tries: integer,
})
export type ScheduleRow = RowOf<typeof schedules>

/** Who translates an entry into a locale, until when, and whether it is ready for review. */
export const translationTasks = table('translation_tasks', {
  entry: key(text),
  locale: key(text),
  site: text,
  /** The id of an account. */
  assignee: nullable(text),
  /** A date, such as `2031-03-12`. */
  due: nullable(text),
  assigned_by: nullable(text),
  assigned_at: nullable(text),
  ready_by: nullable(text),
  ready_at: nullable(text),
})
export type TranslationTaskRow = RowOf<typeof translationTasks>

/** A file with translations that came back. */
export const translationImports = table('translation_imports', {
  id: key(text),
  site: text,
  locale: text,
  format: text,
  /** The name of the file. */
  name: text,
  state: oneOf<'reading' | 'read' | 'running' | 'applied'>(),
  overwrites: integer,
  entries: integer,
  /** How many texts have which outcome, as JSON. */
  outcomes: text,
  job: nullable(text),
  actor: text,
  created_at: text,
  applied_at: nullable(text),
})
export type TranslationImportRow = RowOf<typeof translationImports>

/** An entry in such a file: its texts, and the result for each, as JSON. */
export const translationImportItems = table('translation_import_items', {
  import: key(text),
  position: key(integer),
  entry: text,
  title: text,
  revision: nullable(integer),
  texts: text,
  decided: text,
})
export type TranslationImportItemRow = RowOf<typeof translationImportItems>

/** The terms of a site, with their translations. */
export const glossaries = table('glossaries', {
  site: key(text),
  /** A list, as JSON. */
  terms: text,
  version: integer,
  at: text,
  actor: text,
})
export type GlossaryRow = RowOf<typeof glossaries>

/** A saved view. */
export const views = table('views', {
  id: key(text),
  site: text,
  name: text,
  owner: text,
  /** 1 when everybody on the site sees it. */
  shared: integer,
  asks: text,
  created_at: text,
  updated_at: text,
})
export type ViewRow = RowOf<typeof views>
