/*
 * What tells an item of a list from its siblings is its `id` (before, `handle`), and a list that fills itself says how many entries
 * it lists by `first` (before, `limit`). Revisions stay as they are and are read through `upgradeDocument`. Rows of the editions that
 * hold the earlier form are marked as incomplete: the service writes them again at its start. Kept edits speak of the earlier
 * form, so what was based on a version before this one can no longer be merged.
 *
 * Somebody is invited to a site by a one-time link. An account has a language and a time zone of its own, and a session says where
 * it was begun and when it was last used.
 */
export const name = '0015-ids-and-invitations'

export const statements: readonly string[] = [
  ...['published', 'drafts'].map(
    (table) =>
      `update ${table} set content_locale = '' where doc like '%"handle":%' or (doc like '%"limit":%' and doc like '%"type":%')`,
  ),
  `update entries set mergeable_from = version where id in (select entry from saves)`,
  `delete from saves`,
  `create table invitations (
    id text primary key, site text not null references sites(id), email text not null, role text not null, locales text,
    hash text not null unique, created_at text not null, created_by text not null, expires_at text not null
  ) strict`,
  `create unique index invitations_by_site on invitations (site, email)`,
  `create index invitations_by_age on invitations (expires_at)`,
  `alter table accounts add column language text`,
  `alter table accounts add column time_zone text`,
  `alter table sessions add column agent text`,
  `alter table sessions add column seen_at text`,
]
