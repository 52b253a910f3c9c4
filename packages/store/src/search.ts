import { draftRows, searchable, type EditionRow } from '@wisteria/core'
import type { Binding, Reader, Transaction } from './database.js'
import { insertMany } from './inserting.js'
import type { Site } from './sites.js'
import { workingCopiesOf } from './workingCopies.js'

/** A row of an entry whose texts are to be found. */
export interface TextRow {
  readonly entry: string
  readonly row: Pick<EditionRow, 'locale' | 'title' | 'texts'>
}

/** Keeps the words of draft rows that have none yet. */
export async function writeWords(transaction: Transaction, shelf: string, rows: readonly TextRow[]): Promise<void> {
  if (rows.length === 0) return
  await insertMany(
    transaction,
    'draft_texts',
    rows.map(({ entry, row }) => ({ shelf, entry, locale: row.locale })),
  )
  const kept = await transaction.all<{ id: number; entry: string; locale: string }>(
    'select id, entry, locale from draft_texts where shelf = ? and entry in (select value from json_each(?))',
    [shelf, JSON.stringify([...new Set(rows.map(({ entry }) => entry))])],
  )
  const numbers = new Map(kept.map(({ id, entry, locale }) => [`${entry} ${locale}`, id]))
  await insertMany(
    transaction,
    'draft_words',
    rows.map(({ entry, row: { locale, title, texts } }) => ({
      rowid: numbers.get(`${entry} ${locale}`)!,
      title: searchable([title], locale).words,
      ...searchable(texts, locale),
    })),
  )
}

/** How many entries get their words in one transaction. */
const batch = 200

/** Keeps the words of some working copies that have none, as after an update of the program. @returns whether there may be more. */
export async function fillWords(transaction: Transaction, site: Site): Promise<boolean> {
  const missing = await transaction.all<{ entry: string }>(
    `select distinct d.entry from drafts d left join draft_texts t on t.shelf = d.shelf and t.entry = d.entry and t.locale = d.locale
     where d.shelf = ? and t.id is null limit ${batch}`,
    [site.shelf],
  )
  const copies = await workingCopiesOf(
    transaction,
    site,
    missing.map(({ entry }) => entry),
  )
  for (const { id } of copies.values())
    await transaction.run('delete from draft_texts where shelf = ? and entry = ?', [site.shelf, id])
  await writeWords(
    transaction,
    site.shelf,
    [...copies.values()].flatMap(({ id, type, document }) =>
      draftRows(site.model, type, site.settings, document, () => null).map((row) => ({ entry: id, row })),
    ),
  )
  return copies.size > 0 && missing.length === batch
}

/** Forgets the words of a site's working copies, so that they can be kept anew. */
export const forgetWords = (transaction: Transaction, site: Site): Promise<void> =>
  transaction.run('delete from draft_texts where shelf = ?', [site.shelf])

/**
 * Entries among `p` whose words meet an FTS5 expression.
 * The join is a cross join, here and below, so that SQLite begins with the words: left to choose, it asks of every row
 * of the site whether it has them.
 */
export const wordsSql = (expression: string, shelf: string, locale: string): { text: string; bindings: Binding[] } => ({
  text: 'p.entry in (select t.entry from draft_words w cross join draft_texts t on t.id = w.rowid where w.draft_words match ? and t.shelf = ? and t.locale = ?)',
  bindings: [expression, shelf, locale],
})

export interface Found {
  readonly entry: string
  /** In which it was found: the first of them that it was found in. */
  readonly locale: string
}

/** How many of the best rows are looked at to find entries: one may be found in several locales. */
const maxRanked = 200

/**
 * The entries that meet an FTS5 expression best, in any locale; a word of the title counts for more.
 * @param locales in the order in which an entry found in several is rather shown.
 */
export async function bestMatches(
  reader: Reader,
  shelf: string,
  expression: string,
  {
    type,
    locales,
    limit,
  }: { readonly type?: string | undefined; readonly locales: readonly string[]; readonly limit: number },
): Promise<Found[]> {
  const rows = await reader.all<Found>(
    `select t.entry, t.locale from draft_words w cross join draft_texts t on t.id = w.rowid
     ${type === undefined ? '' : 'cross join drafts d on d.shelf = t.shelf and d.entry = t.entry and d.locale = t.locale and d.type = ?'}
     where w.draft_words match ? and t.shelf = ? order by bm25(draft_words, 10.0, 1.0, 0.5), t.entry limit ${maxRanked}`,
    [...(type === undefined ? [] : [type]), expression, shelf],
  )
  const found = new Map<string, Found>()
  const rank = ({ locale }: Found) => locales.indexOf(locale)
  for (const row of rows) {
    const known = found.get(row.entry)
    // A key that is set again keeps its place: that of its best row.
    if (!known || rank(row) < rank(known)) found.set(row.entry, row)
  }
  return [...found.values()].slice(0, limit)
}
