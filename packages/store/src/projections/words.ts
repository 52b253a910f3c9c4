import { draftRows, publicRows, searchable, type EditionRow, type Searchable } from '@wisteria/core'
import { LRUCache } from 'lru-cache'
import type { Reader, Transaction } from '../connection/reader.js'
import { editionTables, type Edition } from './editionTables.js'
import { insertMany, insertReturning } from '../connection/inserting.js'
import { publicHistoriesOf } from '../publications/publicHistory.js'
import type { Site } from '../sites/sites.js'
import { workingCopiesOf } from '../entries/workingCopies.js'

/** A row of an entry whose texts are to be found. */
export interface TextRow {
  readonly entry: string
  readonly row: Pick<EditionRow, 'locale' | 'title' | 'texts'>
}

/** The words of texts in a locale, with a cache of recent ones: a published text was saved before, and is the same. */
const lately = new LRUCache<string, Searchable>({
  maxSize: 8_000_000,
  sizeCalculation: ({ words, stems }, key) => 100 + 2 * (key.length + words.length + stems.length),
})

function wordsOf(texts: readonly string[], locale: string): Searchable {
  const key = [locale, ...texts].join('\n')
  let words = lately.get(key)
  if (!words) lately.set(key, (words = searchable(texts, locale)))
  return words
}

/** Keeps the words of rows that have none yet. */
export async function writeWords(
  transaction: Transaction,
  edition: Edition,
  projection: string,
  rows: readonly TextRow[],
): Promise<void> {
  if (rows.length === 0) return
  const { texts, words } = editionTables[edition]
  const kept = await insertReturning<{ id: number; entry: string; locale: string }>(
    transaction,
    texts,
    rows.map(({ entry, row }) => ({ projection, entry, locale: row.locale })),
    'id, entry, locale',
  )
  const numbers = new Map(kept.map(({ id, entry, locale }) => [`${entry} ${locale}`, id]))
  await insertMany(
    transaction,
    words,
    rows.map(({ entry, row: { locale, title, texts: words } }) => ({
      rowid: numbers.get(`${entry} ${locale}`)!,
      title: wordsOf([title], locale).words,
      ...wordsOf(words, locale),
    })),
  )
}

/** How many entries get their words in one transaction. */
const batch = 200

/** Keeps the words of some entries that have none, as after an update of the program. @returns whether there may be more. */
export async function fillWords(transaction: Transaction, site: Site, edition: Edition): Promise<boolean> {
  const { rows, texts } = editionTables[edition]
  const missing = await transaction.all<{ entry: string }>(
    `select distinct d.entry from ${rows} d left join ${texts} t on t.projection = d.projection and t.entry = d.entry and t.locale = d.locale
     where d.projection = ? and t.id is null limit ${batch}`,
    [site.projection],
  )
  const ids = missing.map(({ entry }) => entry)
  for (const id of ids)
    await transaction.run(`delete from ${texts} where projection = ? and entry = ?`, [site.projection, id])
  const stored = await textsOf(transaction, site, edition, ids)
  await writeWords(transaction, edition, site.projection, stored)
  return stored.length > 0 && missing.length === batch
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

/** Deletes the words of a site's entries in an edition, before they are written again. */
export const forgetWords = (transaction: Transaction, site: Site, edition: Edition): Promise<number> =>
  transaction.run(`delete from ${editionTables[edition].texts} where projection = ?`, [site.projection])
