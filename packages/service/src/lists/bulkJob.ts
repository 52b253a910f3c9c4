import { localeTags, makeId, titleOf, WisteriaError } from '@wisteria/core'
import {
  siteWithId,
  workingCopiesOf,
  type JobItemRow,
  type JobRow,
  type Reader,
  type Site,
  type Transaction,
} from '@wisteria/store'
import type { JobKind } from '../jobs/jobs.js'
import type { Kernel } from '../kernel/kernel.js'
import { callerOfActor } from '../access/actors.js'
import { doOne, undoOne, type Before, type BulkOrder, type Deed } from './bulkDeeds.js'
import type { Author } from '../workingCopies/saving.js'

/** How long one batch may keep others from writing, in milliseconds. */
const batchTime = 40

/** What a bulk job has to do. The ids are frozen when it begins. */
export interface BulkTask extends BulkOrder {
  readonly ids: readonly string[]
  /** The job that this one puts back. */
  readonly puttingBack?: string
}

/** Begins a job; it is taken up once its transaction has committed. */
export async function beginBulk(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  task: BulkTask,
  message: string,
): Promise<JobRow> {
  const job: JobRow = {
    id: makeId(kernel.environment), site: site.id, kind: 'bulk', state: 'running', done: 0, total: task.ids.length, task: JSON.stringify(task),
    cursor: '', message, actor, created_at: kernel.at, finished_at: null,
  } // prettier-ignore
  await transaction.tables.jobs.create(job)
  return job
}

/** Tries something that is taken back again when it cannot be done, without touching what was done before it. */
export async function attempt<Result>(
  transaction: Transaction,
  work: () => Promise<Result>,
): Promise<Result | WisteriaError> {
  await transaction.run('savepoint one_entry')
  try {
    const result = await work()
    await transaction.run('release one_entry')
    return result
  } catch (error) {
    await transaction.run('rollback to one_entry')
    await transaction.run('release one_entry')
    if (error instanceof WisteriaError) return error
    throw error
  }
}

/** Why something cannot be done, with every place that is in the way. */
export const whyNot = (error: WisteriaError): string =>
  error.problems.length > 1 ? error.problems.map((problem) => problem.message).join(' ') : error.message

export async function titleOfEntry(transaction: Reader, site: Site, id: string): Promise<string> {
  const copy = (await workingCopiesOf(transaction, site, [id])).get(id)
  return copy ? titleOf(copy.type, copy.document, [site.settings.defaultLocale, ...localeTags(site.settings)]) : ''
}

/** One entry of a bulk job, in the transaction of its batch. */
async function carryOut(
  kernel: Kernel,
  transaction: Transaction,
  job: JobRow,
  task: OpenTask,
  id: string,
  author: Author,
): Promise<Pick<JobItemRow, 'title' | 'state' | 'message' | 'before' | 'after'>> {
  const site = await siteWithId(transaction, job.site)
  const title = await titleOfEntry(transaction, site, id)
  const nothing = { title, before: null, after: null }
  if (task.puttingBack !== undefined) {
    const [item] = await transaction.all<JobItemRow>(
      "select * from job_items where job = ? and entry = ? and state = 'done'",
      [task.puttingBack, id],
    )
    if (!item?.before) return { ...nothing, state: 'skipped', message: 'Nothing was done to it.' }
    const deed: Deed = { before: JSON.parse(item.before) as Before, after: item.after! }
    const undone = await attempt(transaction, () => undoOne(kernel, transaction, site, author, id, deed))
    if (undone instanceof WisteriaError) return { ...nothing, state: 'refused', message: whyNot(undone) }
    return { ...nothing, title: title || item.title, state: 'done', message: '' }
  }
  const done = await attempt(transaction, () => doOne(kernel, transaction, site, author, task, id, task.all, job.id))
  if (done instanceof WisteriaError) return { ...nothing, state: 'refused', message: whyNot(done) }
  return { title, state: 'done', message: '', before: JSON.stringify(done.before), after: done.after }
}

/** A job's task as it is worked on: what it is about is looked up for every entry. */
type OpenTask = BulkTask & { readonly all: ReadonlySet<string> }

const tasks = new Map<string, OpenTask>()

/** A job's task, parsed once while it is under way. */
function taskOf(job: JobRow): OpenTask {
  const known = tasks.get(job.id)
  if (known) return known
  const read = JSON.parse(job.task) as BulkTask
  const task = { ...read, all: new Set(read.ids) }
  tasks.set(job.id, task)
  return task
}

export const bulkJob = (kernel: Kernel): JobKind => ({
  permission: 'entry.write',
  step: (job) =>
    kernel.write(async (transaction) => {
      const [current] = await transaction.all<JobRow>('select * from jobs where id = ?', [job.id])
      if (current?.state !== 'running') return false
      const task = taskOf(job)
      const site = await siteWithId(transaction, job.site)
      const author = { caller: await callerOfActor(kernel, job.actor, site), actor: job.actor }
      const until = performance.now() + batchTime
      let position = current.done
      while (position < task.ids.length) {
        const entry = task.ids[position]!
        const item = await carryOut(kernel, transaction, job, task, entry, author)
        await transaction.tables.job_items.create({ job: job.id, position, entry, ...item })
        position++
        if (performance.now() > until) break
      }
      const isDone = position >= task.ids.length
      await transaction.run('update jobs set done = ?, state = ?, message = ?, finished_at = ? where id = ?', [
        position,
        isDone ? 'done' : 'running',
        isDone ? await resultOf(transaction, job.id) : current.message,
        isDone ? kernel.at : null,
        job.id,
      ])
      if (isDone) tasks.delete(job.id)
      return !isDone
    }),
  abandon: async (job, state, message) => {
    tasks.delete(job.id)
    await kernel.write(async (transaction) => {
      const result = await resultOf(transaction, job.id)
      await transaction.run(
        "update jobs set state = ?, message = ?, finished_at = ? where id = ? and state = 'running'",
        [state, `${message} ${result}`, kernel.at, job.id],
      )
    })
  },
})

async function resultOf(reader: Reader, job: string): Promise<string> {
  const rows = await reader.all<{ state: JobItemRow['state']; count: number }>(
    'select state, count(*) as count from job_items where job = ? group by state',
    [job],
  )
  const of = (state: JobItemRow['state']): number => rows.find((row) => row.state === state)?.count ?? 0
  const parts = [`${of('done')} done`]
  if (of('refused') > 0) parts.push(`${of('refused')} refused`)
  if (of('skipped') > 0) parts.push(`${of('skipped')} skipped`)
  return `${parts.join(', ')}.`
}
