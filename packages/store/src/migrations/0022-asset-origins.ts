/*
 * Assets record what their translated texts were made from, as revisions of entries do. Null where no change has recorded it: then
 * each text counts as made from the source as it is.
 */
export const name = '0022-asset-origins'

export const statements: readonly string[] = ['assets', 'asset_revisions'].map(
  (table) => `alter table ${table} add column origins text`,
)
