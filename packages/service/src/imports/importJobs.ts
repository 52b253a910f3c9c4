import { keyOf, readMapping, WisteriaError, type ReadyMapping, type RowOutcome } from '@wisteria/core'
import {
  changeImport,
  changeJobMessage,
  endJob,
  importRowsBefore,
  importRowsFrom,
  jobWithId,
  keepJobProgress,
  noteRowUndone,
  siteWithId,
  storeRowResults,
  type EntryImport,
  type ImportChange,
  type Job,
  type Reader,
  type RowResult,
  type Site,
  type Transaction,
} from '@wisteria/store'
import { callerOfActor } from '../access/actors.js'
import { beginJob } from '../jobs/beginJob.js'
import type { JobKind } from '../jobs/jobs.js'
import { tryOrRefuse, whyNot } from '../kernel/attempt.js'
import type { Kernel } from '../kernel/kernel.js'
import { perKernel } from '../kernel/perKernel.js'
import type { Author } from '../workingCopies/saving.js'
import { RowImport } from './importRow.js'
import { fetchFiles, namesFiles, noteFiles } from './files.js'
import { futureId, Lookups, lookedUpAtOnce } from './lookups.js'
import { requireImport } from './receiving.js'
import { planRow } from './planRow.js'
import { undoRow } from './undoRow.js'

/** How long one step may block other writes, in milliseconds. */
const stepTime = 40

/** How many rows are read at once. */
const rowsAtOnce = 20

/** The jobs of an import: what each says, and the state of the import while it runs and afterwards. */
const kinds = {
  importCheck: { says: 'Checking', during: 'checking', after: 'checked' },
  import: { says: 'Importing', during: 'running', after: 'done' },
  importUndo: { says: 'Undoing the import of', during: 'undoing', after: 'undone' },
} as const
type Kind = keyof typeof kinds

/** From which states each may begin, and why not from others. */
const begins: Readonly<Record<Kind, { readonly from: readonly EntryImport['state'][]; readonly not: string }>> = {
  importCheck: { from: ['read', 'checked'], not: 'It has begun already, so checking it would tell nothing new.' },
  import: {
    from: ['read', 'checked', 'stopped'],
    not: 'It has been imported already. Import the file again to see what is left.',
  },
  importUndo: { from: ['done', 'stopped', 'undone'], not: 'Nothing of it has been imported.' },
}

/** Begins to check, to import or to undo. @throws WisteriaError `conflict`. */
export async function beginImportJob(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  id: string,
  kind: Kind,
): Promise<Job> {
  const record = await requireImport(transaction, site, id)
  const { from, not } = begins[kind]
  if (!from.includes(record.state)) {
    const isBusy = ['reading', 'checking', 'running', 'undoing'].includes(record.state)
    throw new WisteriaError('conflict', isBusy ? 'It is being worked on. Wait until that has ended, or stop it.' : not)
  }
  if (kind !== 'importUndo') readyMapping(record, site)
  // After a stop it goes on where it was.
  const goesOn = kind === 'import' && record.state === 'stopped'
  const job = await beginJob(kernel, transaction, site, {
    kind,
    actor,
    done: goesOn ? rowsDone(record) : 0,
    total: record.rows,
    task: { import: id },
    message: `${kinds[kind].says} ${record.name}.`,
  })
  const fresh: ImportChange =
    kind === 'importUndo' ? { undone: { undone: 0, refused: 0 } } : goesOn ? {} : { outcomes: {} }
  await changeImport(transaction, id, { ...fresh, state: kinds[kind].during, job: job.id })
  return job
}

/** How many rows of an import have a result. */
const rowsDone = ({ outcomes }: EntryImport): number => Object.values(outcomes).reduce((sum, count) => sum + count, 0)

/** The mapping of an import, as it fits the model now. @throws WisteriaError `invalid`. */
export function readyMapping({ mapping, heads }: EntryImport, site: Site): ReadyMapping {
  if (!mapping)
    throw new WisteriaError('invalid', 'No type fits the heads of its columns. Say in a mapping where they go.')
  return readMapping(mapping, heads, site.model, site.settings)
}

/** What a job has looked up so far: valid as long as nobody else changes the site. */
interface JobState {
  readonly lookups: Lookups
  readonly mapping: ReadyMapping
  readonly sequence: number
  readonly modelVersion: number
}
const statesOf = perKernel(() => new Map<string, JobState>())

/** The outcomes in words: `3 created, 1 failed`. */
const inWords = (outcomes: EntryImport['outcomes']): string => {
  const parts = Object.entries(outcomes).flatMap(([name, count]) => (count > 0 ? [`${count} ${name}`] : []))
  return `Rows: ${parts.join(', ') || 'none'}.`
}

/** A job under way, in the transaction of a step. */
interface OpenStep {
  readonly transaction: Transaction
  readonly job: Job
  readonly site: Site
  readonly record: EntryImport
  readonly author: Author
  /** Whether the time of the step is over. */
  readonly isOver: () => boolean
}

/** One step of a job, in a transaction. @returns what `work` does; undefined where the job is not running any more. */
const inStep = <Result>(
  kernel: Kernel,
  { id }: Job,
  work: (step: OpenStep) => Promise<Result>,
): Promise<Result | undefined> =>
  kernel.write(async (transaction) => {
    const job = await jobWithId(transaction, id)
    if (job?.state !== 'running') return undefined
    const site = await siteWithId(transaction, job.site)
    const record = await requireImport(transaction, site, importOf(job))
    const author = { caller: await callerOfActor(kernel, job.actor, site), actor: job.actor }
    const until = performance.now() + stepTime
    return work({ transaction, job, site, record, author, isOver: () => performance.now() > until })
  })

/** How far a job is, once the files that its rows name are there. */
const rowsCursor = 'rows'
const filesCursor = 'files'

/** Fetches some of the files that rows name, before the rows. */
async function filesStep(kernel: Kernel, kind: 'importCheck' | 'import', job: Job): Promise<boolean> {
  const begun = await inStep(kernel, job, async ({ transaction, job, site, record }) => {
    const mapping = readyMapping(record, site)
    if (!namesFiles(mapping)) await keepJobProgress(transaction, job.id, job.done, rowsCursor)
    else if (job.cursor !== filesCursor) {
      await noteFiles(kernel, transaction, record, mapping)
      await keepJobProgress(transaction, job.id, job.done, filesCursor)
    }
    return { site, id: record.id, isDone: !namesFiles(mapping) }
  })
  if (!begun || begun.isDone) return begun !== undefined
  const progress = await fetchFiles(kernel, begun.site, begun.id)
  const isRunning = await inStep(kernel, job, async ({ transaction, job, record }) => {
    if (progress) {
      const message = `${kinds[kind].says} ${record.name}: ${progress.done} of ${progress.all} files are here.`
      await changeJobMessage(transaction, job.id, message)
      return true
    }
    await changeJobMessage(transaction, job.id, `${kinds[kind].says} ${record.name}.`)
    await keepJobProgress(transaction, job.id, job.done, rowsCursor)
    return true
  })
  return isRunning ?? false
}

/** Checks or imports rows, as many in a step as its time allows. */
const rowsJob = (kernel: Kernel, kind: 'importCheck' | 'import'): JobKind => ({
  name: kind,
  permission: 'entry.write',
  step: async (job) => {
    if (job.cursor !== rowsCursor) return filesStep(kernel, kind, job)
    const states = statesOf(kernel)
    const before = states.get(job.id)
    // What a step has looked up is kept once the step is committed.
    states.delete(job.id)
    const result = await inStep(kernel, job, (step) => rowsStep(kernel, kind, step, before))
    if (result?.next) states.set(job.id, result.next)
    return result?.next !== undefined
  },
  abandon: (job, state, message) => abandon(kernel, job, kind, state, message),
})

async function rowsStep(
  kernel: Kernel,
  kind: 'importCheck' | 'import',
  { transaction, job, site, record, author, isOver }: OpenStep,
  before: JobState | undefined,
): Promise<{ readonly next?: JobState }> {
  const isValid = before?.sequence === site.sequence && before.modelVersion === site.model.version
  const mapping = isValid ? before.mapping : readyMapping(record, site)
  const lookups = isValid ? before.lookups : new Lookups(mapping, record.id)
  if (!isValid && kind === 'importCheck') await notePlanned(transaction, record, job.done, mapping, lookups)
  const outcomes: Partial<Record<RowOutcome, number>> = { ...record.outcomes }
  const planned: RowResult[] = []
  const rowImport = new RowImport(kernel, transaction, author, record, mapping, lookups)
  let { done } = job
  while (done < record.rows && !isOver()) {
    if (!lookups.knows(done))
      await lookups.prepare(transaction, site, await importRowsFrom(transaction, record.id, done, lookedUpAtOnce))
    for (const row of await importRowsFrom(transaction, record.id, done, rowsAtOnce)) {
      if (!lookups.knows(row.position)) break
      const { position } = row
      if (kind === 'import') await rowImport.add(row)
      else {
        const plan = await planRow(kernel, transaction, site, mapping, row, lookups)
        planned.push({ ...plan, position, before: null, after: null })
      }
      done++
      if (isOver()) break
    }
  }
  const results = kind === 'import' ? await rowImport.results() : planned
  for (const { outcome } of results) outcomes[outcome!] = (outcomes[outcome!] ?? 0) + 1
  await storeRowResults(transaction, record.id, results)
  const isDone = done >= record.rows
  const end = isDone ? { state: kinds[kind].after, finishedAt: kernel.at } : {}
  await changeImport(transaction, record.id, { outcomes, ...end })
  if (isDone) {
    await endJob(transaction, job.id, { state: 'done', at: kernel.at, message: inWords(outcomes), done })
    return {}
  }
  await keepJobProgress(transaction, job.id, done, rowsCursor)
  const { sequence, model } = await siteWithId(transaction, job.site)
  return { next: { lookups, mapping, sequence, modelVersion: model.version } }
}

/** Tells new lookups which rows of a check would create an entry, so that later rows may refer to it. */
async function notePlanned(
  reader: Reader,
  { id }: EntryImport,
  done: number,
  mapping: ReadyMapping,
  lookups: Lookups,
): Promise<void> {
  for (let position = 0; position < done;) {
    const rows = await importRowsFrom(reader, id, position, lookedUpAtOnce, 'created')
    for (const { cells } of rows) lookups.noteCreated(cells, keyOf(mapping, cells), futureId)
    position = (rows.at(-1)?.position ?? done) + 1
  }
}

const importOf = ({ task }: Job): string => (JSON.parse(task) as { import: string }).import

function abandon(kernel: Kernel, job: Job, kind: Kind, state: 'stopped' | 'failed', message: string): Promise<void> {
  statesOf(kernel).delete(job.id)
  return kernel.write(async (transaction) => {
    const site = await siteWithId(transaction, job.site)
    const record = await requireImport(transaction, site, importOf(job))
    const after =
      kind === 'importCheck' ? 'read' : kind === 'import' || rowsDone(record) < record.rows ? 'stopped' : 'done'
    await changeImport(transaction, record.id, { state: after, finishedAt: kernel.at })
    const result = kind === 'importUndo' ? undoneInWords(record.undone) : inWords(record.outcomes)
    await endJob(transaction, job.id, { state, at: kernel.at, message: `${message} ${result}` })
  })
}

const undoneInWords = ({ undone, refused }: EntryImport['undone']): string =>
  `Rows: ${undone} undone${refused > 0 ? `, ${refused} refused` : ''}.`

/** Undoes rows, the last one first. */
const undoJob = (kernel: Kernel): JobKind => ({
  name: 'importUndo',
  permission: 'entry.write',
  step: async (job) => (await inStep(kernel, job, (step) => undoStep(kernel, step))) ?? false,
  abandon: (job, state, message) => abandon(kernel, job, 'importUndo', state, message),
})

/** @returns whether more rows are left. */
async function undoStep(
  kernel: Kernel,
  { transaction, job, site, record, author, isOver }: OpenStep,
): Promise<boolean> {
  let { undone, refused } = record.undone
  let position = job.cursor === '' ? record.rows : Number(job.cursor)
  let isDone = false
  while (!isOver()) {
    const [row] = await importRowsBefore(transaction, record.id, position, 1)
    if (!row) {
      isDone = true
      break
    }
    position = row.position
    if (row.undone === '') continue
    const result = await tryOrRefuse(transaction, () => undoRow(kernel, transaction, site.id, author, row))
    await noteRowUndone(transaction, record.id, position, result instanceof WisteriaError ? whyNot(result) : '')
    if (result instanceof WisteriaError) refused++
    else undone++
  }
  const end = isDone ? { state: kinds.importUndo.after, finishedAt: kernel.at } : {}
  await changeImport(transaction, record.id, { undone: { undone, refused }, ...end })
  const done = isDone ? record.rows : record.rows - position
  const message = undoneInWords({ undone, refused })
  if (isDone) await endJob(transaction, job.id, { state: 'done', at: kernel.at, message, done })
  else await keepJobProgress(transaction, job.id, done, String(position))
  return !isDone
}

export const importJobs = (kernel: Kernel): readonly JobKind[] => [
  rowsJob(kernel, 'importCheck'),
  rowsJob(kernel, 'import'),
  undoJob(kernel),
]
