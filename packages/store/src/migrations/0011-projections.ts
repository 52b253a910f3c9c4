/*
 * Every stored file has a row, so that clean-up reads a table and lists no folder. The rows of an edition under one model are a
 * projection set: its id is in the column `projection`, which had another name before. The task of a running adoption names it too,
 * and has its files and consequences as objects.
 */
export const name = '0011-projections'

const tables = [
  'sites',
  'published',
  'drafts',
  'published_values',
  'draft_values',
  'published_refs',
  'draft_refs',
  'published_texts',
  'draft_texts',
]

export const statements: readonly string[] = [
  ...tables.map((table) => `alter table ${table} rename column shelf to projection`),
  `update jobs set task = json_set(json_remove(task, '$.shelf'), '$.projection', task ->> '$.shelf',
     '$.files', json(iif(json_type(task, '$.files') = 'text', task ->> '$.files', task -> '$.files')))
   where kind = 'adoption' and state = 'running'`,
  `create table files (hash text primary key, size integer not null, stored_at text not null) strict`,
  `create index files_by_age on files (stored_at)`,
  `create index assets_by_hash on assets (hash)`,
  `insert into files select hash, max(size), min(created_at) from assets group by hash`,
]
