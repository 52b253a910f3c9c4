import {
  aimOf,
  keyOf,
  problemAt,
  readRow,
  type NamedValues,
  type ReadyMapping,
  type RowOutcome,
  type RowProblem,
} from '@wisteria/core'
import { workingCopyOf, type EntryImportRow, type Reader, type Site } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { futureId, type Lookups } from './lookups.js'
import { mergeValues } from '../publishing/mergeValues.js'

/** What a row would do, as far as one can tell without doing it. */
export interface PlannedRow {
  readonly outcome: RowOutcome
  readonly entry: string | null
  readonly title: string
  /** The values that it sets. */
  readonly values: NamedValues
  readonly problems: readonly RowProblem[]
}

/** Says what a row would do, without doing it. Later rows may refer to what it would create. */
export async function planRow(
  kernel: Kernel,
  reader: Reader,
  site: Site,
  mapping: ReadyMapping,
  { cells }: EntryImportRow,
  lookups: Lookups,
): Promise<PlannedRow> {
  const { contentType: type } = mapping
  const key = keyOf(mapping, cells)
  const aim = aimOf(mapping, key, lookups.withKey(key))
  const { patch, problems } = readRow(mapping, cells, (wanted) =>
    wanted.column.create && lookups.isMissing(wanted) ? { id: futureId } : lookups.find(wanted),
  )
  const plan = (outcome: RowOutcome, more: Partial<PlannedRow> = {}): PlannedRow => ({
    outcome,
    entry: null,
    title: '',
    values: patch,
    problems: [],
    ...more,
  })
  if (aim.is === 'wrong') return plan('failed', { problems: [aim.problem, ...problems] })
  if (aim.is === 'left') return plan('left', { entry: aim.id })
  if (problems.length > 0) return plan('failed', { problems })
  const isFuture = aim.is === 'existing' && aim.id === futureId
  const copy = aim.is === 'existing' && !isFuture ? await workingCopyOf(reader, site, aim.id) : undefined
  const entry = copy?.id ?? null
  if (copy?.archivedAt)
    return plan('failed', { entry, problems: [{ column: null, message: 'The entry is archived.' }] })
  const merged = mergeValues(kernel, site, type, copy, patch)
  if (merged.problems.length > 0)
    return plan('failed', { entry, problems: merged.problems.map((problem) => problemAt(mapping, problem)) })
  const { title } = merged
  if (copy) return plan(merged.isSame ? 'unchanged' : 'updated', { entry, title })
  if (isFuture) return plan('updated', { title })
  lookups.noteCreated(cells, key, futureId)
  return plan('created', { title })
}
