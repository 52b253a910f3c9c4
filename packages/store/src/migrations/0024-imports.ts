/*
 * Imports of entries: a table that was read, its rows with their results, and mappings that are kept by name.
 */
export const name = '0024-imports'

export const statements: readonly string[] = [
  `create table imports (
    id text primary key, site text not null references sites(id), name text not null, source text not null, heads text not null,
    mapping text, state text not null, rows integer not null, outcomes text not null, undone text not null, job text,
    actor text not null, created_at text not null, finished_at text
  ) strict`,
  `create index imports_by_site on imports (site, created_at)`,
  `create table import_rows (
    import text not null references imports(id) on delete cascade, position integer not null, line integer not null,
    cells text not null, outcome text, entry text, title text not null, problems text not null, before text, after integer,
    undone text, primary key (import, position)
  ) strict, without rowid`,
  `create index import_rows_by_outcome on import_rows (import, outcome, position)`,
  `create table import_mappings (
    site text not null references sites(id), name text not null, mapping text not null, actor text not null, at text not null,
    primary key (site, name)
  ) strict, without rowid`,
]
