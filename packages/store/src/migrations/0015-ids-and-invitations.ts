/*
 * The identity of an item of a list is its `id` (before, `handle`), and a list that fills itself has its length in `first` (before,
 * `limit`). Revisions stay as they are and are read through `upgradeDocument`. Rows of the editions with the earlier form are
 * marked as incomplete: the service writes them again at its start. Stored edits have the earlier form, so versions before this one
 * can no longer be merged with. People are invited to a site by a one-time link. An account has a language and a time zone of its
 * own, and a session has its program and its last use.
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
