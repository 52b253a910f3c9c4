/*
 * Rich text gets another form: a Markdown syntax tree whose blocks have ids. Revisions stay as they are and are read through
 * `upgradeDocument`. Rows of the editions with the earlier form are marked as incomplete: the service writes them again at its
 * start. Stored edits have the earlier form, so versions before this one can no longer be merged with.
 */
export const name = '0012-rich-text'

export const statements: readonly string[] = [
  ...['published', 'drafts'].map((table) => `update ${table} set content_locale = '' where doc like '%"blocks":[%'`),
  `update entries set mergeable_from = version where id in (select entry from saves)`,
  `delete from saves`,
]
