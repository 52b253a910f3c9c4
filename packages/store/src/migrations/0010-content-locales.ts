/*
 * The locale that an entry's words are really in, beside the locale of its reader. Empty until the row is next written: the
 * service writes such rows at its start.
 */
export const name = '0010-content-locales'

export const statements: readonly string[] = ['published', 'drafts'].flatMap((table) => [
  `alter table ${table} add column content_locale text not null default ''`,
  `create index ${table}_without_content_locale on ${table} (shelf, entry) where content_locale = ''`,
])
