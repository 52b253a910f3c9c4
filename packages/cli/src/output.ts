import Table from 'cli-table3'

/** Prints what a command has to say: for people as text, or with `--json` as one JSON document. */
export interface Output {
  readonly json: boolean
}

export function printJson(value: unknown): void {
  process.stdout.write(JSON.stringify(value, null, 2) + '\n')
}

/** A plain table without lines: the header in capitals, one row a thing. */
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
  const table = new Table({
    head: header.map((name) => name.toUpperCase()),
    chars: none,
    style: { 'padding-left': 0, 'padding-right': 0, head: [], border: [] },
  })
  table.push(...rows.map((row) => row.map((cell) => (cell === null || cell === undefined ? '' : String(cell)))))
  // What stands at the end of a line is nothing that anybody asked for.
  process.stdout.write(
    table
      .toString()
      .split('\n')
      .map((line) => line.trimEnd())
      .join('\n') + '\n',
  )
}

export const print = (text: string): void => void process.stdout.write(text + '\n')

/** The foot of a page of entries: how many there are, and how to get the next. */
export function printFoot({ entries, count, next }: PageFoot): void {
  const total = count ?? entries.length
  const shown = total === entries.length ? `${total}` : `${entries.length} of ${total}`
  const more = next ? `${count === undefined ? ', and more' : ''}. Next page: --after ${next}` : '.'
  print(`\n${shown} ${total === 1 ? 'entry' : 'entries'}${more}`)
}

interface PageFoot {
  readonly entries: readonly unknown[]
  /** Of all pages; undefined where nobody asked. */
  readonly count?: number | undefined
  readonly next?: string | null | undefined
}

/** Progress and remarks, apart from what a program would read. */
export const say = (text: string): void => void process.stderr.write(text + '\n')

/** One line of progress that renews itself on a terminal; elsewhere every tenth is printed. */
export function progress(done: number, of: number, what: string): void {
  if (process.stderr.isTTY) process.stderr.write(`\r\x1b[2K  ${done} of ${of}: ${what}${done === of ? '\n' : ''}`)
  else if (done % 10 === 0 || done === of) say(`  ${done} of ${of}`)
}

/** A time as people say it: in a time zone, or in that of this machine. */
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
