import { createWriteStream } from 'node:fs'
import { mkdir, rm } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import type { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { guessMapping, guessType, makeId, typeNamed, WisteriaError, type ImportMapping } from '@wisteria/core'
import {
  changeImport,
  deleteImport,
  importOnSite,
  importRowsFrom,
  insertImport,
  insertImportRows,
  keptMappings,
  type EntryImport,
  type Reader,
  type Site,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { limitBytes } from '../kernel/limitBytes.js'
import { openTable, type TableOptions, type TableRow } from './reading.js'

/** The most bytes of a file, and rows in it. */
const maxBytes = 200_000_000
const maxRows = 100_000
/** How many rows are stored in one transaction. */
const batch = 200
/** So many rows are looked at to guess a mapping. */
const sampleRows = 100

/** What is said about a file, besides how it is read. */
export interface ImportOrder extends TableOptions {
  readonly name: string
  /** The name of a type; guessed from the heads, when left out. */
  readonly type?: string | undefined
  /** The name of a mapping that is kept. */
  readonly mapping?: string | undefined
}

/**
 * Reads a file with a table and guesses how its rows become entries. No entry is changed.
 * @throws WisteriaError `invalid` with the line, where the file cannot be read: nothing of it is kept then.
 */
export async function readImport(
  kernel: Kernel,
  site: Site,
  actor: string,
  file: Readable,
  order: ImportOrder,
): Promise<EntryImport> {
  const given = await givenMapping(kernel.database, site, order)
  const path = join(kernel.options.data, 'assets', 'coming', makeId(kernel.environment))
  await mkdir(dirname(path), { recursive: true })
  const record: EntryImport = {
    id: makeId(kernel.environment),
    site: site.id,
    name: order.name,
    source: {},
    heads: [],
    mapping: null,
    state: 'reading',
    rows: 0,
    outcomes: {},
    undone: { undone: 0, refused: 0 },
    job: null,
    actor,
    createdAt: kernel.at,
    finishedAt: null,
    files: null,
  }
  try {
    await pipeline(file, limitBytes(maxBytes, tooLargeSaid), createWriteStream(path))
    const table = await openTable(path, order)
    await kernel.write((transaction) => insertImport(transaction, record))
    try {
      const rows = await storeRows(kernel, record.id, table.rows)
      if (rows === 0) throw new WisteriaError('invalid', 'The file has heads, and no rows.')
      const heads = [...table.heads]
      const mapping = given ?? (await guessed(kernel.database, site, record.id, heads, order.type))
      const read = { source: table.source, heads, mapping, state: 'read' as const, rows }
      await kernel.write((transaction) => changeImport(transaction, record.id, read))
      return { ...record, ...read }
    } catch (error) {
      await kernel.write((transaction) => deleteImport(transaction, record.id))
      throw error
    }
  } finally {
    await rm(path, { force: true })
  }
}

const tooLargeSaid = `A file has at most ${maxBytes / 1e6} MB and ${maxRows} rows. Part it.`

async function storeRows(kernel: Kernel, id: string, rows: AsyncIterable<TableRow>): Promise<number> {
  let position = 0
  let waiting: TableRow[] = []
  const store = async (): Promise<void> => {
    const some = waiting.map((row, index) => ({ ...row, position: position + index }))
    position += some.length
    waiting = []
    await kernel.write((transaction) => insertImportRows(transaction, id, some))
  }
  for await (const row of rows) {
    if (position + waiting.length >= maxRows) throw new WisteriaError('tooLarge', tooLargeSaid)
    waiting.push(row)
    if (waiting.length >= batch) await store()
  }
  if (waiting.length > 0) await store()
  return position
}

async function givenMapping(reader: Reader, site: Site, order: ImportOrder): Promise<ImportMapping | undefined> {
  if (order.type !== undefined && !typeNamed(site.model, order.type))
    throw new WisteriaError('invalid', `\`${order.type.slice(0, 60)}\` is not a type of ${site.settings.label}.`)
  if (order.mapping === undefined) return undefined
  const kept = (await keptMappings(reader, site)).find(({ name }) => name === order.mapping)
  if (!kept) throw new WisteriaError('notFound', `There is no mapping “${order.mapping.slice(0, 80)}”.`)
  return kept.mapping
}

async function guessed(
  reader: Reader,
  site: Site,
  id: string,
  heads: readonly string[],
  named: string | undefined,
): Promise<ImportMapping | null> {
  const { model, settings } = site
  const type = named === undefined ? guessType(heads, model, settings) : typeNamed(model, named)
  if (!type) return null
  const rows = await importRowsFrom(reader, id, 0, sampleRows)
  return guessMapping(
    heads,
    rows.map(({ cells }) => cells),
    type,
    model,
    settings,
  )
}

/** @throws WisteriaError `notFound`. */
export async function requireImport(reader: Reader, site: Site, id: string): Promise<EntryImport> {
  const record = await importOnSite(reader, site, id)
  if (!record)
    throw new WisteriaError('notFound', `There is no import \`${id.slice(0, 60)}\` on ${site.settings.label}.`)
  return record
}
