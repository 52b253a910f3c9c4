import { isRecord } from '../documents/document.js'
import { kindOf, shapeOf, type Field } from '../model/model.js'
import type { Member, Shape } from '../fields/shape.js'
import { fold } from '../text/fold.js'
import { didYouMean } from '../text/nearest.js'
import { isDate, withOffset } from '../text/time.js'
import type { ImportMapping } from './mapping.js'

/** What a cell holds: text of a CSV file, or a typed value of a workbook or of JSON. */
export type Cell = unknown

/** How numbers and dates are written. */
export type Formats = Pick<ImportMapping, 'dates' | 'decimal'> & { readonly timeZone: string }

/** The value of a cell, or what is wrong with it. */
export type CellReading = { readonly value: unknown } | { readonly problem: string }

const yes = new Set(['true', 'yes', 'y', '1', 'x', 'on', 'ja', 'j', 'نعم'])
const no = new Set(['false', 'no', 'n', '0', 'off', 'nee', 'لا'])

/** Whether a cell says nothing. */
export const isEmptyCell = (cell: Cell): boolean =>
  cell === null || cell === undefined || (typeof cell === 'string' && cell.trim() === '')

/** Reads one cell as one value of a field: of a field with several values, one of them. References and files are not read here. */
export function readCell(field: Field, cell: Cell, formats: Formats, member?: string): CellReading {
  const shape = shapeOf(field)
  if (member !== undefined && shape.is === 'object')
    return readShape(field, (shape.members[member] as Member).shape, cell, formats)
  return readShape(field, shape, cell, formats)
}

function readShape(field: Field, shape: Shape, cell: Cell, formats: Formats): CellReading {
  // What a cell of JSON holds is a value already, but for numbers and the like where a text is wanted.
  if (typeof cell === 'object' && cell !== null) return { value: cell }
  const text = String(cell).trim()
  switch (shape.is) {
    case 'scalar':
      return readScalar(field, shape.scalar, cell, text, formats)
    case 'choice':
      return readChoice(shape.options, text)
    case 'object':
      return field.kind === 'location' ? readLocation(text) : readJson(text)
    case 'richText':
      return { value: { markdown: text } }
    case 'json':
      return typeof cell === 'string' ? readJson(text) : { value: cell }
    case 'blocks':
    case 'group':
      return readJson(text)
    case 'reference':
    case 'asset':
      return { value: text }
  }
}

function readScalar(field: Field, scalar: string, cell: Cell, text: string, formats: Formats): CellReading {
  switch (scalar) {
    case 'number':
    case 'integer':
    case 'long':
      return typeof cell === 'number' ? { value: cell } : readNumber(text, formats.decimal)
    case 'boolean': {
      if (typeof cell === 'boolean') return { value: cell }
      const said = fold(text)
      return yes.has(said)
        ? { value: true }
        : no.has(said)
          ? { value: false }
          : { problem: `\`${short(text)}\` is neither yes nor no.` }
    }
    case 'date':
      return readDate(text, formats)
    case 'dateTime':
      return readDateTime(text, formats)
    default:
      if (field.kind === 'timeSpan') return { value: readSpan(text) }
      return { value: kindOf(field).name === 'longText' ? String(cell).trimEnd() : text }
  }
}

/** A number with a decimal sign, and groups of three parted by the other sign, a space or an apostrophe. */
function readNumber(text: string, decimal: ',' | '.'): CellReading {
  const grouped =
    decimal === ','
      ? /^[+-]?\d{1,3}([.\s\u00A0\u202F'’]\d{3})+(,\d+)?$/
      : /^[+-]?\d{1,3}([,\s\u00A0\u202F'’]\d{3})+(\.\d+)?$/
  const plain = decimal === ',' ? /^[+-]?(\d+(,\d*)?|,\d+)(e[+-]?\d+)?$/i : /^[+-]?(\d+(\.\d*)?|\.\d+)(e[+-]?\d+)?$/i
  const signs = text.replace(/^[−–]/, '-')
  if (!plain.test(signs) && !grouped.test(signs)) {
    const other = decimal === ',' ? '.' : ','
    const isOther = /^[+-]?\d+[.,]\d+$/.test(signs) && signs.includes(other)
    return {
      problem: `\`${short(text)}\` is no number${isOther ? `: the decimal sign is \`${decimal}\`, and here it is \`${other}\`` : ''}.`,
    }
  }
  const digits = signs.replace(decimal === ',' ? /[.\s\u00A0\u202F'’]/g : /[,\s\u00A0\u202F'’]/g, '')
  return { value: Number(digits.replace(',', '.')) }
}

function readDate(text: string, { dates }: Formats): CellReading {
  if (isDate(text)) return { value: text }
  const iso = /^(\d{4}-\d{2}-\d{2})T00:00(:00(\.0+)?)?Z?$/.exec(text)
  if (iso) return { value: iso[1] }
  const parts = /^(\d{1,4})[-./](\d{1,2})[-./](\d{1,4})$/.exec(text)
  if (parts) {
    const [, a, b, c] = parts
    const [year, month, day] = dates === 'dmy' ? [c, b, a] : dates === 'mdy' ? [c, a, b] : [a, b, c]
    const value = `${year}-${month!.padStart(2, '0')}-${day!.padStart(2, '0')}`
    if (year!.length === 4 && isDate(value)) return { value }
  }
  const order = { dmy: 'day, month, year', mdy: 'month, day, year', ymd: 'year, month, day' }[dates]
  return { problem: `\`${short(text)}\` is no day. Write 2031-05-04, or ${order} with four digits of the year.` }
}

function readDateTime(text: string, formats: Formats): CellReading {
  if (/^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(:\d{2}(\.\d+)?)?(Z|[+-]\d{2}:\d{2})$/.test(text)) return { value: text }
  const [day = '', time = '00:00'] = text.split(/[T\s]+/)
  const read = readDate(day, formats)
  const clock = /^(\d{1,2})[:.](\d{2})([:.](\d{2})(\.\d+)?)?$/.exec(time)
  if ('problem' in read || !clock || Number(clock[1]) > 23 || Number(clock[2]) > 59)
    return {
      problem: `\`${short(text)}\` is no day with a time. Write 2031-05-04 20:30, or 2031-05-04T20:30:00+02:00.`,
    }
  const local = `${read.value as string}T${clock[1]!.padStart(2, '0')}:${clock[2]!}:${clock[4] ?? '00'}`
  return { value: withOffset(local, formats.timeZone) }
}

/** Hours and minutes as an ISO duration; anything else as it is. */
function readSpan(text: string): string {
  const clock = /^(\d{1,3}):(\d{2})$/.exec(text)
  return clock ? `PT${Number(clock[1])}H${Number(clock[2])}M` : text
}

function readChoice(
  options: readonly {
    readonly value: string
    readonly label: string
    readonly labels?: Readonly<Record<string, string>>
  }[],
  text: string,
): CellReading {
  const said = fold(text)
  const option =
    options.find(({ value }) => value === text) ??
    options.find(({ value, label, labels }) =>
      [value, label, ...Object.values(labels ?? {})].some((name) => fold(name) === said),
    )
  if (option) return { value: option.value }
  const values = options.map(({ value }) => value)
  return {
    problem: `\`${short(text)}\` is not one of ${values.slice(0, 12).join(', ')}${values.length > 12 ? ', …' : ''}.${didYouMean(text, values)}`,
  }
}

function readLocation(text: string): CellReading {
  const parts = text.includes(';') ? text.split(';').map((part) => part.replace(',', '.')) : text.split(',')
  const [latitude, longitude] = parts.map((part) => (part.trim() === '' ? Number.NaN : Number(part)))
  return parts.length === 2 && Number.isFinite(latitude) && Number.isFinite(longitude)
    ? { value: { latitude, longitude } }
    : { problem: `\`${short(text)}\` is no place. Write latitude and longitude in degrees: 52.912, 4.868.` }
}

function readJson(text: string): CellReading {
  try {
    const value: unknown = JSON.parse(text)
    if (isRecord(value) || Array.isArray(value)) return { value }
  } catch {
    // It is told below.
  }
  return { problem: `\`${short(text)}\` is no JSON.` }
}

export const short = (text: string): string => (text.length > 60 ? `${text.slice(0, 60)}…` : text)
