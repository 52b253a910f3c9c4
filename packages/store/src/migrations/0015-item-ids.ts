/*
 * What tells an item of a list from its siblings is its `id` (before, `handle`), and a list that fills itself says how many entries
 * it lists by `first` (before, `limit`). Revisions stay as they are and are read through `upgradeDocument`. Rows of the editions that
 * hold the earlier form are marked as incomplete: the service writes them again at its start. Kept edits speak of the earlier
 * form, so what was based on a version before this one can no longer be merged.
 */
export const name = '0015-item-ids'

export const statements: readonly string[] = [
  ...['published', 'drafts'].map(
    (table) =>
      `update ${table} set content_locale = '' where doc like '%"handle":%' or (doc like '%"limit":%' and doc like '%"type":%')`,
  ),
  `update entries set mergeable_from = version where id in (select entry from saves)`,
  `delete from saves`,
]
