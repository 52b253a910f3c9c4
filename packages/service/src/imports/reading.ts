import { createReadStream } from 'node:fs'
import { open } from 'node:fs/promises'
import { Readable } from 'node:stream'
import { isRecord, WisteriaError } from '@wisteria/core'
import { parse } from 'csv-parse'
import { parse as parseAll } from 'csv-parse/sync'
import { sheetRows, unguarded, workbookOf } from '../tables/spreadsheets.js'

export const tableFormats = ['csv', 'xlsx', 'jsonLines', 'json'] as const
export type TableFormat = (typeof tableFormats)[number]

/** How a file was read. */
export interface TableSource {
  readonly format: TableFormat
  /** Of a text. */
  readonly encoding?: string
  /** Of CSV. */
  readonly delimiter?: string
  /** Of a workbook: the sheet that was read, and all there are. */
  readonly sheet?: string
  readonly sheets?: readonly string[]
}

/** What is said about a file; the rest is guessed. */
export type TableOptions = {
  readonly [Name in 'encoding' | 'delimiter' | 'sheet']?: string | undefined
} & { readonly format?: TableFormat | undefined }

export interface TableRow {
  /** Its line in the file; its number in an array. Counts from 1. */
  readonly line: number
  readonly cells: readonly unknown[]
}

/** A file with a table, read row by row. */
export interface OpenTable {
  readonly source: TableSource
  /** Of JSON they are complete once all rows are read. */
  readonly heads: readonly string[]
  readonly rows: AsyncIterable<TableRow>
}

/** The most columns of a table, and characters of one of its rows. */
const maxColumns = 500
const maxRowText = 4_000_000
/** The most bytes of a JSON array: all of it is in memory. */
const maxArray = 20_000_000
/** So much of a file is looked at to guess how it is read. */
const sampleBytes = 64_000

const invalid = (message: string): WisteriaError => new WisteriaError('invalid', message)

/**
 * Opens a file with a table: CSV, XLSX, JSON Lines or a JSON array.
 * @throws WisteriaError `invalid` in a sentence, with the line.
 */
export async function openTable(path: string, options: TableOptions): Promise<OpenTable> {
  const start = await beginningOf(path)
  if (start.length === 0) throw invalid('The file is empty.')
  const format = options.format ?? formatOf(start)
  if (format === 'xlsx') return openWorkbook(path, options.sheet)
  const encoding = requireEncoding(options.encoding) ?? (await guessEncoding(path, start))
  if (format === 'json') return openArray(path, encoding)
  const lines = textOf(path, encoding)
  return format === 'jsonLines' ? openLines(lines, encoding) : openCsv(lines, encoding, start, options.delimiter)
}

async function beginningOf(path: string): Promise<Buffer> {
  const file = await open(path)
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(sampleBytes), 0, sampleBytes, 0)
    return buffer.subarray(0, bytesRead)
  } finally {
    await file.close()
  }
}

function formatOf(start: Buffer): TableFormat {
  if (start[0] === 0x50 && start[1] === 0x4b) return 'xlsx'
  const first = start.toString('latin1').replace(/^ï»¿/, '').trimStart()[0]
  return first === '[' ? 'json' : first === '{' ? 'jsonLines' : 'csv'
}

function requireEncoding(said: string | undefined): string | undefined {
  if (said === undefined) return undefined
  try {
    return new TextDecoder(said).encoding
  } catch {
    throw invalid(
      `\`${said.slice(0, 40)}\` is no encoding that is known. Usual ones are utf-8, windows-1252 and utf-16le.`,
    )
  }
}

/** UTF-8 where all of the file is; what spreadsheets of Western Europe write, otherwise. */
async function guessEncoding(path: string, start: Buffer): Promise<string> {
  if (start[0] === 0xff && start[1] === 0xfe) return 'utf-16le'
  if (start[0] === 0xfe && start[1] === 0xff) return 'utf-16be'
  const decoder = new TextDecoder('utf-8', { fatal: true })
  try {
    for await (const chunk of createReadStream(path)) decoder.decode(chunk as Buffer, { stream: true })
    decoder.decode()
    return 'utf-8'
  } catch {
    return 'windows-1252'
  }
}

/** The text of a file, without a byte order mark. */
async function* textOf(path: string, encoding: string): AsyncGenerator<string> {
  const decoder = new TextDecoder(encoding)
  for await (const chunk of createReadStream(path)) {
    const text = decoder.decode(chunk as Buffer, { stream: true })
    if (text !== '') yield text
  }
  const rest = decoder.decode()
  if (rest !== '') yield rest
}

/** Heads that are all there and all different: later ones of the same name get a number. */
function headsFrom(cells: readonly unknown[]): string[] {
  const named = cells.map((cell) => (cell === null || cell === undefined ? '' : String(cell)).trim())
  while (named.at(-1) === '') named.pop()
  if (named.length === 0) throw invalid('The first row has no heads.')
  if (named.length > maxColumns)
    throw invalid(`A table has at most ${maxColumns} columns. This one has ${named.length}.`)
  const seen = new Map<string, number>()
  return named.map((name, index) => {
    const head = name === '' ? `column ${index + 1}` : name.slice(0, 500)
    const before = seen.get(head) ?? 0
    seen.set(head, before + 1)
    return before === 0 ? head : `${head} (${before + 1})`
  })
}

const isBlank = (cells: readonly unknown[]): boolean =>
  cells.every((cell) => cell === null || cell === undefined || (typeof cell === 'string' && cell.trim() === ''))

async function openCsv(
  text: AsyncIterable<string>,
  encoding: string,
  start: Buffer,
  said: string | undefined,
): Promise<OpenTable> {
  const delimiter = said ?? guessDelimiter(new TextDecoder(encoding).decode(start))
  const parser = Readable.from(text).pipe(
    parse({ delimiter, relax_column_count: true, max_record_size: maxRowText, info: true }),
  )
  const records = (parser as AsyncIterable<{ info: { lines: number }; record: string[] }>)[Symbol.asyncIterator]()
  const next = async (): Promise<{ readonly line: number; readonly cells: string[] } | undefined> => {
    try {
      const read = await records.next()
      if (read.done) return undefined
      return { line: read.value.info.lines, cells: read.value.record.map(unguarded) }
    } catch (error) {
      const { message, lines } = error as Error & { lines?: number }
      throw invalid(`The file is no CSV table${lines ? `, line ${lines}` : ''}: ${message}`)
    }
  }
  const first = await next()
  if (!first) throw invalid('The file is empty.')
  const heads = headsFrom(first.cells)
  const rows = async function* (): AsyncGenerator<TableRow> {
    for (let row = await next(); row; row = await next()) if (!isBlank(row.cells)) yield row
  }
  return { source: { format: 'csv', encoding, delimiter }, heads, rows: rows() }
}

/** The delimiter by which the first records have the same number of columns, and most. */
function guessDelimiter(sample: string): string {
  const whole = sample.slice(0, sample.lastIndexOf('\n') + 1) || sample
  const scored = [',', ';', '\t', '|'].map((delimiter) => {
    let records: string[][] = []
    try {
      records = parseAll(whole, { delimiter, relax_column_count: true, relax_quotes: true, to: 20 })
    } catch {
      // It is none that the sample can be parsed with.
    }
    const columns = records[0]?.length ?? 0
    const same = records.filter((record) => record.length === columns).length
    return { delimiter, score: columns < 2 ? 0 : (same / records.length) * 1000 + columns }
  })
  return scored.sort((a, b) => b.score - a.score)[0]!.delimiter
}

async function openWorkbook(path: string, wanted: string | undefined): Promise<OpenTable> {
  const packed = await workbookOf(createReadStream(path) as AsyncIterable<Buffer>, 'Save it as CSV.')
  const { sheets, sheet, rows: all } = await sheetRows(packed, wanted)
  if (all.length === 0) throw invalid(`The sheet “${sheet}” is empty.`)
  const heads = headsFrom(all[0]!)
  const rows = async function* (): AsyncGenerator<TableRow> {
    for (const [index, cells] of all.entries())
      if (index > 0 && !isBlank(cells)) yield await Promise.resolve({ line: index + 1, cells: cells.map(ofWorkbook) })
  }
  return { source: { format: 'xlsx', sheet, sheets }, heads, rows: rows() }
}

/** A workbook's times have no zone: they are written as they stand in the cell. */
function ofWorkbook(cell: unknown): unknown {
  if (!(cell instanceof Date)) return cell
  const text = cell.toISOString().slice(0, 19)
  return text.endsWith('T00:00:00') ? text.slice(0, 10) : text.replace('T', ' ')
}

/** The cells of objects: their members become columns, in the order in which they appear. */
class Columns {
  readonly heads: string[] = []
  readonly #index = new Map<string, number>()

  cellsOf(record: Readonly<Record<string, unknown>>): unknown[] {
    const cells: unknown[] = []
    for (const [name, value] of Object.entries(record)) {
      let index = this.#index.get(name)
      if (index === undefined) {
        index = this.heads.push(name) - 1
        this.#index.set(name, index)
        if (this.heads.length > maxColumns) throw invalid(`The objects have more than ${maxColumns} different members.`)
      }
      cells[index] = value
    }
    return Array.from(cells, (cell) => cell ?? null)
  }
}

function openLines(text: AsyncIterable<string>, encoding: string): OpenTable {
  const columns = new Columns()
  const rows = async function* (): AsyncGenerator<TableRow> {
    let rest = ''
    let line = 0
    const read = (written: string): TableRow | undefined => {
      line++
      if (written.trim() === '') return undefined
      return { line, cells: columns.cellsOf(objectIn(written, `Line ${line}`)) }
    }
    for await (const chunk of text) {
      const lines = (rest + chunk).split('\n')
      rest = lines.pop()!
      if (rest.length > maxRowText)
        throw invalid(`Line ${line + 1} is too long: it has more than ${maxRowText} characters.`)
      for (const written of lines) {
        const row = read(written)
        if (row) yield row
      }
    }
    const last = read(rest)
    if (last) yield last
  }
  return { source: { format: 'jsonLines', encoding }, heads: columns.heads, rows: rows() }
}

function objectIn(text: string, where: string): Record<string, unknown> {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch (error) {
    throw invalid(`${where} is no JSON: ${(error as Error).message}`)
  }
  if (!isRecord(value)) throw invalid(`${where} is no JSON object.`)
  return value
}

async function openArray(path: string, encoding: string): Promise<OpenTable> {
  let text = ''
  for await (const chunk of textOf(path, encoding)) {
    text += chunk
    if (text.length > maxArray)
      throw new WisteriaError('tooLarge', `A JSON array may have ${maxArray / 1e6} MB. Send one object a line instead.`)
  }
  let all: unknown
  try {
    all = JSON.parse(text)
  } catch (error) {
    throw invalid(`The file is no JSON: ${(error as Error).message}`)
  }
  if (!Array.isArray(all)) throw invalid('The file is no JSON array.')
  const columns = new Columns()
  const items = all as unknown[]
  const rows = async function* (): AsyncGenerator<TableRow> {
    for (const [index, item] of items.entries()) {
      if (!isRecord(item)) throw invalid(`Element ${index + 1} is no JSON object.`)
      yield await Promise.resolve({ line: index + 1, cells: columns.cellsOf(item) })
    }
  }
  return { source: { format: 'json', encoding }, heads: columns.heads, rows: rows() }
}
