import type { Reader, Transaction } from '../connection/reader.js'
import { jsonOf, setColumns } from '../connection/updating.js'
import { insertMany } from '../connection/inserting.js'
import type { Site } from '../sites/sites.js'
import type { TranslationImportItemRow, TranslationImportRow } from '../tables/tables.js'

/** A file with translations that came back. */
export interface TranslationImport {
  readonly id: string
  readonly site: string
  readonly locale: string
  readonly format: string
  readonly name: string
  /** `reading`: not read to its end, also where that was broken off. */
  readonly state: 'reading' | 'read' | 'running' | 'applied'
  readonly overwrites: boolean
  readonly entries: number
  /** How many texts have which outcome. */
  readonly outcomes: Readonly<Record<string, number>>
  /** The job that applies it. */
  readonly job: string | null
  readonly actor: string
  readonly createdAt: string
  readonly appliedAt: string | null
}

/** An entry in it. The types of texts and decisions belong to the service. */
export interface TranslationImportItem<Text = unknown, Decision = unknown> {
  readonly position: number
  readonly entry: string
  readonly title: string
  readonly revision: number | null
  readonly texts: readonly Text[]
  readonly decided: readonly Decision[]
}

const importFrom = (row: TranslationImportRow): TranslationImport => ({
  id: row.id,
  site: row.site,
  locale: row.locale,
  format: row.format,
  name: row.name,
  state: row.state,
  overwrites: row.overwrites === 1,
  entries: row.entries,
  outcomes: JSON.parse(row.outcomes) as Record<string, number>,
  job: row.job,
  actor: row.actor,
  createdAt: row.created_at,
  appliedAt: row.applied_at,
})

export async function insertTranslationImport(transaction: Transaction, file: TranslationImport): Promise<void> {
  await insertMany(transaction, 'translation_imports', [
    {
      id: file.id,
      site: file.site,
      locale: file.locale,
      format: file.format,
      name: file.name,
      state: file.state,
      overwrites: file.overwrites ? 1 : 0,
      entries: file.entries,
      outcomes: JSON.stringify(file.outcomes),
      job: file.job,
      actor: file.actor,
      created_at: file.createdAt,
      applied_at: file.appliedAt,
    },
  ])
}

export async function deleteTranslationImport(transaction: Transaction, id: string): Promise<void> {
  await transaction.run('delete from translation_imports where id = ?', [id])
}

export async function translationImportOf(
  reader: Reader,
  site: Site,
  id: string,
): Promise<TranslationImport | undefined> {
  const [row] = await reader.all<TranslationImportRow>('select * from translation_imports where site = ? and id = ?', [
    site.id,
    id,
  ])
  return row && importFrom(row)
}

/** The newest files of a site. */
export async function translationImportsOf(reader: Reader, site: Site, most: number): Promise<TranslationImport[]> {
  const rows = await reader.all<TranslationImportRow>(
    'select * from translation_imports where site = ? order by created_at desc, id desc limit ?',
    [site.id, most],
  )
  return rows.map(importFrom)
}

/** Records how an import stands. */
export const changeTranslationImport = (
  transaction: Transaction,
  id: string,
  change: Partial<Pick<TranslationImport, 'state' | 'overwrites' | 'entries' | 'outcomes' | 'job' | 'appliedAt'>>,
): Promise<void> =>
  setColumns(transaction, 'translation_imports', id, {
    state: change.state,
    overwrites: change.overwrites === undefined ? undefined : change.overwrites ? 1 : 0,
    entries: change.entries,
    outcomes: jsonOf(change.outcomes),
    job: change.job,
    applied_at: change.appliedAt,
  })

export async function insertTranslationImportItems(
  transaction: Transaction,
  id: string,
  items: readonly TranslationImportItem[],
): Promise<void> {
  await insertMany(
    transaction,
    'translation_import_items',
    items.map((item) => ({
      import: id,
      position: item.position,
      entry: item.entry,
      title: item.title,
      revision: item.revision,
      texts: JSON.stringify(item.texts),
      decided: JSON.stringify(item.decided),
    })),
  )
}

/** Entries of an import from a position on. */
export async function itemsOfTranslationImport<Text, Decision>(
  reader: Reader,
  id: string,
  from: number,
  most: number,
): Promise<TranslationImportItem<Text, Decision>[]> {
  const rows = await reader.all<TranslationImportItemRow>(
    'select * from translation_import_items where import = ? and position >= ? order by position limit ?',
    [id, from, most],
  )
  return rows.map((row) => ({
    position: row.position,
    entry: row.entry,
    title: row.title,
    revision: row.revision,
    texts: JSON.parse(row.texts) as Text[],
    decided: JSON.parse(row.decided) as Decision[],
  }))
}

/** Records the results for the texts of an entry. */
export async function decideTranslationImportItem(
  transaction: Transaction,
  id: string,
  position: number,
  decided: readonly unknown[],
): Promise<void> {
  await transaction.run('update translation_import_items set decided = ? where import = ? and position = ?', [
    JSON.stringify(decided),
    id,
    position,
  ])
}
