import { makeId, readMapping, WisteriaError, type RowOutcome, type Permission, type ReadyMapping } from '@wisteria/core'
import {
  changeImport,
  endJob,
  importRowsBefore,
  importRowsFrom,
  insertJob,
  jobWithId,
  keepJobProgress,
  noteRowUndone,
  siteWithId,
  storeRowResults,
  type EntryImport,
  type ImportChange,
  type Job,
  type RowResult,
  type Site,
  type Transaction,
} from '@wisteria/store'
import { callerOfActor } from '../access/actors.js'
import type { JobKind } from '../jobs/jobs.js'
import { tryOrRefuse, whyNot } from '../kernel/attempt.js'
import type { Kernel } from '../kernel/kernel.js'
import { Lookups, lookedUpAtOnce } from './lookups.js'
import { requireImport } from './receiving.js'
import { importRow, planRow, undoRow } from './rowWork.js'

/** How long one step may block other writes, in milliseconds. */
const stepTime = 40

/** The work of an import that is a job, and the state of the import while it runs and afterwards. */
const kinds = {
  importCheck: { during: 'checking', after: 'checked', stopped: 'read' },
  import: { during: 'running', after: 'done', stopped: 'stopped' },
  importUndo: { during: 'undoing', after: 'undone', stopped: 'done' },
} as const satisfies Record<string, Record<string, EntryImport['state']>>
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
  const found = await requireImport(transaction, site, id)
  const { from, not } = begins[kind]
  if (!from.includes(found.state)) {
    const isBusy = ['reading', 'checking', 'running', 'undoing'].includes(found.state)
    throw new WisteriaError('conflict', isBusy ? 'It is being worked on. Wait until that has ended, or stop it.' : not)
  }
  if (kind !== 'importUndo') readyMapping(found, site)
  // After a stop it goes on where it was.
  const isGoingOn = kind === 'import' && found.state === 'stopped'
  const done = isGoingOn ? Object.values(found.outcomes).reduce((sum, count) => sum + count, 0) : 0
  const job: Job = {
    id: makeId(kernel.environment),
    site: site.id,
    kind,
    state: 'running',
    done,
    total: found.rows,
    task: JSON.stringify({ import: id }),
    cursor: '',
    message: `${{ importCheck: 'Checking', import: 'Importing', importUndo: 'Undoing the import of' }[kind]} ${found.name}.`,
    actor,
    createdAt: kernel.at,
    finishedAt: null,
  }
  await insertJob(transaction, job)
  const fresh: ImportChange =
    kind === 'importUndo' ? { undone: { undone: 0, refused: 0 } } : isGoingOn ? {} : { outcomes: {} }
  await changeImport(transaction, id, { ...fresh, state: kinds[kind].during, job: job.id })
  return job
}

/** The mapping of an import, as it fits the model now. @throws WisteriaError `invalid`. */
export function readyMapping({ mapping, heads }: EntryImport, site: Site): ReadyMapping {
  if (!mapping)
    throw new WisteriaError('invalid', 'No type fits the heads of its columns. Say in a mapping where they go.')
  return readMapping(mapping, heads, site.model, site.settings)
}

/** What a job knows from one step to the next: valid as long as nobody else changes the site. */
interface Known {
  readonly lookups: Lookups
  readonly sequence: number
  readonly mapping: ReadyMapping
  readonly modelVersion: number
}
const known = new Map<string, Known>()

/** The outcomes in words: `3 created, 1 failed`. */
const inWords = (outcomes: EntryImport['outcomes']): string => {
  const parts = Object.entries(outcomes).flatMap(([name, count]) => (count > 0 ? [`${count} ${name}`] : []))
  return `Rows: ${parts.join(', ') || 'none'}.`
}

/** Checks or imports rows, as many in a step as its time allows. */
const rowsJob = (kernel: Kernel, kind: 'importCheck' | 'import', permission: Permission): JobKind => ({
  name: kind,
  permission,
  step: (job) =>
    kernel.write(async (transaction) => {
      const current = await jobWithId(transaction, job.id)
      if (current?.state !== 'running') return false
      const site = await siteWithId(transaction, job.site)
      const found = await requireImport(transaction, site, importOf(job))
      const author = { caller: await callerOfActor(kernel, job.actor, site), actor: job.actor }
      const before = known.get(job.id)
      const isValid = before?.sequence === site.sequence && before.modelVersion === site.model.version
      const mapping = isValid ? before.mapping : readyMapping(found, site)
      const lookups = isValid ? before.lookups : new Lookups(mapping)
      const until = performance.now() + stepTime
      const outcomes: Partial<Record<RowOutcome, number>> = { ...found.outcomes }
      const results: RowResult[] = []
      let { done } = current
      while (done < found.rows) {
        if (!lookups.knows(done))
          await lookups.prepare(transaction, site, await importRowsFrom(transaction, found.id, done, lookedUpAtOnce))
        const rows = await importRowsFrom(transaction, found.id, done, 20)
        for (const row of rows) {
          if (!lookups.knows(row.position)) break
          const result =
            kind === 'import'
              ? await importRow(kernel, transaction, author, site.id, mapping, row, lookups)
              : {
                  ...(await planRow(kernel, transaction, site, mapping, row, lookups)),
                  position: row.position,
                  before: null,
                  after: null,
                }
          results.push(result)
          outcomes[result.outcome!] = (outcomes[result.outcome!] ?? 0) + 1
          done++
          if (performance.now() > until) break
        }
        if (performance.now() > until) break
      }
      await storeRowResults(transaction, found.id, results)
      const isDone = done >= found.rows
      await changeImport(transaction, found.id, {
        outcomes,
        ...(isDone ? { state: kinds[kind].after, finishedAt: kernel.at } : {}),
      })
      const { sequence, model } = await siteWithId(transaction, job.site)
      if (isDone) {
        known.delete(job.id)
        await endJob(transaction, job.id, { state: 'done', at: kernel.at, message: inWords(outcomes), done })
      } else {
        known.set(job.id, { lookups, mapping, sequence, modelVersion: model.version })
        await keepJobProgress(transaction, job.id, done, '')
      }
      return !isDone
    }),
  abandon: (job, state, message) => abandon(kernel, job, kind, state, message),
})

const importOf = ({ task }: Job): string => (JSON.parse(task) as { import: string }).import

function abandon(kernel: Kernel, job: Job, kind: Kind, state: 'stopped' | 'failed', message: string): Promise<void> {
  known.delete(job.id)
  return kernel.write(async (transaction) => {
    const site = await siteWithId(transaction, job.site)
    const found = await requireImport(transaction, site, importOf(job))
    await changeImport(transaction, found.id, { state: kinds[kind].stopped, finishedAt: kernel.at })
    const result = kind === 'importUndo' ? '' : ` ${inWords(found.outcomes)}`
    await endJob(transaction, job.id, { state, at: kernel.at, message: `${message}${result}` })
  })
}

/** Undoes rows, the last one first. */
const undoJob = (kernel: Kernel): JobKind => ({
  name: 'importUndo',
  permission: 'entry.write',
  step: (job) =>
    kernel.write(async (transaction) => {
      const current = await jobWithId(transaction, job.id)
      if (current?.state !== 'running') return false
      const site = await siteWithId(transaction, job.site)
      const found = await requireImport(transaction, site, importOf(job))
      const author = { caller: await callerOfActor(kernel, job.actor, site), actor: job.actor }
      const until = performance.now() + stepTime
      let { undone, refused } = found.undone
      let position = current.cursor === '' ? found.rows : Number(current.cursor)
      let isDone = false
      while (performance.now() <= until) {
        const [row] = await importRowsBefore(transaction, found.id, position, 1)
        if (!row) {
          isDone = true
          break
        }
        position = row.position
        if (row.undone === '') continue
        const result = await tryOrRefuse(transaction, () => undoRow(kernel, transaction, site.id, author, row))
        await noteRowUndone(transaction, found.id, position, result instanceof WisteriaError ? whyNot(result) : '')
        if (result instanceof WisteriaError) refused++
        else undone++
      }
      await changeImport(transaction, found.id, {
        undone: { undone, refused },
        ...(isDone ? { state: 'undone' as const, finishedAt: kernel.at } : {}),
      })
      const done = isDone ? found.rows : found.rows - position
      const message = `Rows: ${undone} undone${refused > 0 ? `, ${refused} refused` : ''}.`
      if (isDone) await endJob(transaction, job.id, { state: 'done', at: kernel.at, message, done })
      else await keepJobProgress(transaction, job.id, done, String(position))
      return !isDone
    }),
  abandon: (job, state, message) => abandon(kernel, job, 'importUndo', state, message),
})

export const importJobs = (kernel: Kernel): readonly JobKind[] => [
  rowsJob(kernel, 'importCheck', 'entry.write'),
  rowsJob(kernel, 'import', 'entry.write'),
  undoJob(kernel),
]
