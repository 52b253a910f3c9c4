/*
 * Automations, their runs, and the items of runs.
 */
export const name = '0025-automations'

export const statements: readonly string[] = [
  `create table automations (
    id text primary key, site text not null references sites(id), name text not null, version integer not null, definition text not null,
    enabled integer not null, starts_by text not null, secret text, secrets text not null, next_at text, created_at text not null,
    changed_at text not null, changed_by text not null, unique (site, name)
  ) strict`,
  `create index automations_by_time on automations (next_at) where next_at is not null`,
  `create table automation_versions (
    automation text not null references automations(id) on delete cascade, version integer not null, definition text not null,
    primary key (automation, version)
  ) strict, without rowid`,
  `create table automation_runs (
    id text primary key, site text not null references sites(id),
    automation text not null references automations(id) on delete cascade, version integer not null, key text, scope text not null, cause text not null,
    actor text not null, state text not null, step integer not null, results text not null, log text not null,
    each_step integer, total integer not null, done integer not null, failed integer not null, tries integer not null, next_at text,
    message text not null, created_at text not null, finished_at text
  ) strict`,
  `create unique index automation_runs_by_key on automation_runs (automation, key) where key is not null`,
  `create index automation_runs_by_automation on automation_runs (automation, created_at)`,
  `create index automation_runs_due on automation_runs (next_at) where state = 'running'`,
  `create index automation_runs_running on automation_runs (automation, created_at, id) where state = 'running'`,
  `create index automation_runs_by_end on automation_runs (finished_at) where finished_at is not null`,
  `create table automation_items (
    run text not null references automation_runs(id) on delete cascade, position integer not null, each_step integer not null,
    input text not null, title text not null, entry text, state text not null, step integer not null, results text not null,
    log text not null, tries integer not null, next_at text, message text not null, finished_at text, primary key (run, position)
  ) strict, without rowid`,
  `create index automation_items_by_state on automation_items (run, state, next_at, position)`,
]
