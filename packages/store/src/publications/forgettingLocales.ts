import {
  fieldsEver,
  documentWithoutLocale,
  type Document,
  type GlossaryTerm,
  type Model,
  type Origins,
} from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import { pastModels } from '../sites/models.js'
import type { Site } from '../sites/sites.js'

/** A locale that a site has had, and the number of entries and files that still have texts in it. */
export interface RemovedLocale {
  readonly tag: string
  readonly entries: number
  readonly assets: number
}

const assetTexts = ['alt', 'title', 'caption'] as const
const hasText = (column: string): string => `${column} like '%"' || ?2 || '":%'`

/** The locales that a site had once and has no longer, with texts that are kept. */
export async function removedLocales(reader: Reader, site: Site): Promise<RemovedLocale[]> {
  const rows = await reader.all<{ tag: string }>(
    `select distinct l.value ->> 'tag' as tag from settings s, json_each(s.settings, '$.locales') l where s.site = ? order by tag`,
    [site.id],
  )
  const now = new Set(site.settings.locales.map(({ tag }) => tag))
  const removed: RemovedLocale[] = []
  for (const { tag } of rows.filter(({ tag }) => !now.has(tag))) {
    const [counts] = await reader.all<{ entries: number; assets: number }>(
      `select (select count(distinct entry) from revisions where site = ?1 and ${hasText('document')}) as entries,
         (select count(*) from assets where site = ?1 and (${assetTexts.map(hasText).join(' or ')})) as assets`,
      [site.id, tag],
    )
    if (counts!.entries + counts!.assets > 0) removed.push({ tag, ...counts! })
  }
  return removed
}

/** Entries with texts in a locale, after one, in the order of their ids. */
export async function entriesWithLocale(
  reader: Reader,
  site: Site,
  locale: string,
  after: string,
  most: number,
): Promise<string[]> {
  const rows = await reader.all<{ entry: string }>(
    `select distinct entry from revisions where site = ?1 and ${hasText('document')} and entry > ?3 order by entry limit ?4`,
    [site.id, locale, after, most],
  )
  return rows.map(({ entry }) => entry)
}

/**
 * Takes the texts of a locale out of all revisions of an entry, and forgets edits that have any. This is the one place where a revision
 * is rewritten: what is deleted permanently must not stay in the history.
 */
export async function forgetLocaleOfEntry(
  transaction: Transaction,
  site: Site,
  entry: string,
  locale: string,
  models: readonly Model[],
): Promise<void> {
  const rows = await transaction.all<{
    number: number
    document: string
    origins: string | null
    model_version: number
  }>(
    "select number, document, origins, model_version from revisions where entry = ?1 and (document like '%\"' || ?2 || '\":%' or origins like '%\"' || ?2 || '\":%')",
    [entry, locale],
  )
  const fieldsAt = new Map<number, ReturnType<typeof fieldsEver>>()
  for (const { number, document, origins, model_version: version } of rows) {
    const fields =
      fieldsAt.get(version) ??
      fieldsEver(models.find((candidate) => candidate.version === version) ?? site.model, models)
    fieldsAt.set(version, fields)
    const without = documentWithoutLocale(fields, JSON.parse(document) as Document, locale)
    const rest = originsWithout((origins === null ? {} : JSON.parse(origins)) as Origins, locale)
    await transaction.run('update revisions set document = ?, origins = ? where entry = ? and number = ?', [
      JSON.stringify(without),
      origins === null ? null : JSON.stringify(rest),
      entry,
      number,
    ])
  }
  // Whoever began before saves against what is there now.
  const forgotten = await transaction.run("delete from saves where entry = ?1 and edits like '%\"' || ?2 || '\"%'", [
    entry,
    locale,
  ])
  if (forgotten > 0) await transaction.run('update entries set mergeable_from = version where id = ?', [entry])
}

/** Origins without those in a locale, and without the texts of those that were translated from it. */
const originsWithout = (origins: Origins, locale: string): Origins =>
  Object.fromEntries(
    Object.entries(origins).flatMap(([tag, units]) =>
      tag === locale
        ? []
        : [
            [
              tag,
              Object.fromEntries(
                Object.entries(units).map(([key, { text, ...origin }]) => [
                  key,
                  text === undefined || origin.from === locale ? origin : { ...origin, text },
                ]),
              ),
            ],
          ],
    ),
  )

/** The models that a site has had, to read its revisions with. */
export const modelsEver = (reader: Reader, site: Site): Promise<Model[]> => pastModels(reader, site.id)

/** Takes a locale out of everything else that keeps texts: files with theirs, the glossary, orders and files for translators, tasks. */
export async function forgetLocaleElsewhere(transaction: Transaction, site: Site, locale: string): Promise<void> {
  const path = `$."${locale}"`
  for (const table of ['assets', 'asset_revisions'])
    await transaction.run(
      `update ${table} set ${assetTexts.map((column) => `${column} = json_remove(${column}, ?3)`).join(', ')}
       where ${table === 'assets' ? 'site = ?1' : 'asset in (select id from assets where site = ?1)'} and (${assetTexts.map(hasText).join(' or ')})`,
      [site.id, locale, path],
    )
  // What the undo of a bulk action needs. It skips these entries then.
  await transaction.run(
    "update job_items set before = null where job in (select id from jobs where site = ?1) and before like '%\"' || ?2 || '\"%'",
    [site.id, locale],
  )
  for (const table of ['translation_tasks', 'translation_imports', 'translation_orders'])
    await transaction.run(`delete from ${table} where site = ? and locale = ?`, [site.id, locale])
  const [row] = await transaction.all<{ terms: string }>('select terms from glossaries where site = ?', [site.id])
  if (!row) return
  const terms = (JSON.parse(row.terms) as GlossaryTerm[]).map((term) => {
    const { [locale]: _, ...translations } = term.translations
    return { ...term, translations }
  })
  await transaction.run('update glossaries set terms = ?, version = version + 1 where site = ?', [
    JSON.stringify(terms),
    site.id,
  ])
}
