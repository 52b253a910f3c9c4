/*
 * Files that rows of an import name: by an address, or by a path in a ZIP file that came with the table.
 */
export const name = '0027-import-files'

export const statements: readonly string[] = [
  // How many files the ZIP file of an import has; null where none came with it.
  'alter table imports add column files integer',
  `create table import_files (
    import text not null references imports(id) on delete cascade, name text not null, file text, asset text,
    problem text not null default '', primary key (import, name)
  ) strict, without rowid`,
]
