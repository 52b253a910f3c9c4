/*
 * Each row of an edition says which of its values come from other locales. Rows of locales that have fallbacks are marked as
 * incomplete: the service writes them again at its start.
 */
export const name = '0019-fallbacks'

const isDefault = `exists (select 1 from sites s join settings t on t.site = s.id and t.version = s.settings_version
  where s.projection = o.projection and t.settings ->> 'defaultLocale' = o.locale)`

export const statements: readonly string[] = ['published', 'drafts'].flatMap((table) => [
  `alter table ${table} add column fallbacks text not null default '{}'`,
  `update ${table} as o set content_locale = '' where not ${isDefault}`,
])
