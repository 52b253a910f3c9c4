/*
 * Rows of the editions belong to projection sets (named shelves until migration 0011): a site reads one, while the rows of the next
 * model are written to another. Also: jobs, assets, which key reads which field, and the consequences of each model.
 */

const columns = 'type, entry, locale, doc, facts, refs, path, title, published_at, updated_at'

const edition = (name: string, more = '', moreNames = ''): string[] => [
  `create table ${name}_shelved (
     shelf text not null,
     type text not null,
     entry text not null references entries (id) on delete cascade,
     locale text not null,
     doc text not null,
     facts text not null,
     refs text not null,
     assets text not null,
     path text,
     title text not null,
     published_at text,
     updated_at text not null,${more}
     primary key (shelf, entry, locale)
   ) strict`,
  `insert into ${name}_shelved (shelf, assets, ${columns}${moreNames}) select site, '[]', ${columns}${moreNames} from ${name}`,
]

const sideTable = (name: string, of: string, columns: string, names: string, indexes: readonly string[]): string[] => [
  `create table ${name}_shelved (
     shelf text not null, entry text not null, locale text not null, field text not null, ${columns},
     foreign key (shelf, entry, locale) references ${of}_shelved (shelf, entry, locale) on delete cascade
   )`,
  `insert into ${name}_shelved (shelf, entry, locale, field, ${names}) select site, entry, locale, field, ${names} from ${name}`,
  `drop table ${name}`,
  `alter table ${name}_shelved rename to ${name}`,
  ...indexes.map((index) => `create index ${name}_${index}`),
]

const values = (name: string, of: string): string[] =>
  // `value` has no type, so that numbers stay numbers and texts texts.
  sideTable(name, of, 'value not null', 'value', [
    `by_value on ${name} (shelf, field, locale, value, entry)`,
    `by_entry on ${name} (shelf, entry, locale)`,
  ])

const refs = (name: string, of: string): string[] =>
  sideTable(name, of, 'target text not null, direct integer not null', 'target, direct', [
    `by_target on ${name} (shelf, target, entry)`,
    `by_field on ${name} (shelf, field, locale, target, entry)`,
    `by_entry on ${name} (shelf, entry, locale, field)`,
  ])

export const name = '0002-shelves'

export const statements: readonly string[] = [
  ...edition('published'),
  ...edition(
    'drafts',
    '\n     state text not null, summary text not null, version integer not null,',
    ', state, summary, version',
  ),
  ...values('published_values', 'published'),
  ...values('draft_values', 'drafts'),
  ...refs('published_refs', 'published'),
  ...refs('draft_refs', 'drafts'),
  ...['published', 'drafts'].flatMap((table) => [
    `drop table ${table}`,
    `alter table ${table}_shelved rename to ${table}`,
  ]),
  `create index published_by_entry on published (entry)`,
  `create index drafts_by_entry on drafts (entry)`,
  `create index drafts_by_path on drafts (shelf, path)`,
  `create index entries_by_update on entries (site, updated_at)`,
  `alter table sites add column shelf text not null default ''`,
  `update sites set shelf = id`,
  `alter table sites add column adoption text`,
  `alter table models add column consequences text not null default '[]'`,
  `alter table proposals add column consequences text not null default '[]'`,
  `create table jobs (
     id text primary key, site text not null references sites (id), kind text not null, state text not null, done integer not null,
     total integer not null, task text not null, cursor text not null, message text not null, actor text not null, created_at text not null, finished_at text
   ) strict`,
  `create index jobs_by_site on jobs (site, created_at)`,
  `create table field_reads (
     site text not null references sites (id), key text not null, type text not null, field text not null, name text not null, at text not null,
     primary key (site, key, type, field, name)
   ) strict, without rowid`,
  `create table assets (
     id text primary key, site text not null references sites (id), name text not null, media_type text not null, size integer not null,
     hash text not null, width integer, height integer, alt text not null, created_at text not null, created_by text not null
   ) strict`,
  `create index assets_by_site on assets (site, name, id)`,
]
