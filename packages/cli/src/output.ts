import Table from 'cli-table3'
import stringWidth from 'string-width'
import wrapAnsi from 'wrap-ansi'

/** Prints the result of a command: for people as text, or with `--json` as one JSON document. */
export interface Output {
  readonly json: boolean
}

export function printJson(value: unknown): void {
  process.stdout.write(JSON.stringify(value, null, 2) + '\n')
}

/** Spaces between two columns. */
const gap = 2
/** No column gets narrower, however narrow the terminal is. */
const narrowest = 8

/**
 * Widths of columns that fit together: the widest are reduced first. Undefined where they fit as they are.
 * @param natural the width that each column needs, in characters.
 */
export function fittingWidths(natural: readonly number[], available: number): number[] | undefined {
  const widths = [...natural]
  let over = widths.reduce((sum, width) => sum + width, 0) + gap * (widths.length - 1) - available
  if (over <= 0) return undefined
  for (; over > 0; over--) {
    const widest = widths.indexOf(Math.max(...widths))
    if (widths[widest]! <= narrowest) break
    widths[widest]!--
  }
  return widths
}

/**
 * A plain table without lines: the header in capitals, one row for each item. On a terminal it fits the width: cells wrap, and
 * nothing is cut. Into a file or a pipe each row is one line.
 */
export function printTable(
  header: readonly string[],
  rows: readonly (readonly (string | number | null | undefined)[])[],
): void {
  const none = {
    top: '',
    'top-mid': '',
    'top-left': '',
    'top-right': '',
    bottom: '',
    'bottom-mid': '',
    'bottom-left': '',
    'bottom-right': '',
    left: '',
    'left-mid': '',
    mid: '',
    'mid-mid': '',
    right: '',
    'right-mid': '',
    middle: '  ',
  }
  const cells = rows.map((row) => row.map((cell) => (cell === null || cell === undefined ? '' : String(cell))))
  const natural = header.map((name, column) =>
    Math.max(name.length, ...cells.map((row) => stringWidth(row[column] ?? ''))),
  )
  const widths = process.stdout.isTTY ? fittingWidths(natural, process.stdout.columns) : undefined
  const wrapped = (cell: string, column: number) => (widths ? wrapAnsi(cell, widths[column]!, { hard: true }) : cell)
  const table = new Table({
    head: header.map((name, column) => wrapped(name.toUpperCase(), column)),
    chars: none,
    style: { 'padding-left': 0, 'padding-right': 0, head: [], border: [] },
  })
  table.push(...cells.map((row) => row.map(wrapped)))
  // Spaces at the end of a line are only padding.
  process.stdout.write(
    table
      .toString()
      .split('\n')
      .map((line) => line.trimEnd())
      .join('\n') + '\n',
  )
}

export const print = (text: string): void => void process.stdout.write(text + '\n')

/** The foot of a page of entries: how many there are, and how to get the next page. */
export function printFoot({ entries, count, next }: PageFoot): void {
  const total = count ?? entries.length
  const shown = total === entries.length ? `${total}` : `${entries.length} of ${total}`
  const more = next ? `${count === undefined ? ', and more' : ''}. Next page: --after ${next}` : '.'
  print(`\n${shown} ${total === 1 ? 'entry' : 'entries'}${more}`)
}

interface PageFoot {
  readonly entries: readonly unknown[]
  /** Of all pages; undefined where it was not counted. */
  readonly count?: number | undefined
  readonly next?: string | null | undefined
}

/** Progress and remarks, on standard error. */
export const say = (text: string): void => void process.stderr.write(text + '\n')

/** One line of progress that is overwritten on a terminal; elsewhere every tenth is printed. */
export function progress(done: number, of: number, what: string): void {
  if (process.stderr.isTTY) process.stderr.write(`\r\x1b[2K  ${done} of ${of}: ${what}${done === of ? '\n' : ''}`)
  else if (done % 10 === 0 || done === of) say(`  ${done} of ${of}`)
}

/** A time for people: in a time zone, or in that of this machine. */
export const when = (instant: string | null | undefined, timeZone?: string): string =>
  instant
    ? new Intl.DateTimeFormat('en-GB', {
        day: 'numeric',
        month: 'short',
        year: 'numeric',
        hour: '2-digit',
        minute: '2-digit',
        timeZone,
      }).format(new Date(instant))
    : ''
