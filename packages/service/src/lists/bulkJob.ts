import { localeTags, makeId, titleOf, WisteriaError } from '@wisteria/core'
import {
  countJobItems,
  doneJobItem,
  endJob,
  insertJob,
  insertJobItem,
  jobWithId,
  keepJobProgress,
  siteWithId,
  workingCopiesOf,
  type Job,
  type JobItem,
  type Reader,
  type Site,
  type Transaction,
} from '@wisteria/store'
import type { JobKind } from '../jobs/jobs.js'
import { tryOrRefuse, whyNot } from '../kernel/attempt.js'
import type { Kernel } from '../kernel/kernel.js'
import { callerOfActor } from '../access/actors.js'
import { applyToEntry, undoOnEntry, type Before, type BulkOrder, type AppliedAction } from './bulkActions.js'
import type { Author } from '../workingCopies/saving.js'

/** How long one batch may block other writes, in milliseconds. */
const batchTime = 40

/** The task of a bulk job. The ids are fixed when it begins. */
export interface BulkTask extends BulkOrder {
  readonly ids: readonly string[]
  /** The job that this one undoes. */
  readonly puttingBack?: string
}

/** Begins a job; it runs once its transaction has committed. */
export async function beginBulk(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  task: BulkTask,
  message: string,
): Promise<Job> {
  const job: Job = {
    id: makeId(kernel.environment),
    site: site.id,
    kind: 'bulk',
    state: 'running',
    done: 0,
    total: task.ids.length,
    task: JSON.stringify(task),
    cursor: '',
    message,
    actor,
    createdAt: kernel.at,
    finishedAt: null,
  }
  await insertJob(transaction, job)
  return job
}

export async function titleOfEntry(transaction: Reader, site: Site, id: string): Promise<string> {
  const copy = (await workingCopiesOf(transaction, site, [id])).get(id)
  return copy ? titleOf(copy.type, copy.document, [site.settings.defaultLocale, ...localeTags(site.settings)]) : ''
}

/** One entry of a bulk job, in the transaction of its batch. */
async function carryOut(
  kernel: Kernel,
  transaction: Transaction,
  job: Job,
  task: OpenTask,
  id: string,
  author: Author,
): Promise<Pick<JobItem, 'title' | 'state' | 'message' | 'before' | 'after'>> {
  const site = await siteWithId(transaction, job.site)
  const title = await titleOfEntry(transaction, site, id)
  const nothing = { title, before: null, after: null }
  if (task.puttingBack !== undefined) {
    const item = await doneJobItem(transaction, task.puttingBack, id)
    if (!item?.before) return { ...nothing, state: 'skipped', message: 'Nothing was done to it.' }
    const applied: AppliedAction = { before: JSON.parse(item.before) as Before, after: item.after! }
    const undone = await tryOrRefuse(transaction, () => undoOnEntry(kernel, transaction, site, author, id, applied))
    if (undone instanceof WisteriaError) return { ...nothing, state: 'refused', message: whyNot(undone) }
    return { ...nothing, title: title || item.title, state: 'done', message: '' }
  }
  const done = await tryOrRefuse(transaction, () =>
    applyToEntry(kernel, transaction, site, author, task, id, task.all, job.id),
  )
  if (done instanceof WisteriaError) return { ...nothing, state: 'refused', message: whyNot(done) }
  return { title, state: 'done', message: '', before: JSON.stringify(done.before), after: done.after }
}

/** A job's task while it runs: its entries are loaded one by one. */
type OpenTask = BulkTask & { readonly all: ReadonlySet<string> }

const tasks = new Map<string, OpenTask>()

/** A job's task, parsed once while it is under way. */
function taskOf(job: Job): OpenTask {
  const running = tasks.get(job.id)
  if (running) return running
  const read = JSON.parse(job.task) as BulkTask
  const task = { ...read, all: new Set(read.ids) }
  tasks.set(job.id, task)
  return task
}

export const bulkJob = (kernel: Kernel): JobKind => ({
  name: 'bulk',
  permission: 'entry.write',
  step: (job) =>
    kernel.write(async (transaction) => {
      const current = await jobWithId(transaction, job.id)
      if (current?.state !== 'running') return false
      const task = taskOf(job)
      const site = await siteWithId(transaction, job.site)
      const author = { caller: await callerOfActor(kernel, job.actor, site), actor: job.actor }
      const until = performance.now() + batchTime
      let position = current.done
      while (position < task.ids.length) {
        const entry = task.ids[position]!
        const item = await carryOut(kernel, transaction, job, task, entry, author)
        await insertJobItem(transaction, { job: job.id, position, entry, ...item })
        position++
        if (performance.now() > until) break
      }
      const isDone = position >= task.ids.length
      if (isDone) {
        const message = await resultOf(transaction, job.id)
        await endJob(transaction, job.id, { state: 'done', at: kernel.at, message, done: position })
        tasks.delete(job.id)
      } else await keepJobProgress(transaction, job.id, position, job.cursor)
      return !isDone
    }),
  abandon: async (job, state, message) => {
    tasks.delete(job.id)
    await kernel.write(async (transaction) => {
      const result = await resultOf(transaction, job.id)
      await endJob(transaction, job.id, { state, at: kernel.at, message: `${message} ${result}` })
    })
  },
})

async function resultOf(reader: Reader, job: string): Promise<string> {
  const { done = 0, refused = 0, skipped = 0 } = await countJobItems(reader, job)
  const parts = [`${done} done`]
  if (refused > 0) parts.push(`${refused} refused`)
  if (skipped > 0) parts.push(`${skipped} skipped`)
  return `${parts.join(', ')}.`
}
