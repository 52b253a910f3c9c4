import { localeTags, titleOf, WisteriaError } from '@wisteria/core'
import {
  doneJobItem,
  siteWithId,
  workingCopiesOf,
  type Job,
  type JobItem,
  type Reader,
  type Site,
  type Transaction,
} from '@wisteria/store'
import { itemJob } from '../jobs/itemJob.js'
import { beginJob } from '../jobs/beginJob.js'
import type { JobKind } from '../jobs/jobs.js'
import { tryOrRefuse, whyNot } from '../kernel/attempt.js'
import type { Kernel } from '../kernel/kernel.js'
import { callerOfActor } from '../access/actors.js'
import { applyToEntry, undoOnEntry, type Before, type BulkOrder, type AppliedAction } from '../entries/entryActions.js'
import type { Author } from '../workingCopies/saving.js'

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
  return beginJob(kernel, transaction, site, { kind: 'bulk', actor, total: task.ids.length, task, message })
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

export const bulkJob = (kernel: Kernel): JobKind =>
  itemJob(kernel, {
    name: 'bulk',
    permission: 'entry.write',
    open: async (transaction, job) => {
      const task = taskOf(job)
      const site = await siteWithId(transaction, job.site)
      const author = { caller: await callerOfActor(kernel, job.actor, site), actor: job.actor }
      return {
        one: async (position) => {
          const entry = task.ids[position]!
          return { entry, ...(await carryOut(kernel, transaction, job, task, entry, author)) }
        },
      }
    },
    close: (job) => void tasks.delete(job.id),
  })
