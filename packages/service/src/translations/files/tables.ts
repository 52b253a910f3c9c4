import { WisteriaError } from '@wisteria/core'
import { parse } from 'csv-parse'
import { stringify } from 'csv-stringify/sync'
import { Readable } from 'node:stream'
import { byteOrderMark, csvOptions, guard, sheetRows, unguarded, workbookOf } from '../../tables/spreadsheets.js'
import type { OutgoingEntry, OutgoingFile, ReturnedEntry, ReturnedHead } from './handedOut.js'
import { headsOf, readRows, rowsOf } from './tableRows.js'

/** With a mark at the start, by which spreadsheets know that it is UTF-8. */
export const csvHead = (file: OutgoingFile): string => byteOrderMark + stringify([headsOf(file)], csvOptions)
export const csvEntry = (entry: OutgoingEntry): string =>
  stringify(
    rowsOf(entry).map((row) => row.map(guard)),
    csvOptions,
  )

/** Reads a CSV file (RFC 4180); the delimiter may be a comma, a semicolon or a tab. */
export async function* readCsv(
  content: AsyncIterable<Buffer>,
  onHead: (head: ReturnedHead) => void,
): AsyncGenerator<ReturnedEntry> {
  const { delimiter, rest } = await withDelimiter(content)
  const parser = Readable.from(rest).pipe(
    parse({ bom: true, delimiter, relax_column_count: true, max_record_size: 2_000_000 }),
  )
  const rows = async function* () {
    for await (const row of parser as AsyncIterable<string[]>) yield row.map(unguarded)
  }
  try {
    yield* readRows(rows(), onHead)
  } catch (error) {
    if (error instanceof WisteriaError) throw error
    const { message, lines } = error as Error & { lines?: number }
    throw new WisteriaError('invalid', `The file is no CSV table${lines ? `, line ${lines}` : ''}: ${message}`)
  }
}

/** The delimiter of the first line, and the content with what was read of it. */
async function withDelimiter(
  content: AsyncIterable<Buffer>,
): Promise<{ delimiter: string; rest: AsyncIterable<Buffer> }> {
  const iterator = content[Symbol.asyncIterator]()
  const first = await iterator.next()
  const start = first.done ? Buffer.alloc(0) : first.value
  const [head = ''] = start.toString('utf8').split('\n')
  const counts = [',', ';', '\t'].map((delimiter) => ({ delimiter, count: head.split(delimiter).length }))
  const { delimiter } = counts.sort((a, b) => b.count - a.count)[0]!
  const rest = async function* (): AsyncGenerator<Buffer> {
    yield start
    for (let next = await iterator.next(); !next.done; next = await iterator.next()) yield next.value
  }
  return { delimiter, rest: rest() }
}

/** A workbook with one sheet. All of it is in memory: a sheet is one file in a packed one. */
export async function writeXlsx(file: OutgoingFile, entries: AsyncIterable<OutgoingEntry>): Promise<Buffer> {
  const { default: writeXlsxFile } = await import('write-excel-file/node')
  const rows: string[][] = []
  for await (const entry of entries) rows.push(...rowsOf(entry))
  const heads = headsOf(file)
  const widths = [24, 20, 24, 30, 12, 8, 60, 60, 40, 14]
  return writeXlsxFile(
    [
      heads.map((value) => ({ value, fontWeight: 'bold' as const })),
      ...rows.map((row) => row.map((value) => ({ value, type: String, wrap: true }))),
    ],
    { columns: widths.map((width) => ({ width })), sheet: `${file.source} to ${file.target}`, stickyRowsCount: 1 },
  ).toBuffer()
}

/** Reads the first sheet of a workbook. */
export async function* readXlsx(
  content: AsyncIterable<Buffer>,
  onHead: (head: ReturnedHead) => void,
): AsyncGenerator<ReturnedEntry> {
  const { rows } = await sheetRows(await workbookOf(content, 'Use XLIFF or CSV.'))
  const texts = async function* () {
    for (const row of rows)
      yield await Promise.resolve(row.map((cell) => (cell === null || cell === undefined ? '' : String(cell))))
  }
  yield* readRows(texts(), onHead)
}
