const edition = (name: string, more = ''): string[] => [
  `create table ${name} (
     site text not null references sites (id),
     type text not null,
     entry text not null references entries (id) on delete cascade,
     locale text not null,
     doc text not null,
     facts text not null,
     refs text not null,
     path text,
     title text not null,
     published_at text,
     updated_at text not null,${more}
     primary key (entry, locale)
   ) strict`,
]

const valuesOf = (name: string, of: string): string[] => [
  // `value` has no type, so that numbers stay numbers and texts texts.
  `create table ${name} (
     site text not null,
     entry text not null,
     locale text not null,
     field text not null,
     value not null,
     foreign key (entry, locale) references ${of} (entry, locale) on delete cascade
   )`,
  `create index ${name}_by_value on ${name} (site, field, locale, value, entry)`,
  `create index ${name}_by_entry on ${name} (entry, locale)`,
]

const refsOf = (name: string, of: string): string[] => [
  `create table ${name} (
     site text not null,
     entry text not null,
     locale text not null,
     field text not null,
     target text not null,
     direct integer not null,
     foreign key (entry, locale) references ${of} (entry, locale) on delete cascade
   ) strict`,
  `create index ${name}_by_target on ${name} (target, entry)`,
  `create index ${name}_by_field on ${name} (field, locale, target, entry)`,
  `create index ${name}_by_entry on ${name} (entry, locale, field)`,
]

export const name = '0001-beginning'

export const statements: readonly string[] = [
  `create table service (name text primary key, value text not null) strict`,
  `create table sites (
     id text primary key,
     name text not null unique,
     open integer not null,
     model_version integer not null,
     settings_version integer not null,
     sequence integer not null,
     generation integer not null,
     epoch text not null,
     created_at text not null
   ) strict`,
  `create table settings (
     site text not null references sites (id), version integer not null, settings text not null,
     sequence integer not null, at text not null, actor text not null, primary key (site, version)
   ) strict`,
  `create table models (
     site text not null references sites (id), version integer not null, model text not null, files text not null,
     sequence integer not null, at text not null, actor text not null, primary key (site, version)
   ) strict`,
  `create table proposals (
     id text primary key, site text not null references sites (id), base_version integer not null, model text not null,
     files text not null, at text not null, actor text not null
   ) strict`,
  `create table entries (
     id text primary key, site text not null references sites (id), type text not null, version integer not null,
     revision integer not null, created_at text not null, created_by text not null, updated_at text not null, updated_by text not null,
     mergeable_from integer not null
   ) strict`,
  `create index entries_by_type on entries (site, type, id)`,
  `create table revisions (
     entry text not null references entries (id) on delete cascade, number integer not null, site text not null references sites (id),
     document text not null, model_version integer not null, version integer not null, author text not null,
     created_at text not null, updated_at text not null, sealed_at text, primary key (entry, number)
   ) strict`,
  `create table saves (
     entry text not null references entries (id) on delete cascade, version integer not null, site text not null references sites (id),
     edits text not null, author text not null, at text not null, primary key (entry, version)
   ) strict`,
  `create index saves_by_time on saves (at)`,
  `create table publications (
     id integer primary key autoincrement, site text not null references sites (id), entry text not null, layer text not null,
     revision integer, model_version integer not null, sequence integer not null, at text not null, actor text not null, action text not null
   ) strict`,
  `create index publications_by_entry on publications (entry, id)`,
  `create index publications_by_sequence on publications (site, sequence)`,
  ...edition('published'),
  ...edition('drafts', '\n     state text not null, summary text not null, version integer not null,'),
  `create index drafts_by_path on drafts (site, path)`,
  ...valuesOf('published_values', 'published'),
  ...valuesOf('draft_values', 'drafts'),
  ...refsOf('published_refs', 'published'),
  ...refsOf('draft_refs', 'drafts'),
  `create table paths (
     site text not null references sites (id), path text not null, locale text not null, entry text not null, current integer not null,
     since text not null, primary key (site, path)
   ) strict, without rowid`,
  `create index paths_by_entry on paths (entry, locale, current)`,
  `create table events (
     site text not null references sites (id), sequence integer not null, id text not null unique, type text not null, time text not null,
     actor text not null, action text not null, entry text, data text not null, primary key (site, sequence)
   ) strict`,
  `create table webhooks (
     id text primary key, site text not null references sites (id), label text not null, address text not null, secret text not null,
     events text not null, enabled integer not null, created_at text not null, created_by text not null
   ) strict`,
  `create table deliveries (
     id text primary key, site text not null references sites (id), webhook text not null references webhooks (id) on delete cascade,
     sequence integer not null, entry text not null, status text not null, attempts integer not null, next_at text not null, created_at text not null,
     unique (webhook, sequence)
   ) strict`,
  `create index deliveries_waiting on deliveries (next_at) where status = 'waiting'`,
  `create table attempts (
     id text primary key, delivery text not null references deliveries (id) on delete cascade, at text not null, status integer,
     took integer not null, answer text not null, error text
   ) strict`,
  `create index attempts_by_delivery on attempts (delivery, at)`,
  `create table accounts (
     id text primary key, email text not null unique, name text not null, password text not null, operator integer not null, created_at text not null
   ) strict`,
  `create table memberships (
     account text not null references accounts (id) on delete cascade, site text not null references sites (id), role text not null,
     locales text, created_at text not null, primary key (account, site)
   ) strict`,
  `create table sessions (
     hash text primary key, account text not null references accounts (id) on delete cascade, created_at text not null, expires_at text not null
   ) strict`,
  `create table access_keys (
     id text primary key, site text not null references sites (id), label text not null, scope text not null, prefix text not null unique,
     hash text not null, created_at text not null, created_by text not null, last_used_at text, revoked_at text
   ) strict`,
  `create table front_ends (
     id text primary key, site text not null references sites (id), name text not null, label text not null, origins text not null,
     enter text not null, created_at text not null, unique (site, name)
   ) strict`,
  `create table preview_codes (
     hash text primary key, site text not null references sites (id), front_end text not null references front_ends (id) on delete cascade,
     account text not null references accounts (id) on delete cascade, expires_at text not null, used_at text
   ) strict`,
  `create table grants (
     id text primary key, site text not null references sites (id), front_end text not null references front_ends (id) on delete cascade,
     account text not null references accounts (id) on delete cascade, created_at text not null, expires_at text not null, revoked_at text
   ) strict`,
  `create table idempotency (
     caller text not null, key text not null, request text not null, status integer not null, answer text not null, etag text, at text not null,
     primary key (caller, key)
   ) strict`,
]
