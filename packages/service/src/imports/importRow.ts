import {
  aimOf,
  keyOf,
  localeTags,
  mergePatch,
  problemAt,
  readRow,
  titleOf,
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
  type EntryImport,
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
import { createEntry, prepareEntry, storeEntries, type ReadyEntry } from '../workingCopies/creating.js'
import { requireEntry } from '../workingCopies/entryView.js'
import { saveValues, type Author } from '../workingCopies/saving.js'
import { addImportedFile } from './files.js'
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

/** A row whose entry is ready to be stored together with others. */
interface WaitingRow {
  readonly row: EntryImportRow
  readonly entry: ReadyEntry
  readonly title: string
}

/** So many new entries are stored at once. */
const storedAtOnce = 25

/**
 * Imports rows, one after the other. New entries that depend on nothing are stored some at a time, which takes far fewer statements; what
 * a row does is the same. A row that fails leaves nothing behind.
 */
export class RowImport {
  readonly #kernel: Kernel
  readonly #transaction: Transaction
  readonly #author: Author
  readonly #import: Pick<EntryImport, 'id' | 'site'>
  readonly #mapping: ReadyMapping
  readonly #lookups: Lookups
  #waiting: WaitingRow[] = []
  /** Read since the last entry was stored. */
  #current: Site | undefined
  readonly #results: RowResult[] = []

  constructor(
    kernel: Kernel,
    transaction: Transaction,
    author: Author,
    entryImport: Pick<EntryImport, 'id' | 'site'>,
    mapping: ReadyMapping,
    lookups: Lookups,
  ) {
    this.#kernel = kernel
    this.#transaction = transaction
    this.#author = author
    this.#import = entryImport
    this.#mapping = mapping
    this.#lookups = lookups
  }

  /** Imports a row, now or together with those after it. */
  async add(row: EntryImportRow): Promise<void> {
    const mapping = this.#mapping
    const wanted = wantedIn(mapping, row.cells)
    const key = keyOf(mapping, row.cells)
    const matches = this.#lookups.withKey(key)
    const ids = [...matches, ...wanted.flatMap((one) => this.#lookups.idsOf(one))]
    // What it changes or refers to must be stored.
    if (this.#waiting.some(({ entry }) => ids.includes(entry.id))) await this.#store()
    const isAlone =
      mapping.contentType.drafts === false ||
      wanted.some(
        (one) => (one.column.create && this.#lookups.isMissing(one)) || this.#lookups.newFile(one) !== undefined,
      )
    const aim = aimOf(mapping, key, matches)
    if (isAlone || aim.is !== 'new') {
      await this.#store()
      this.#results.push(await this.#alone(row))
    } else await this.#prepare(row, aim.id)
    if (this.#waiting.length >= storedAtOnce) await this.#store()
  }

  /** The results of all rows, in no order. */
  async results(): Promise<readonly RowResult[]> {
    await this.#store()
    return this.#results
  }

  async #prepare(row: EntryImportRow, id: string | undefined): Promise<void> {
    const { patch, problems } = readRow(this.#mapping, row.cells, this.#lookups.find)
    if (problems.length > 0) return void this.#results.push(resultOf(row, 'failed', { problems }))
    const site = (this.#current ??= await siteWithId(this.#transaction, this.#import.site))
    const type = this.#mapping.contentType
    try {
      const values = mergePatch({}, patch)
      const entry = await prepareEntry(this.#kernel, this.#transaction, site, this.#author, {
        type: type.name,
        values,
        id,
      })
      this.#waiting.push({ row, entry, title: titleIn(site, entry) })
      this.#lookups.noteCreated(row.cells, keyOf(this.#mapping, row.cells), entry.id)
    } catch (error) {
      if (!(error instanceof WisteriaError)) throw error
      this.#results.push(resultOf(row, 'failed', { problems: problemsOf(this.#mapping, error) }))
    }
  }

  /** Stores the entries that wait, in one act. */
  async #store(): Promise<void> {
    const waiting = this.#waiting
    this.#waiting = []
    this.#current = undefined
    if (waiting.length === 0) return
    const site = await siteWithId(this.#transaction, this.#import.site)
    const entries = waiting.map(({ entry }) => entry)
    const copies = await storeEntries(this.#kernel, this.#transaction, site, this.#author, entries)
    waiting.forEach(({ row, title }, index) => {
      const undo: RowUndo = { isNew: true, references: [] }
      const { id, version } = copies[index]!
      this.#results.push(resultOf(row, 'created', { entry: id, title, before: JSON.stringify(undo), after: version }))
    })
  }

  /** Imports a row by itself, with what it needs. */
  async #alone(row: EntryImportRow): Promise<RowResult> {
    const [kernel, transaction, author] = [this.#kernel, this.#transaction, this.#author]
    const [mapping, lookups] = [this.#mapping, this.#lookups]
    const { cells } = row
    const key = keyOf(mapping, cells)
    const aim = aimOf(mapping, key, lookups.withKey(key))
    if (aim.is === 'wrong') return resultOf(row, 'failed', { problems: [aim.problem] })
    if (aim.is === 'left') return resultOf(row, 'left', { entry: aim.id })
    let references: readonly CreatedReference[] = []
    let added: ReadonlyMap<string, string> = new Map()
    let problems: readonly RowProblem[] = []
    const effect = await tryOrRefuse(transaction, async () => {
      const site = await siteWithId(transaction, this.#import.site)
      const all = wantedIn(mapping, cells)
      references = await createMissing(kernel, transaction, site, author, all, lookups)
      added = await this.#addFiles(site, all)
      const read = readRow(mapping, cells, (wanted) => {
        const asset = wanted.is === 'asset' ? added.get(wanted.text) : undefined
        if (asset !== undefined) return { id: asset }
        const created = references.find((reference) => isSame(reference.wanted, wanted))
        return created ? { id: created.id } : lookups.find(wanted)
      })
      problems = read.problems
      if (problems.length > 0) throw new WisteriaError('invalid', 'Some cells are wrong.')
      return aim.is === 'existing'
        ? await update(kernel, transaction, site, author, mapping, aim.id, read.patch)
        : await create(kernel, transaction, site, author, mapping, aim.id, read.patch)
    })
    if (effect instanceof WisteriaError)
      return resultOf(row, 'failed', {
        entry: aim.is === 'existing' ? aim.id : null,
        problems: problems.length > 0 ? problems : problemsOf(mapping, effect),
      })
    const { outcome, copy, title } = effect
    for (const { wanted, id } of references) lookups.noteReference(wanted, id)
    for (const [name, asset] of added) lookups.noteFile(name, asset)
    if (outcome === 'created') lookups.noteCreated(cells, key, copy.id)
    const undo: RowUndo = { ...effect.undo, references: references.map(({ id, version }) => ({ id, version })) }
    const isChanged = outcome !== 'unchanged' || references.length > 0
    return resultOf(row, outcome, {
      entry: copy.id,
      title,
      before: isChanged ? JSON.stringify(undo) : null,
      after: copy.version,
    })
  }

  /** Adds the files that a row names and that are no assets yet. @returns the ids of their assets by the texts that name them. */
  async #addFiles(site: Site, all: readonly Wanted[]): Promise<ReadonlyMap<string, string>> {
    const assets = new Map<string, string>()
    for (const wanted of all) {
      const file = this.#lookups.newFile(wanted)
      if (!file || assets.has(file.name)) continue
      const { actor } = this.#author
      const asset = await addImportedFile(this.#kernel, this.#transaction, site, actor, this.#import.id, file)
      assets.set(file.name, asset)
    }
    return assets
  }
}

const resultOf = ({ position }: EntryImportRow, outcome: RowOutcome, more: Partial<RowResult> = {}): RowResult => ({
  position,
  outcome,
  entry: null,
  title: '',
  problems: [],
  before: null,
  after: null,
  ...more,
})

const titleIn = ({ settings }: Site, { type, document }: Pick<WorkingCopy, 'type' | 'document'>): string =>
  titleOf(type, document, [settings.defaultLocale, ...localeTags(settings)])

async function create(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  { contentType: type }: ReadyMapping,
  id: string | undefined,
  patch: NamedValues,
): Promise<RowEffect> {
  const values = mergePatch({}, patch)
  const created = await createEntry(kernel, transaction, site, author, { type: type.name, values, id })
  const copy = await publishIfImmediate(kernel, transaction, site, author, created)
  return { outcome: 'created', copy, title: titleIn(site, created), undo: { isNew: true } }
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
