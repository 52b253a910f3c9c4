/* Full-text search over public entries, with an index of its own, so that words of drafts never answer a published query. */

export const name = '0006-reading'

export const statements: readonly string[] = [
  `create table published_texts (
     id integer primary key, shelf text not null, entry text not null, locale text not null, unique (shelf, entry, locale),
     foreign key (shelf, entry, locale) references published (shelf, entry, locale) on delete cascade
   ) strict`,
  `create virtual table published_words using fts5 (
     title, words, stems, content = '', contentless_delete = 1, tokenize = 'unicode61 remove_diacritics 0', prefix = '2 3'
   )`,
  `insert into published_words (published_words, rank) values ('deletemerge', 0)`,
  `create trigger published_texts_go after delete on published_texts begin delete from published_words where rowid = old.id; end`,
]
