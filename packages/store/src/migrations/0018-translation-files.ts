/*
 * Translations that come back in files: what a file holds, entry by entry, and the result for each text. A file is read once; it is
 * applied from here. And the glossary of a site: its terms with their translations, as JSON.
 */
export const name = '0018-translation-files'

export const statements: readonly string[] = [
  `create table translation_imports (
    id text primary key, site text not null references sites(id), locale text not null, format text not null, name text not null,
    state text not null, overwrites integer not null, entries integer not null, outcomes text not null, job text, actor text not null,
    created_at text not null, applied_at text
  ) strict`,
  `create index translation_imports_by_site on translation_imports (site, created_at)`,
  `create table translation_import_items (
    import text not null references translation_imports(id) on delete cascade, position integer not null, entry text not null,
    title text not null, revision integer, texts text not null, decided text not null, primary key (import, position)
  ) strict, without rowid`,
  `create table glossaries (
    site text primary key references sites(id), terms text not null, version integer not null, at text not null, actor text not null
  ) strict`,
]
