/*
 * Every state of an asset is kept: its texts and its file. The row of the asset is the newest one, with its number. The present
 * state of each asset becomes its first revision.
 */
export const name = '0013-asset-revisions'

const said = 'name, media_type, size, hash, width, height, alt, title, caption, focal_x, focal_y'

export const statements: readonly string[] = [
  `alter table assets add column revision integer not null default 1`,
  `create table asset_revisions (
     asset text not null references assets (id) on delete cascade, revision integer not null,
     name text not null, media_type text not null, size integer not null, hash text not null, width integer, height integer,
     alt text not null, title text not null, caption text not null, focal_x real, focal_y real,
     at text not null, by text not null,
     primary key (asset, revision)
   ) strict, without rowid`,
  `drop index assets_by_hash`,
  `create index asset_revisions_by_hash on asset_revisions (hash)`,
  `insert into asset_revisions (asset, revision, ${said}, at, by)
     select id, 1, ${said}, coalesce(updated_at, created_at), created_by from assets`,
]
