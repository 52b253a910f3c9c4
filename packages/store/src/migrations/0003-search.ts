/*
 * Full-text search over working copies. `draft_texts` gives each row of `drafts` a number; `draft_words` has, under that number,
 * its folded words and their stems, and no text that could be read back.
 */

export const name = '0003-search'

export const statements: readonly string[] = [
  `create table draft_texts (
     id integer primary key, shelf text not null, entry text not null, locale text not null, unique (shelf, entry, locale),
     foreign key (shelf, entry, locale) references drafts (shelf, entry, locale) on delete cascade
   ) strict`,
  `create virtual table draft_words using fts5 (
     title, words, stems, content = '', contentless_delete = 1, tokenize = 'unicode61 remove_diacritics 0', prefix = '2 3'
   )`,
  // Deleted words are not merged at once: clearing a projection set would block all writes. Ordinary merges drop them.
  `insert into draft_words (draft_words, rank) values ('deletemerge', 0)`,
  `create trigger draft_texts_go after delete on draft_texts begin delete from draft_words where rowid = old.id; end`,
  // For lists over all types. Only queries that write this term may use it: for a single type there are better ones.
  `create index drafts_of_all_types on drafts (shelf, locale, updated_at, entry) where shelf > ''`,
]
