import { draftRows, publicRows, searchable, type EditionRow } from '@wisteria/core'
import type { Binding, Reader, Transaction } from './database.js'
import { editionTables, type Edition } from './editionTables.js'
import { insertMany, insertReturning } from './inserting.js'
import { publicHistoriesOf } from './publicHistory.js'
import type { Site } from './sites.js'
import { workingCopiesOf } from './workingCopies.js'

/** A row of an entry whose texts are to be found. */
export interface TextRow {
  readonly entry: string
  readonly row: Pick<EditionRow, 'locale' | 'title' | 'texts'>
}

/** Keeps the words of rows that have none yet. */
export async function writeWords(
  transaction: Transaction,
  edition: Edition,
  shelf: string,
  rows: readonly TextRow[],
): Promise<void> {
  if (rows.length === 0) return
  const { texts, words } = editionTables[edition]
  const kept = await insertReturning<{ id: number; entry: string; locale: string }>(
    transaction,
    texts,
    rows.map(({ entry, row }) => ({ shelf, entry, locale: row.locale })),
    'id, entry, locale',
  )
  const numbers = new Map(kept.map(({ id, entry, locale }) => [`${entry} ${locale}`, id]))
  await insertMany(
    transaction,
    words,
    rows.map(({ entry, row: { locale, title, texts: own } }) => ({
      rowid: numbers.get(`${entry} ${locale}`)!,
      title: searchable([title], locale).words,
      ...searchable(own, locale),
    })),
  )
}

/** How many entries get their words in one transaction. */
const batch = 200

/** Keeps the words of some entries that have none, as after an update of the program. @returns whether there may be more. */
export async function fillWords(transaction: Transaction, site: Site, edition: Edition): Promise<boolean> {
  const { rows, texts } = editionTables[edition]
  const missing = await transaction.all<{ entry: string }>(
    `select distinct d.entry from ${rows} d left join ${texts} t on t.shelf = d.shelf and t.entry = d.entry and t.locale = d.locale
     where d.shelf = ? and t.id is null limit ${batch}`,
    [site.shelf],
  )
  const ids = missing.map(({ entry }) => entry)
  for (const id of ids) await transaction.run(`delete from ${texts} where shelf = ? and entry = ?`, [site.shelf, id])
  const found = await textsOf(transaction, site, edition, ids)
  await writeWords(transaction, edition, site.shelf, found)
  return found.length > 0 && missing.length === batch
}

/** The texts that entries are found by in an edition. */
async function textsOf(reader: Reader, site: Site, edition: Edition, ids: readonly string[]): Promise<TextRow[]> {
  const { model, settings } = site
  const copies = [...(await workingCopiesOf(reader, site, ids)).values()]
  const rowsOf = (entry: string, rows: readonly EditionRow[]) => rows.map((row) => ({ entry, row }))
  if (edition === 'draft')
    return copies.flatMap(({ id, type, document }) =>
      rowsOf(
        id,
        draftRows(model, type, settings, document, () => null),
      ),
    )
  const histories = await publicHistoriesOf(reader, site, copies)
  return copies.flatMap(({ id, type }) => {
    const { layers } = histories.get(id)!
    return layers
      ? rowsOf(
          id,
          publicRows(model, type, settings, layers, () => null),
        )
      : []
  })
}

/** Forgets the words of a site's entries in an edition, so that they can be kept anew. */
export const forgetWords = (transaction: Transaction, site: Site, edition: Edition): Promise<number> =>
  transaction.run(`delete from ${editionTables[edition].texts} where shelf = ?`, [site.shelf])

/**
 * Entries among `p` whose words meet an FTS5 expression.
 * The join is a cross join, here and below, so that SQLite begins with the words: left to choose, it asks of every row
 * of the site whether it has them.
 */
export function wordsSql(
  edition: Edition,
  expression: string,
  shelf: string,
  locale: string,
): { text: string; bindings: Binding[] } {
  const { texts, words } = editionTables[edition]
  return {
    text: `p.entry in (select t.entry from ${words} w cross join ${texts} t on t.id = w.rowid where w.${words} match ? and t.shelf = ? and t.locale = ?)`,
    bindings: [expression, shelf, locale],
  }
}

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
