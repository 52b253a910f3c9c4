/*
 * How far translations are: each draft row counts the units of its entry in its locale, and triggers keep the sums by type and locale,
 * so that the board reads a few rows whatever the number of entries. Rows of translations are marked as incomplete: the service
 * writes them again at its start. A translation of an entry can be assigned, with a due date, and marked as ready for review.
 */
export const name = '0017-translation-work'

const counted = [
  'units_missing',
  'units_outdated',
  'units_done',
  'words_missing',
  'words_outdated',
  'words_done',
] as const

const added = (row: 'new' | 'old') => [
  '1',
  `(${row}.work_since is not null)`,
  ...counted.map((column) => `${row}.${column}`),
]
const columns = ['entries', 'entries_to_do', ...counted]

const addNew = `insert into translation_counts (projection, type, locale, ${columns.join(', ')})
  values (new.projection, new.type, new.locale, ${added('new').join(', ')})
  on conflict (projection, type, locale) do update set ${columns.map((column) => `${column} = ${column} + excluded.${column}`).join(', ')};`

const takeOld = `update translation_counts set ${columns.map((column, index) => `${column} = ${column} - ${added('old')[index]}`).join(', ')}
  where projection = old.projection and type = old.type and locale = old.locale;`

export const statements: readonly string[] = [
  ...counted.map((column) => `alter table drafts add column ${column} integer not null default 0`),
  `alter table drafts add column work_since text`,
  `create index drafts_by_work on drafts (projection, type, locale, work_since) where work_since is not null`,
  `create index drafts_by_locale_work on drafts (projection, locale, work_since) where work_since is not null`,
  `create table translation_counts (
    projection text not null, type text not null, locale text not null,
    ${columns.map((column) => `${column} integer not null`).join(', ')}, primary key (projection, type, locale)
  ) strict, without rowid`,
  `insert into translation_counts (projection, type, locale, ${columns.join(', ')})
    select projection, type, locale, count(*), 0, 0, 0, 0, 0, 0, 0 from drafts where freshness <> '' and state <> 'archived'
    group by projection, type, locale`,
  `create trigger drafts_counted after insert on drafts when new.freshness <> '' and new.state <> 'archived' begin ${addNew} end`,
  `create trigger drafts_uncounted after delete on drafts when old.freshness <> '' and old.state <> 'archived' begin ${takeOld} end`,
  ...(['new', 'old'] as const).map(
    (row) =>
      `create trigger drafts_recounted_${row} after update of freshness, state, work_since, ${counted.join(', ')} on drafts
       when ${row}.freshness <> '' and ${row}.state <> 'archived' begin ${row === 'new' ? addNew : takeOld} end`,
  ),
  `update drafts set content_locale = '' where freshness <> ''`,
  `create table translation_tasks (
    entry text not null references entries(id) on delete cascade, locale text not null, site text not null references sites(id),
    assignee text references accounts(id) on delete set null, due text, assigned_by text, assigned_at text,
    ready_by text, ready_at text, primary key (entry, locale)
  ) strict`,
  `create index translation_tasks_by_assignee on translation_tasks (site, assignee, due) where assignee is not null`,
  `create index translation_tasks_ready on translation_tasks (site, ready_at) where ready_at is not null`,
]
