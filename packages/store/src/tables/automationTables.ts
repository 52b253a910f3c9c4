import { integer, key, nullable, oneOf, table, text, type RowOf } from './table.js'

export const automations = table('automations', {
  id: key(text),
  site: text,
  name: text,
  /** Of the definition. */
  version: integer,
  /** As JSON. */
  definition: text,
  enabled: integer,
  starts_by: oneOf<'event' | 'hand' | 'timetable' | 'address'>(),
  /** Of its address. */
  secret: nullable(text),
  /** Values that its calls send and nobody is shown: by name, as JSON. */
  secrets: text,
  /** When its timetable starts it next. */
  next_at: nullable(text),
  created_at: text,
  changed_at: text,
  changed_by: text,
})
export type AutomationRow = RowOf<typeof automations>

/** Definitions as they were: a run goes on with the one that it began with. */
export const automationVersions = table('automation_versions', {
  automation: key(text),
  version: key(integer),
  definition: text,
})

export const automationRuns = table('automation_runs', {
  id: key(text),
  site: text,
  automation: text,
  /** Of the definition. */
  version: integer,
  /** One run of an automation has it. */
  key: nullable(text),
  /** What its paths can begin with, as JSON. */
  scope: text,
  /** The automations whose acts led to it, as a JSON list of ids. */
  cause: text,
  actor: text,
  state: oneOf<'running' | 'done' | 'failed' | 'stopped'>(),
  /** The number of the step that comes next. */
  step: integer,
  /** The results of its steps by name, as JSON. */
  results: text,
  /** What its steps did, as a JSON list. */
  log: text,
  /** The step whose items are made; null while there is none. */
  each_step: nullable(integer),
  total: integer,
  done: integer,
  failed: integer,
  tries: integer,
  /** When it goes on; null once it has ended. */
  next_at: nullable(text),
  message: text,
  created_at: text,
  finished_at: nullable(text),
})
export type AutomationRunRow = RowOf<typeof automationRuns>

export const automationItems = table('automation_items', {
  run: key(text),
  position: key(integer),
  each_step: integer,
  /** As JSON. */
  input: text,
  title: text,
  entry: nullable(text),
  state: oneOf<'waiting' | 'done' | 'failed'>(),
  step: integer,
  results: text,
  /** What its steps did, as a JSON list. */
  log: text,
  tries: integer,
  next_at: nullable(text),
  message: text,
  finished_at: nullable(text),
})
export type AutomationItemRow = RowOf<typeof automationItems>
