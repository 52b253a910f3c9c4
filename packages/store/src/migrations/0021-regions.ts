/*
 * Entries belong to regions, and can have counterparts in others. A counterpart names the entry that it was copied from, and the
 * revision of it that was taken last; all counterparts name the first of them, which names itself. Each region has at most one of
 * them, also while it lies in the bin.
 * Rows of both editions have the region of entries whose type is regional, which no type is yet.
 */
export const name = '0021-regions'

export const statements: readonly string[] = [
  `alter table entries add column region text`,
  `alter table entries add column counterpart_of text`,
  `alter table entries add column counterpart_root text`,
  `alter table entries add column counterpart_revision integer`,
  `create unique index entries_by_root on entries (counterpart_root, coalesce(region, 'main')) where counterpart_root is not null`,
  `create index entries_by_region on entries (site, region) where region is not null`,
  ...['published', 'drafts'].flatMap((table) => [
    `alter table ${table} add column region text`,
    `create index ${table}_by_region on ${table} (projection, type, region, locale, entry) where region is not null`,
  ]),
  `alter table memberships add column regions text`,
  `alter table invitations add column regions text`,
]
