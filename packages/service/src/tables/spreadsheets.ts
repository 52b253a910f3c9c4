import { WisteriaError } from '@wisteria/core'
import type { unzipSync } from 'fflate'

/*
 * What every table that spreadsheets write or read has to do with.
 */

/** The most bytes of a workbook, as it is and unpacked: all of it is in memory. */
const maxWorkbook = 20_000_000
const maxUnpacked = 200_000_000

/** Texts that a spreadsheet would take for a formula get an apostrophe in front, which spreadsheets do not show. */
export const csvOptions = { escape_formulas: true, record_delimiter: '\r\n' } as const
const guarded = /^'+[=+\-@\t\r]/
/** One apostrophe is taken off again, so a text that has one of its own gets another. */
export const guard = (cell: string): string => (guarded.test(cell) ? `'${cell}` : cell)
/** A text without the apostrophe that `guard` or a spreadsheet put in front. */
export const unguarded = (cell: string): string => (guarded.test(cell) ? cell.slice(1) : cell)

/** A CSV file begins with it, by which spreadsheets know that it is UTF-8. */
export const byteOrderMark = '\uFEFF'

/**
 * The bytes of a workbook.
 * @throws WisteriaError `tooLarge` for one that is, or that would be when unpacked; `invalid` for what is none.
 */
export async function workbookOf(content: AsyncIterable<Buffer>, instead: string): Promise<Buffer> {
  const chunks: Buffer[] = []
  let size = 0
  for await (const chunk of content) {
    chunks.push(chunk)
    size += chunk.length
    if (size > maxWorkbook)
      throw new WisteriaError('tooLarge', `A workbook may have ${maxWorkbook / 1e6} MB. ${instead}`)
  }
  const packed = Buffer.concat(chunks)
  requireSmall(packed, (await import('fflate')).unzipSync)
  return packed
}

function requireSmall(packed: Buffer, unzip: typeof unzipSync): void {
  let total = 0
  try {
    unzip(packed, {
      filter: ({ originalSize }) => {
        total += originalSize
        return false
      },
    })
  } catch {
    throw new WisteriaError('invalid', 'The file is no XLSX workbook: it cannot be unpacked.')
  }
  if (total > maxUnpacked)
    throw new WisteriaError('tooLarge', `Unpacked, the workbook has more than ${maxUnpacked / 1e6} MB.`)
}

/** The rows of one of its sheets. @param sheet by name; the first one, when left out. */
export async function sheetRows(
  packed: Buffer,
  sheet?: string,
): Promise<{
  readonly sheets: readonly string[]
  readonly sheet: string
  readonly rows: readonly (readonly unknown[])[]
}> {
  const { default: readSheets } = await import('read-excel-file/universal')
  let read: readonly { readonly sheet: string; readonly data: readonly (readonly unknown[])[] }[]
  try {
    const bytes = packed.buffer.slice(packed.byteOffset, packed.byteOffset + packed.length) as ArrayBuffer
    read = await readSheets(bytes, { trim: false })
  } catch (error) {
    throw new WisteriaError('invalid', `The file is no XLSX workbook: ${(error as Error).message}`)
  }
  const sheets = read.map((one) => one.sheet)
  const found = sheet === undefined ? read[0] : read.find((one) => one.sheet === sheet)
  if (!found)
    throw new WisteriaError(
      'invalid',
      sheet === undefined
        ? 'The workbook has no sheets.'
        : `The workbook has no sheet “${sheet}”. It has ${sheets.join(', ')}.`,
    )
  return { sheets, sheet: found.sheet, rows: found.data }
}
