/* For editors: archived and deleted entries, schedules, bulk jobs and saved views. */

export const name = '0004-editing'

export const statements: readonly string[] = [
  `alter table entries add column archived_at text`,
  `alter table entries add column deleted_at text`,
  `alter table entries add column deleted_by text`,
  // Lists leave these out by asking here, so that counting needs no row itself.
  `create index entries_set_aside on entries (id) where archived_at is not null`,
  `create index entries_in_bin on entries (site, deleted_at) where deleted_at is not null`,
  `create table schedules (
     id text primary key, site text not null references sites (id), entry text not null references entries (id) on delete cascade,
     does text not null, locales text, at text not null, zone text not null, state text not null, message text not null,
     actor text not null, created_at text not null, ended_at text
   ) strict`,
  `create index schedules_due on schedules (at) where state = 'planned'`,
  `create index schedules_by_site on schedules (site, at)`,
  `create index schedules_by_entry on schedules (entry)`,
  // The action of a bulk job on each entry, and the data to undo it.
  `create table job_items (
     job text not null references jobs (id) on delete cascade, position integer not null, entry text not null, title text not null,
     state text not null, message text not null, before text, after integer,
     primary key (job, position)
   ) strict, without rowid`,
  `create index job_items_waiting on job_items (job, position) where state = 'waiting'`,
  `create table views (
     id text primary key, site text not null references sites (id), name text not null, owner text not null, shared integer not null,
     asks text not null, created_at text not null, updated_at text not null
   ) strict`,
  `create index views_by_site on views (site, name)`,
]
