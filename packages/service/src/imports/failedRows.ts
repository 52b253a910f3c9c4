import type { RowProblem } from '@wisteria/core'
import { importRowsFrom, type EntryImport, type EntryImportRow } from '@wisteria/store'
import { stringify } from 'csv-stringify/sync'
import type { Kernel } from '../kernel/kernel.js'
import type { Answer } from '../kernel/route.js'
import { byteOrderMark, csvOptions, guard } from '../tables/spreadsheets.js'
import type { TableSource } from './reading.js'

/** The head of the column with the reasons. A mapping leaves it out, unless it is told to take it. */
export const reasonHead = 'import problem'

const batch = 200

const said = (problems: readonly RowProblem[]): string =>
  problems.map(({ column, message }) => (column === null ? message : `${column}: ${message}`)).join(' ')

/** The rows of an import that failed, as JSON Lines or CSV. */
export function failedRows(kernel: Kernel, { id, name, source, heads }: EntryImport): Answer {
  const { format, delimiter = ',' } = source as TableSource
  const isJson = format === 'json' || format === 'jsonLines'
  const columns = heads.filter((head) => head !== reasonHead)
  const indexes = columns.map((head) => heads.indexOf(head))
  const csv = (cells: readonly string[]): string => stringify([cells.map(guard)], { ...csvOptions, delimiter })
  const textOf = (cell: unknown): string =>
    cell === null || cell === undefined ? '' : typeof cell === 'object' ? JSON.stringify(cell) : String(cell)
  const write = ({ cells, problems }: EntryImportRow): string =>
    isJson
      ? `${JSON.stringify({ ...Object.fromEntries(columns.flatMap((head, at) => (cells[indexes[at]!] === null ? [] : [[head, cells[indexes[at]!]]]))), [reasonHead]: said(problems) })}\n`
      : csv([...indexes.map((index) => textOf(cells[index])), said(problems)])
  async function* lines(): AsyncGenerator<string> {
    if (!isJson) yield byteOrderMark + csv([...columns, reasonHead])
    for (let position = 0; ;) {
      const rows = await importRowsFrom(kernel.database, id, position, batch, 'failed')
      for (const row of rows) yield write(row)
      if (rows.length < batch) return
      position = rows.at(-1)!.position + 1
    }
  }
  const file = `${name.replace(/\.[a-z]+$/i, '')} to mend.${isJson ? 'jsonl' : 'csv'}`
  return {
    stream: lines,
    headers: {
      'Content-Type': isJson ? 'application/jsonl; charset=utf-8' : 'text/csv; charset=utf-8',
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(file)}`,
    },
  }
}
