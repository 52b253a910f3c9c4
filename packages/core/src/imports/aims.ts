import { idPattern } from '../base/ids.js'
import type { Problem } from '../base/errors.js'
import type { Fact } from '../fields/shape.js'
import { short } from './cells.js'
import { fieldOf, type ReadyMapping } from './mapping.js'
import type { RowProblem } from './rows.js'

/** The entry that a row is about: an existing one, a new one, none because the mode leaves it out, or none because the key is wrong. */
export type RowAim =
  | { readonly is: 'existing'; readonly id: string }
  | { readonly is: 'new'; readonly id?: string | undefined }
  | { readonly is: 'left'; readonly id: string | null }
  | { readonly is: 'wrong'; readonly problem: RowProblem }

/**
 * Decides which entry a row is about.
 * @param key its value in the column of the key; undefined where that is empty or wrong.
 * @param matches the ids of the entries that have the key.
 */
export function aimOf(mapping: ReadyMapping, key: Fact | undefined, matches: readonly string[]): RowAim {
  if (!mapping.key) return { is: 'new' }
  const field = fieldOf(mapping.key)
  const label = field?.label ?? 'The id'
  const wrong = (message: string): RowAim => ({ is: 'wrong', problem: { column: mapping.key!.from, message } })
  if (key === undefined) return wrong(`${label} is the key, and it is empty or wrong here.`)
  if (matches.length > 1) return wrong(`${matches.length} entries have this ${label}: it does not tell them apart.`)
  const [id] = matches
  if (id !== undefined) return mapping.mode === 'create' ? { is: 'left', id } : { is: 'existing', id }
  if (mapping.mode === 'update') return { is: 'left', id: null }
  if (field) return { is: 'new' }
  return idPattern.test(String(key))
    ? { is: 'new', id: String(key) }
    : wrong(`\`${short(String(key))}\` is no id: it has 20 lowercase letters and digits.`)
}

/** A problem of a value, at the column that the value came from. */
export function problemAt({ columns, defaultLocale }: ReadyMapping, { pointer = '', message }: Problem): RowProblem {
  const steps = pointer.split('/').slice(2)
  const candidates = columns.filter(
    ({ fields }) => steps[0] === fields[0]?.name && fields.every(({ name }) => steps.includes(name)),
  )
  const column = candidates.find(({ locale = defaultLocale }) => steps.includes(locale)) ?? candidates[0]
  return { column: column?.from ?? null, message }
}
