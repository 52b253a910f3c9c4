import { exportColumns, printValues, textOfValue, valueAt, WisteriaError, editFacts } from '@wisteria/core'
import { idsOf, workingCopiesOf, type Site } from '@wisteria/store'
import { stringify } from 'csv-stringify/sync'
import type { Kernel } from '../kernel/kernel.js'
import type { Answer } from '../kernel/route.js'
import { planList, requireType } from '../read/listQuery.js'
import { byteOrderMark, csvOptions, guard } from '../tables/spreadsheets.js'

export const exportFormats = ['csv', 'xlsx', 'jsonLines'] as const
export type ExportFormat = (typeof exportFormats)[number]

/** The most entries of an export; and of a workbook, which is packed as a whole. */
const maxEntries = 100_000
const maxInWorkbook = 20_000
/** How many entries are read at once. */
const batch = 100

/** What is exported: the working copies of a type that a list would show. */
export interface EntryExport {
  readonly type: string
  readonly format: ExportFormat
  readonly columns?: readonly string[] | undefined
  readonly where?: string | undefined
  readonly search?: string | undefined
  readonly locale?: string | undefined
}

/** Working copies as a table, written while it is sent. An import reads it back. */
export async function exportEntries(kernel: Kernel, site: Site, order: EntryExport): Promise<Answer> {
  const type = requireType(site, order.type)
  const columns = exportColumns(order.columns, type, site.model, site.settings)
  const { where, search, locale, format } = order
  const plan = planList(kernel, site, type, 'draft', { where, search, locale, facts: editFacts })
  const ids = await idsOf(kernel.database, plan.query, maxEntries + 1)
  const most = format === 'xlsx' ? maxInWorkbook : maxEntries
  if (ids.length > most)
    throw new WisteriaError(
      'tooLarge',
      `These are more than ${most} entries. Narrow them by a condition${format === 'xlsx' ? ', or take CSV' : ''}.`,
    )
  async function* rows(gone?: AbortSignal): AsyncGenerator<readonly unknown[]> {
    for (let from = 0; from < ids.length && !gone?.aborted; from += batch) {
      const some = ids.slice(from, from + batch)
      const copies = await workingCopiesOf(kernel.database, site, some)
      for (const id of some) {
        const copy = copies.get(id)
        if (!copy) continue
        const values = printValues(site.model, type, copy.document)
        yield columns.map((column) => valueAt(column, id, values))
      }
    }
  }
  const heads = columns.map(({ to }) => to)
  const texts = (row: readonly unknown[]): string[] => row.map((value, index) => textOfValue(columns[index]!, value))
  const file = `${site.name}-${type.name}.${format === 'jsonLines' ? 'jsonl' : format}`
  const headers = (mediaType: string) => ({
    'Content-Type': mediaType,
    'Content-Disposition': `attachment; filename="${file}"`,
    'Entry-Count': String(ids.length),
  })
  switch (format) {
    case 'csv': {
      const line = (cells: readonly string[]): string => stringify([cells.map(guard)], csvOptions)
      return {
        headers: headers('text/csv; charset=utf-8'),
        stream: async function* (gone) {
          yield byteOrderMark + line(heads)
          for await (const row of rows(gone)) yield line(texts(row))
        },
      }
    }
    case 'jsonLines':
      return {
        headers: headers('application/jsonl; charset=utf-8'),
        stream: async function* (gone) {
          for await (const row of rows(gone))
            yield `${JSON.stringify(Object.fromEntries(heads.map((head, index) => [head, row[index]])))}\n`
        },
      }
    case 'xlsx': {
      const { default: writeXlsxFile } = await import('write-excel-file/node')
      const cells = []
      for await (const row of rows())
        cells.push(
          row.map((value, index) =>
            typeof value === 'number'
              ? { value, type: Number }
              : typeof value === 'boolean'
                ? { value, type: Boolean }
                : { value: texts(row)[index]!, type: String },
          ),
        )
      const head = heads.map((value) => ({ value, fontWeight: 'bold' as const }))
      return {
        headers: headers('application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'),
        text: await writeXlsxFile([head, ...cells], { sheet: type.name, stickyRowsCount: 1 }).toBuffer(),
      }
    }
  }
}
