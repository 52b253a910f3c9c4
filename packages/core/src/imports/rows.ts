import { idPattern } from '../base/ids.js'
import { isRecord } from '../documents/document.js'
import type { NamedValues } from '../documents/names.js'
import type { Fact } from '../fields/shape.js'
import { isList, kindOf, shapeOf, type Field } from '../model/model.js'
import { isEmptyCell, readCell, short, type Cell } from './cells.js'
import { fieldOf, holdsParts, type ReadyColumn, type ReadyMapping } from './mapping.js'

/** What is wrong with a cell, or with a row as a whole. */
export interface RowProblem {
  /** The head of its column; null for the row. */
  readonly column: string | null
  readonly message: string
}

/** The results of a row. */
export const rowOutcomes = ['created', 'updated', 'unchanged', 'left', 'failed'] as const
export type RowOutcome = (typeof rowOutcomes)[number]

/** A row that has been read: a merge patch of the values of an entry. */
export interface ReadRow {
  readonly patch: NamedValues
  readonly problems: readonly RowProblem[]
}

/** An entry or a file that a cell names. */
export interface Wanted {
  readonly is: 'entry' | 'asset'
  readonly column: ReadyColumn
  readonly text: string
}

/** What was found for what cells name: an id, or why there is none. */
export type Find = (wanted: Wanted) => { readonly id: string } | { readonly problem: string }

/** The value of a row in the column of the key; undefined where it has none. */
export function keyOf(mapping: ReadyMapping, cells: readonly Cell[]): Fact | undefined {
  const { key } = mapping
  if (!key) return undefined
  const cell = cells[key.index]
  if (isEmptyCell(cell)) return undefined
  const field = fieldOf(key)
  if (!field) return String(cell).trim()
  const read = readCell(field, cell, mapping)
  if ('problem' in read || kindOf(field).checkForm(read.value, field.options) !== undefined) return undefined
  return kindOf(field).fact(read.value)
}

/** The texts of a cell that name an entry or a file each. */
function namesIn(column: ReadyColumn, cell: Cell): string[] {
  const field = fieldOf(column)!
  const texts = Array.isArray(cell) ? cell : isList(field) ? partsOf(column, cell) : [cell]
  // An item of a list has an id of its own beside its value.
  return texts.map((text) => {
    const named: unknown = isRecord(text) ? (text['value'] ?? text['id']) : text
    return String(named).trim()
  })
}

const partsOf = ({ separator = '\n' }: ReadyColumn, cell: Cell): Cell[] =>
  typeof cell === 'string'
    ? cell
        .split(separator)
        .map((part) => part.trim())
        .filter((part) => part !== '')
    : [cell]

/** Whether a text that names a file is an address to fetch it from. */
export const isAddress = (text: string): boolean => /^https?:\/\/\S+$/i.test(text)

/** The entries and files that a row names, to be found before it is read. */
export const wantedIn = (mapping: ReadyMapping, cells: readonly Cell[]): Wanted[] =>
  mapping.columns.flatMap((column) => {
    const field = fieldOf(column)
    const shape = field && shapeOf(field)
    if (!field || isEmptyCell(cells[column.index]) || (shape?.is !== 'reference' && shape?.is !== 'asset')) return []
    const is = shape.is === 'asset' ? 'asset' : 'entry'
    return namesIn(column, cells[column.index]).map((text): Wanted => ({ is, column, text }))
  })

/**
 * Reads a row.
 * @param find says what was found for what its cells name.
 */
export function readRow(mapping: ReadyMapping, cells: readonly Cell[], find: Find): ReadRow {
  const patch: Record<string, unknown> = {}
  const problems: RowProblem[] = []
  for (const column of mapping.columns) {
    const field = fieldOf(column)
    if (!field) continue
    const cell = cells[column.index]
    if (isEmptyCell(cell)) {
      if (mapping.emptyClears) put(patch, mapping, column, field, null)
      continue
    }
    const value = valueOf(mapping, column, field, cell, find)
    if ('problem' in value) problems.push({ column: column.from, message: value.problem })
    else put(patch, mapping, column, field, value.value)
  }
  return { patch, problems }
}

function valueOf(
  mapping: ReadyMapping,
  column: ReadyColumn,
  field: Field,
  cell: Cell,
  find: Find,
): { readonly value: unknown } | { readonly problem: string } {
  const shape = shapeOf(field)
  if (shape.is === 'reference' || shape.is === 'asset') {
    const is = shape.is === 'asset' ? 'asset' : 'entry'
    const results = namesIn(column, cell).map((text) => find({ is, column, text }))
    const missing = results.find((result) => 'problem' in result)
    if (missing && 'problem' in missing) return missing
    const ids = results.flatMap((result) => ('id' in result ? [result.id] : []))
    return { value: isList(field) ? ids : ids[0] }
  }
  // A list of JSON, and a value by locale, are values already.
  if (Array.isArray(cell) || (isRecord(cell) && holdsTags(mapping, column, cell))) return { value: cell }
  if (!holdsParts(field)) return checked(field, readCell(field, cell, mapping, column.member), column.member)
  const values = partsOf(column, cell).map((part) => checked(field, readCell(field, part, mapping)))
  const wrong = values.find((value) => 'problem' in value)
  return wrong && 'problem' in wrong
    ? wrong
    : { value: values.flatMap((value) => ('value' in value ? [value.value] : [])) }
}

/** Whether a value of JSON says for which locales it is. */
const holdsTags = (mapping: ReadyMapping, column: ReadyColumn, cell: Readonly<Record<string, unknown>>): boolean =>
  column.locale === undefined &&
  column.fields.at(-1)!.localized &&
  Object.keys(cell).length > 0 &&
  Object.keys(cell).every((tag) => tag === mapping.defaultLocale || /^[a-z]{2,3}(-[A-Za-z0-9]+)*$/.test(tag))

/** A value of a cell, in a form that can be saved. */
function checked(
  field: Field,
  read: { readonly value: unknown } | { readonly problem: string },
  member?: string,
): { readonly value: unknown } | { readonly problem: string } {
  if ('problem' in read || member !== undefined || ['richText', 'blocks', 'group'].includes(shapeOf(field).is))
    return read
  const fault = kindOf(field).checkForm(read.value, field.options)
  return fault === undefined ? read : { problem: `\`${short(JSON.stringify(read.value))}\` ${fault}.` }
}

/** Puts a value at its place in a patch, in its locale. */
function put(
  patch: Record<string, unknown>,
  mapping: ReadyMapping,
  column: ReadyColumn,
  field: Field,
  value: unknown,
): void {
  const locale = column.locale ?? mapping.defaultLocale
  const isMap = isRecord(value) && holdsTags(mapping, column, value)
  let here = patch
  const into = (name: string): void => {
    const inside = here[name]
    here = here[name] = isRecord(inside) ? inside : {}
  }
  // A locale stands where the first field on the way is localized.
  const steps: string[] = []
  let isInLocale = false
  for (const each of column.fields) {
    steps.push(each.name)
    if (each.localized && !isInLocale && !(isMap && each === field)) {
      steps.push(locale)
      isInLocale = true
    }
  }
  if (column.member !== undefined) steps.push(column.member)
  for (const step of steps.slice(0, -1)) into(step)
  here[steps.at(-1)!] = value
}

/** Whether a text is written as an id. */
export const looksLikeId = (text: string): boolean => idPattern.test(text)
