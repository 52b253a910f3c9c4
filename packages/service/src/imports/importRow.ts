import {
  aimOf,
  keyOf,
  mergePatch,
  problemAt,
  readRow,
  wantedIn,
  WisteriaError,
  type NamedValues,
  type ReadyMapping,
  type RowOutcome,
  type RowProblem,
  type Wanted,
} from '@wisteria/core'
import {
  publicHistoryOf,
  sealNewest,
  siteWithId,
  type EntryImportRow,
  type RowResult,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import { type Before } from '../entries/entryActions.js'
import { tryOrRefuse } from '../kernel/attempt.js'
import type { Kernel } from '../kernel/kernel.js'
import { publishIfImmediate } from '../publishing/immediate.js'
import { createEntry } from '../workingCopies/creating.js'
import { requireEntry } from '../workingCopies/entryView.js'
import { saveValues, type Author } from '../workingCopies/saving.js'
import type { Lookups } from './lookups.js'
import { mergeValues } from '../publishing/mergeValues.js'

/** What undoing a row needs. */
export interface RowUndo {
  /** Of an entry that was updated. */
  readonly edit?: Before
  /** Whether the entry was created. */
  readonly isNew?: true
  /** Entries that were created because the row refers to them, with the versions that they were left at. */
  readonly references: readonly { readonly id: string; readonly version: number }[]
}

/** What a row did to its entry. */
interface RowEffect {
  readonly outcome: RowOutcome
  readonly copy: Pick<WorkingCopy, 'id' | 'version'>
  readonly title: string
  readonly undo: Omit<RowUndo, 'references'>
}

/** An entry that was created because a row refers to it. */
interface CreatedReference {
  readonly id: string
  readonly version: number
  readonly wanted: Wanted
}

/** Imports one row. A row that fails leaves nothing behind. */
export async function importRow(
  kernel: Kernel,
  transaction: Transaction,
  author: Author,
  siteId: string,
  mapping: ReadyMapping,
  { position, cells }: EntryImportRow,
  lookups: Lookups,
): Promise<RowResult> {
  const result = (outcome: RowOutcome, more: Partial<RowResult> = {}): RowResult => ({
    position,
    outcome,
    entry: null,
    title: '',
    problems: [],
    before: null,
    after: null,
    ...more,
  })
  const key = keyOf(mapping, cells)
  const aim = aimOf(mapping, key, lookups.withKey(key))
  if (aim.is === 'wrong') return result('failed', { problems: [aim.problem] })
  if (aim.is === 'left') return result('left', { entry: aim.id })
  let references: readonly CreatedReference[] = []
  let problems: readonly RowProblem[] = []
  const effect = await tryOrRefuse(transaction, async () => {
    const site = await siteWithId(transaction, siteId)
    references = await createMissing(kernel, transaction, site, author, wantedIn(mapping, cells), lookups)
    const row = readRow(mapping, cells, (wanted) => {
      const created = references.find((reference) => isSame(reference.wanted, wanted))
      return created ? { id: created.id } : lookups.find(wanted)
    })
    problems = row.problems
    if (problems.length > 0) throw new WisteriaError('invalid', 'Some cells are wrong.')
    return aim.is === 'existing'
      ? await update(kernel, transaction, site, author, mapping, aim.id, row.patch)
      : await create(kernel, transaction, site, author, mapping, aim.id, row.patch)
  })
  if (effect instanceof WisteriaError)
    return result('failed', {
      entry: aim.is === 'existing' ? aim.id : null,
      problems: problems.length > 0 ? problems : problemsOf(mapping, effect),
    })
  const { outcome, copy, title } = effect
  for (const { wanted, id } of references) lookups.noteReference(wanted, id)
  if (outcome === 'created') lookups.noteCreated(cells, key, copy.id)
  const undo: RowUndo = { ...effect.undo, references: references.map(({ id, version }) => ({ id, version })) }
  const isChanged = outcome !== 'unchanged' || references.length > 0
  return result(outcome, {
    entry: copy.id,
    title,
    before: isChanged ? JSON.stringify(undo) : null,
    after: copy.version,
  })
}

async function create(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  { contentType: type }: ReadyMapping,
  id: string | undefined,
  patch: NamedValues,
): Promise<RowEffect> {
  const { title } = mergeValues(kernel, site, type, undefined, patch)
  const values = mergePatch({}, patch)
  const created = await createEntry(kernel, transaction, site, author, { type: type.name, values, id })
  const copy = await publishIfImmediate(kernel, transaction, site, author, created)
  return { outcome: 'created', copy, title, undo: { isNew: true } }
}

async function update(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  { contentType: type }: ReadyMapping,
  id: string,
  patch: NamedValues,
): Promise<RowEffect> {
  const copy = await requireEntry(transaction, site, id)
  const { values, title, isSame, problems } = mergeValues(kernel, site, type, copy, patch)
  if (problems.length > 0) throw new WisteriaError('invalid', problems[0]!.message, { problems })
  if (isSame) return { outcome: 'unchanged', copy, title, undo: {} }
  const { revisions: layers } = await publicHistoryOf(transaction, site, type, id)
  const sealed = await sealNewest(transaction, copy, kernel.at)
  const saved = await saveValues(kernel, transaction, site, author, sealed, values)
  const updated = await publishIfImmediate(kernel, transaction, site, author, saved)
  return { outcome: 'updated', copy: updated, title, undo: { edit: { does: 'edit', layers, revision: copy.revision } } }
}

const isSame = (a: Wanted, b: Wanted): boolean => a.column === b.column && a.text === b.text

/** Creates the missing entries that a row refers to, where its mapping says so: each with nothing but the field that finds it. */
async function createMissing(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  all: readonly Wanted[],
  lookups: Lookups,
): Promise<CreatedReference[]> {
  const created: CreatedReference[] = []
  for (const wanted of all) {
    const { column, text } = wanted
    // The first type that has the field.
    const target = column.create && lookups.isMissing(wanted) ? column.targets?.find(({ by }) => by) : undefined
    if (!target?.by || created.some((reference) => isSame(reference.wanted, wanted))) continue
    const { name, localized } = target.by
    const values = { [name]: localized ? { [column.locale ?? site.settings.defaultLocale]: text } : text }
    const entry = await createEntry(kernel, transaction, site, author, { type: target.type.name, values })
    const { id, version } = await publishIfImmediate(kernel, transaction, site, author, entry)
    created.push({ id, version, wanted })
  }
  return created
}

/** What is wrong with a row, at its columns. */
const problemsOf = (mapping: ReadyMapping, error: WisteriaError): RowProblem[] =>
  error.problems.length > 0
    ? error.problems.map((problem) => problemAt(mapping, problem))
    : [{ column: null, message: error.message }]
