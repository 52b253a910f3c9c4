/*
 * When lists in public entries turn with the time, and what they show until then.
 */
export const name = '0026-list-turns'

export const statements: readonly string[] = [
  `create table list_scans (
    site text primary key references sites(id), generation text not null, at text not null
  ) strict, without rowid`,
  `create table list_turns (
    site text not null references sites(id), entry text not null, locale text not null, at text not null, shows text not null,
    primary key (site, entry, locale)
  ) strict, without rowid`,
  `create index list_turns_by_time on list_turns (at)`,
]
