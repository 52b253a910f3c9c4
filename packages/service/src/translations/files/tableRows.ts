import { codedFaultMessage, readCoded, WisteriaError, wordsOf, type SegmentText } from '@wisteria/core'
import type { OutgoingEntry, OutgoingFile, ReturnedEntry, ReturnedHead, ReturnedText } from './handedOut.js'
import { printHandedOut, readHandedOut } from './handedOut.js'
import { codedLine } from './xliffWriting.js'

/*
 * Tables for people without translation tools: a row for each text. Codes are written as `<1>…</1>` and `<2/>`, as in the console.
 */

/** The heads of the columns. Those of the texts name their locale. */
export const headsOf = ({ source, target }: OutgoingFile): string[] => [
  'entry',
  'unit',
  'title',
  'place',
  'state',
  'limit',
  `source (${source})`,
  `translation (${target})`,
  'note',
  'base',
]

/** The rows of an entry. */
export const rowsOf = (entry: OutgoingEntry): string[][] =>
  entry.units.map(({ unit, base }) => [
    printHandedOut(entry),
    unit.unit,
    entry.title,
    unit.labels.join(' › '),
    unit.state,
    unit.maxLength === null ? '' : String(unit.maxLength),
    codedLine(unit.source),
    codedLine(unit.translation),
    unit.sourceThen ? `The source was: ${codedLine(unit.sourceThen)}` : '',
    base,
  ])

const wrong = (line: number, message: string): WisteriaError =>
  new WisteriaError('invalid', `Row ${line}: ${message}`, { problems: [{ code: 'badFile', message, line }] })

/** The codes that a written text may have: all that look like one. */
const anyCode = (text: string): ReadonlySet<string> =>
  new Set([...text.matchAll(/<\/?([A-Za-z0-9._-]{1,32})\/?>/g)].map(([, code]) => code!))

function readCell(text: string, line: number, codes = anyCode(text)): SegmentText {
  const read = readCoded(text, codes)
  if ('fault' in read) throw wrong(line, codedFaultMessage(read.fault))
  return read.text
}

/** Reads rows that come back; those of an entry stand together. @throws WisteriaError `invalid` with the number of the row. */
export async function* readRows(
  rows: AsyncIterable<readonly string[]>,
  onHead: (head: ReturnedHead) => void,
): AsyncGenerator<ReturnedEntry> {
  let columns: Readonly<Record<'entry' | 'unit' | 'source' | 'translation' | 'base', number>> | undefined
  let open: (Omit<ReturnedEntry, 'texts'> & { texts: ReturnedText[]; units: Set<string> }) | undefined
  const seen = new Set<string>()
  let line = 0
  for await (const row of rows) {
    line++
    if (!columns) {
      columns = columnsIn(row, onHead)
      continue
    }
    const cell = (name: keyof NonNullable<typeof columns>): string => row[columns![name]] ?? ''
    if (row.every((value) => value.trim() === '')) continue
    const named = readHandedOut(cell('entry'))
    if (!named)
      throw wrong(
        line,
        `\`${cell('entry').slice(0, 60)}\` is no id in the column \`entry\`. Leave that column as it was exported.`,
      )
    const { entry } = named
    if (open?.entry !== entry) {
      if (open) yield closed(open)
      if (seen.has(entry)) throw wrong(line, `The rows of the entry \`${entry}\` must stand together.`)
      seen.add(entry)
      open = { ...named, line, texts: [], units: new Set() }
    }
    const unit = cell('unit').trim()
    if (open.units.has(unit)) throw wrong(line, `The text \`${unit.slice(0, 80)}\` is there twice.`)
    open.units.add(unit)
    const source = columns.source < 0 ? undefined : readCell(cell('source'), line)
    const translation = cell('translation')
    open.texts.push({
      unit,
      line,
      shown: source ? wordsOf(source) : '',
      source,
      base: columns.base < 0 ? undefined : cell('base').trim(),
      text: translation.trim() === '' ? undefined : readCell(translation, line),
      // A table has no state: a text that is as it was says nothing.
      isDone: false,
    })
  }
  if (!columns) throw wrong(1, 'The file is empty.')
  if (open) yield closed(open)
}

const closed = ({ entry, line, revision, version, texts }: ReturnedEntry): ReturnedEntry => ({
  entry,
  line,
  revision,
  version,
  texts,
})

function columnsIn(heads: readonly string[], onHead: (head: ReturnedHead) => void) {
  const find = (name: string): number =>
    heads.findIndex(
      (head) =>
        head
          .trim()
          .replace(/^\uFEFF/, '')
          .split(' ')[0] === name,
    )
  const columns = {
    entry: find('entry'),
    unit: find('unit'),
    source: find('source'),
    translation: find('translation'),
    base: find('base'),
  }
  for (const name of ['entry', 'unit', 'translation'] as const)
    if (columns[name] < 0)
      throw wrong(1, `There is no column \`${name}\`. The first row must have the heads as they were exported.`)
  const localeIn = (column: number): string | undefined => /\(([^)]+)\)/.exec(heads[column] ?? '')?.[1]
  onHead({ source: localeIn(columns.source), target: localeIn(columns.translation) })
  return columns
}
