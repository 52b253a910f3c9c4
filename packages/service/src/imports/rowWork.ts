import {
  fieldOf,
  idPattern,
  keyOf,
  localeTags,
  mergePatch,
  printValues,
  readRow,
  readValues,
  sameContent,
  titleOf,
  wantedIn,
  WisteriaError,
  withIdsOf,
  type Fact,
  type NamedValues,
  type Problem,
  type ReadyMapping,
  type RowOutcome,
  type RowProblem,
  type Wanted,
} from '@wisteria/core'
import {
  Act,
  publicHistoryOf,
  sealNewest,
  siteWithId,
  workingCopyOf,
  type EntryImportRow,
  type Reader,
  type RowResult,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import { moveToBin } from '../entries/bin.js'
import { tryOrRefuse } from '../kernel/attempt.js'
import type { Kernel } from '../kernel/kernel.js'
import { undoOnEntry, type Before } from '../entries/entryActions.js'
import { publishIfImmediate } from '../publishing/immediate.js'
import { withdraw } from '../publishing/publishing.js'
import { createEntry } from '../workingCopies/creating.js'
import { requireEntry } from '../workingCopies/entryView.js'
import { saveValues, type Author } from '../workingCopies/saving.js'
import { typeToCreate, type Lookups } from './lookups.js'

/** What undoing a row needs. */
interface RowBefore {
  /** Of an entry that was updated. */
  readonly edit?: Before
  /** Whether the entry was created. */
  readonly isNew?: true
  /** Entries that were created because the row refers to them, with the versions that they were left at. */
  readonly made: readonly { readonly id: string; readonly version: number }[]
}

/** What a row would do, as far as one can tell without doing it. */
export interface PlannedRow {
  readonly outcome: RowOutcome
  readonly entry: string | null
  readonly title: string
  /** The values that it sets. */
  readonly values: NamedValues
  readonly problems: readonly RowProblem[]
}

/** The entry that a row is about: one that is there, a new one, or none. */
type Aim =
  | { readonly is: 'existing'; readonly id: string }
  | { readonly is: 'new'; readonly id?: string | undefined }
  | { readonly is: 'left'; readonly id: string | null }
  | { readonly is: 'wrong'; readonly message: string }

function aimOf(mapping: ReadyMapping, fact: Fact | undefined, lookups: Lookups): Aim {
  const { key, mode } = mapping
  if (!key) return { is: 'new' }
  const name = fieldOf(key)?.label ?? 'The id'
  if (fact === undefined) return { is: 'wrong', message: `${name} is the key, and it is empty or wrong here.` }
  const [id, ...more] = lookups.withKey(fact)
  if (more.length > 0)
    return { is: 'wrong', message: `${more.length + 1} entries have this ${name}: it does not tell them apart.` }
  if (id !== undefined) return mode === 'create' ? { is: 'left', id } : { is: 'existing', id }
  if (mode === 'update') return { is: 'left', id: null }
  if (fieldOf(key)) return { is: 'new' }
  return idPattern.test(String(fact))
    ? { is: 'new', id: String(fact) }
    : { is: 'wrong', message: `\`${String(fact).slice(0, 60)}\` is no id: it has 20 lowercase letters and digits.` }
}

const titleIn = (site: Site, { type, document }: Pick<WorkingCopy, 'type' | 'document'>): string =>
  titleOf(type, document, [site.settings.defaultLocale, ...localeTags(site.settings)])

/** Says what a row would do, without doing it. References that it would create count as found. */
export async function planRow(
  kernel: Kernel,
  reader: Reader,
  site: Site,
  mapping: ReadyMapping,
  row: EntryImportRow,
  lookups: Lookups,
): Promise<PlannedRow> {
  const { contentType: type } = mapping
  const aim = aimOf(mapping, keyOf(mapping, row.cells), lookups)
  // A reference that will be created has no id yet: any id stands for it.
  const pending = makePending()
  const { patch, problems } = readRow(mapping, row.cells, (wanted) => {
    const found = lookups.find(wanted)
    return 'problem' in found && wanted.column.create && isMissing(wanted, lookups) ? { id: pending } : found
  })
  const planned = (outcome: RowOutcome, more: Partial<PlannedRow> = {}): PlannedRow => ({
    outcome,
    entry: null,
    title: '',
    values: patch,
    problems: [],
    ...more,
  })
  if (aim.is === 'wrong')
    return planned('failed', { problems: [{ column: mapping.key!.from, message: aim.message }, ...problems] })
  if (aim.is === 'left') return planned('left', { entry: aim.id })
  if (problems.length > 0) return planned('failed', { problems })
  const copy = aim.is === 'existing' ? await workingCopyOf(reader, site, aim.id) : undefined
  if (copy?.archivedAt)
    return planned('failed', { entry: copy.id, problems: [{ column: null, message: 'The entry is archived.' }] })
  const before = copy ? printValues(site.model, type, copy.document) : {}
  const read = readValues(
    site.model,
    type,
    mergePatch(before, patch),
    localeTags(site.settings),
    kernel.environment.random,
  )
  if (read.problems.length > 0)
    return planned('failed', {
      entry: copy?.id ?? null,
      problems: read.problems.map((problem) => atColumn(mapping, problem)),
    })
  const title = titleIn(site, { type, document: read.document })
  if (!copy) return planned('created', { title })
  const after = withIdsOf(type, before, printValues(site.model, type, read.document))
  return planned(sameContent(before, after) ? 'unchanged' : 'updated', { entry: copy.id, title })
}

/** Twenty characters that are no id of an entry. */
const makePending = (): string => '0'.repeat(20)

const isMissing = (wanted: Wanted, lookups: Lookups): boolean => {
  const found = lookups.find(wanted)
  return 'problem' in found && found.problem.startsWith('There is no')
}

/** Imports one row. What goes wrong with it leaves nothing behind. */
export async function importRow(
  kernel: Kernel,
  transaction: Transaction,
  author: Author,
  siteId: string,
  mapping: ReadyMapping,
  row: EntryImportRow,
  lookups: Lookups,
): Promise<RowResult> {
  const { position, cells } = row
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
  const fact = keyOf(mapping, cells)
  const aim = aimOf(mapping, fact, lookups)
  if (aim.is === 'wrong') return result('failed', { problems: [{ column: mapping.key!.from, message: aim.message }] })
  if (aim.is === 'left') return result('left', { entry: aim.id })
  const made: { id: string; version: number; wanted: Wanted }[] = []
  let problems: readonly RowProblem[] = []
  const done = await tryOrRefuse(transaction, async () => {
    const site = await siteWithId(transaction, siteId)
    made.push(...(await createMissing(kernel, transaction, site, author, wantedIn(mapping, cells), lookups)))
    const read = readRow(mapping, cells, (wanted) => {
      const own = made.find((one) => one.wanted.column === wanted.column && one.wanted.text === wanted.text)
      return own ? { id: own.id } : lookups.find(wanted)
    })
    problems = read.problems
    if (problems.length > 0) throw new WisteriaError('invalid', 'Some cells are wrong.')
    return aim.is === 'existing'
      ? await update(kernel, transaction, site, author, mapping, aim.id, read.patch)
      : await create(kernel, transaction, site, author, mapping, aim.id, read.patch)
  })
  if (done instanceof WisteriaError) {
    const wrong = problems.length > 0 ? problems : problemsOf(mapping, done)
    return result('failed', { entry: aim.is === 'existing' ? aim.id : null, problems: wrong })
  }
  for (const { wanted, id } of made) lookups.noteReference(wanted, id)
  if (fact !== undefined) lookups.noteKey(fact, done.copy.id)
  if (done.outcome === 'created') lookups.noteCreated(cells, done.copy.id)
  const before: RowBefore = { ...done.before, made: made.map(({ id, version }) => ({ id, version })) }
  const isChanged = done.outcome !== 'unchanged' || made.length > 0
  return result(done.outcome, {
    entry: done.copy.id,
    title: done.title,
    before: isChanged ? JSON.stringify(before) : null,
    after: done.copy.version,
  })
}

interface RowDone {
  readonly outcome: RowOutcome
  readonly copy: Pick<WorkingCopy, 'id' | 'version'>
  readonly title: string
  readonly before: Omit<RowBefore, 'made'>
}

async function create(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  { contentType }: ReadyMapping,
  id: string | undefined,
  patch: NamedValues,
): Promise<RowDone> {
  const values = mergePatch({}, patch)
  const copy = await createEntry(kernel, transaction, site, author, { type: contentType.name, values, id })
  const ready = await publishIfImmediate(kernel, transaction, site, author, copy)
  return { outcome: 'created', copy: ready, title: titleIn(site, copy), before: { isNew: true } }
}

async function update(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  { contentType: type }: ReadyMapping,
  id: string,
  patch: NamedValues,
): Promise<RowDone> {
  const copy = await requireEntry(transaction, site, id)
  const before = printValues(site.model, type, copy.document)
  const { document, problems } = readValues(
    site.model,
    type,
    mergePatch(before, patch),
    localeTags(site.settings),
    kernel.environment.random,
  )
  if (problems.length > 0) throw new WisteriaError('invalid', problems[0]!.message, { problems })
  const after = withIdsOf(type, before, printValues(site.model, type, document))
  const title = titleIn(site, { type, document })
  if (sameContent(before, after)) return { outcome: 'unchanged', copy, title, before: {} }
  const { revisions: layers } = await publicHistoryOf(transaction, site, type, id)
  const standing = await sealNewest(transaction, copy, kernel.at)
  const saved = await saveValues(kernel, transaction, site, author, standing, after)
  const ready = await publishIfImmediate(kernel, transaction, site, author, saved)
  return { outcome: 'updated', copy: ready, title, before: { edit: { does: 'edit', layers, revision: copy.revision } } }
}

/** Creates the entries that a row refers to, that are missing, and that its mapping lets it create: with nothing but what finds them. */
async function createMissing(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  wanted: readonly Wanted[],
  lookups: Lookups,
): Promise<{ id: string; version: number; wanted: Wanted }[]> {
  const made: { id: string; version: number; wanted: Wanted }[] = []
  for (const one of wanted) {
    const target = one.column.create && isMissing(one, lookups) ? typeToCreate(one) : undefined
    if (!target?.by || made.some(({ wanted: { column, text } }) => column === one.column && text === one.text)) continue
    const { name, localized } = target.by
    const locale = one.column.locale ?? site.settings.defaultLocale
    const values = { [name]: localized ? { [locale]: one.text } : one.text }
    const copy = await createEntry(kernel, transaction, site, author, { type: target.type.name, values })
    const { id, version } = await publishIfImmediate(kernel, transaction, site, author, copy)
    made.push({ id, version, wanted: one })
  }
  return made
}

/** What is wrong with a row, at its columns. */
const problemsOf = (mapping: ReadyMapping, error: WisteriaError): RowProblem[] =>
  error.problems.length > 0
    ? error.problems.map((problem) => atColumn(mapping, problem))
    : [{ column: null, message: error.message }]

/** A problem of a value at the column that it came from. */
function atColumn({ columns }: ReadyMapping, { pointer = '', message }: Problem): RowProblem {
  const steps = pointer.split('/').slice(2)
  const column = columns.find(({ fields, locale }) => {
    const names = fields.map(({ name }) => name)
    const isThere = names.length > 0 && names.every((name) => steps.includes(name)) && steps[0] === names[0]
    return (
      isThere &&
      (locale === undefined || !steps.some((step) => step !== locale && columns.some((other) => other.locale === step)))
    )
  })
  return { column: column?.from ?? null, message }
}

/**
 * Undoes what a row did, unless somebody has changed its entry since.
 * @throws WisteriaError `conflict` in a sentence.
 */
export async function undoRow(
  kernel: Kernel,
  transaction: Transaction,
  siteId: string,
  author: Author,
  row: EntryImportRow,
): Promise<void> {
  const site = await siteWithId(transaction, siteId)
  const { edit, isNew, made } = JSON.parse(row.before!) as RowBefore
  if (isNew) await removeNew(kernel, transaction, site, author, row.entry!, row.after!)
  if (edit) await undoOnEntry(kernel, transaction, site, author, row.entry!, { before: edit, after: row.after! })
  for (const { id, version } of made) await removeNew(kernel, transaction, site, author, id, version)
}

/** Deletes an entry that an import created, as it was left. */
async function removeNew(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  id: string,
  version: number,
): Promise<void> {
  const copy = await requireEntry(transaction, site, id)
  if (copy.version !== version) throw new WisteriaError('conflict', 'Somebody changed it since. It stays as it is.')
  const act = new Act(transaction, site, author.actor, kernel.environment)
  const { layers } = await publicHistoryOf(transaction, site, copy.type, id)
  const withdrawn = layers ? await withdraw(transaction, act, author, copy, undefined, false) : copy
  await moveToBin(transaction, act, author, withdrawn)
}
