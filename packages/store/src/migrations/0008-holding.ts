/*
 * Which entries refer to an entry or an asset, by the stored documents: every id in a revision's document, also in hidden values,
 * removed fields and retired locales. Triggers maintain the table, so that a save needs no further statement.
 */
export const name = '0008-holding'

/** The ids of entries and assets in the document of a row of `revisions`. */
const idsIn = (row: string): string =>
  `select distinct t.atom, ${row}.entry, ${row}.number from json_tree(${row}.document) t
   where t.type = 'text' and length(t.atom) = 20 and t.atom <> ${row}.entry
     and (exists (select 1 from entries e where e.id = t.atom and e.site = ${row}.site)
       or exists (select 1 from assets a where a.id = t.atom and a.site = ${row}.site))`

export const statements: readonly string[] = [
  `create table revision_refs (
     target text not null, entry text not null, number integer not null,
     primary key (target, entry, number),
     foreign key (entry, number) references revisions (entry, number) on delete cascade
   ) without rowid`,
  `create index revision_refs_by_revision on revision_refs (entry, number)`,
  `insert into revision_refs (target, entry, number) ${idsIn('r').replace('from json_tree', 'from revisions r, json_tree')}`,
  `create trigger revision_refs_of_new after insert on revisions begin
     insert into revision_refs (target, entry, number) ${idsIn('new')};
   end`,
  `create trigger revision_refs_of_changed after update of document on revisions when old.document <> new.document begin
     delete from revision_refs where entry = new.entry and number = new.number;
     insert into revision_refs (target, entry, number) ${idsIn('new')};
   end`,
]
