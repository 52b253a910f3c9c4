/* Assets for editors: titles and captions, the focal point, and which entries use a file, beside the references between entries. */

export const name = '0005-assets'

export const statements: readonly string[] = [
  `alter table assets add column title text not null default '{}'`,
  `alter table assets add column caption text not null default '{}'`,
  // From 0 to 1, from the left and from the top; null where it is not set.
  `alter table assets add column focal_x real`,
  `alter table assets add column focal_y real`,
  `alter table assets add column updated_at text`,
  `update assets set updated_at = created_at`,
  // Of a translation, beside its state; empty until the row is next written.
  `alter table drafts add column freshness text not null default ''`,
  `create index assets_by_time on assets (site, created_at, id)`,
  ...(['published', 'draft'] as const).map(
    (edition) =>
      `insert into ${edition}_refs (shelf, entry, locale, field, target, direct)
       select r.shelf, r.entry, r.locale, '', held.value, 0 from ${edition === 'draft' ? 'drafts' : 'published'} r, json_each(r.assets) held`,
  ),
]
