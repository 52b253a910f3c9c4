import { makeId, type Environment } from '@wisteria/core'
import type { Transaction } from '../connection/reader.js'
import { countEntriesOnSite } from '../entries/workingCopies.js'
import { endJob, insertJob, jobWithId, keepJobProgress, type Job } from '../jobs/jobs.js'
import { deleteProposals } from '../sites/models.js'
import { markAdoption, siteWithId, type AdoptionTask, type Site } from '../sites/sites.js'
import { asAdopted, buildBatch, prepareProjection, unbuilt, type Progress } from './building.js'
import { clearProjection } from './clearing.js'
import { switchTo } from './switching.js'

/*
 * Puts another model or other settings in force for all stored content. Rows are rebuilt in a new projection set, in small batches,
 * while publishing writes both sets; then one short transaction switches to the new set. The old set is cleared afterwards, again
 * in small batches, and blocks no other writes.
 */

/** Up to so many entries it is done at once; above, as a job. */
const atOnce = 300
/** How long one step of a job may block other writes, in milliseconds; its size follows. */
const stepTime = 50
const maxBatch = 500
export const firstBatch = 20

interface Cursor {
  readonly progress: Progress
  /** How many entries the next step builds. */
  readonly size: number
}

/** The model or settings to put in force. */
export type AdoptionOrder = Pick<AdoptionTask, 'what' | 'model' | 'settings'> &
  Partial<Pick<AdoptionTask, 'files' | 'consequences'>>

/**
 * Puts another model or other settings in force: at once where there is little to rebuild, or as a job.
 * @returns the job, if there is one.
 */
export async function beginAdoption(
  transaction: Transaction,
  environment: Environment,
  site: Site,
  actor: string,
  order: AdoptionOrder,
): Promise<Job | undefined> {
  const total = await countEntriesOnSite(transaction, site.id)
  const id = makeId(environment)
  const task: AdoptionTask = {
    files: [],
    consequences: [],
    ...order,
    projection: id,
    at: new Date(environment.now()).toISOString(),
    sequence: site.sequence + 1,
    actor,
  }
  const next = asAdopted(site, task.model, task.settings, task.projection)
  await deleteProposals(transaction, site.id)
  await prepareProjection(transaction, next)
  if (total <= atOnce) {
    let progress = unbuilt
    while (progress.phase !== 'built') progress = await buildBatch(transaction, site, next, progress, atOnce, task.at)
    await switchTo(transaction, environment, site, next, task, progress)
    while (await clearProjection(transaction, site.projection, atOnce)) continue
    return undefined
  }
  const cursor: Cursor = { progress: unbuilt, size: firstBatch }
  const job: Job = {
    id,
    site: site.id,
    kind: 'adoption',
    state: 'running',
    done: 0,
    total,
    task: JSON.stringify(task),
    cursor: JSON.stringify(cursor),
    message:
      task.what === 'model'
        ? `Adopting version ${task.model.version} of the model.`
        : 'Putting other settings in force.',
    actor,
    createdAt: task.at,
    finishedAt: null,
  }
  await insertJob(transaction, job)
  await markAdoption(transaction, site.id, id)
  return job
}

/**
 * One step of an adoption that is a job: a batch, or the switch.
 * @returns whether more steps follow.
 */
export async function continueAdoption(transaction: Transaction, environment: Environment, job: Job): Promise<boolean> {
  if ((await jobWithId(transaction, job.id))?.state !== 'running') return false
  const { progress, size } = JSON.parse(job.cursor) as Cursor
  const began = performance.now()
  const site = await siteWithId(transaction, job.site)
  const task = JSON.parse(job.task) as AdoptionTask
  const next = asAdopted(site, task.model, task.settings, task.projection)
  if (progress.phase !== 'built') {
    const now = await buildBatch(transaction, site, next, progress, size, task.at)
    const cursor: Cursor = { progress: now, size: nextBatch(size, began) }
    await keepJobProgress(transaction, job.id, Math.min(now.done, job.total), JSON.stringify(cursor))
    return true
  }
  // In an earlier version the job went on after the switch, and may be going on now.
  if (site.projection !== next.projection) await switchTo(transaction, environment, site, next, task, progress)
  await endJob(transaction, job.id, { state: 'done', at: new Date(environment.now()).toISOString() })
  transaction.touch('clearing')
  return false
}

/** Whether a step of an adoption builds rows, which can be repeated after a loss of power, or puts them in force. */
export const isBuilding = (job: Job): boolean => (JSON.parse(job.cursor) as Cursor).progress.phase !== 'built'

/** Stops an adoption: everything stays as it was, and its rows are cleared. */
export async function abandonAdoption(
  transaction: Transaction,
  job: Job,
  state: 'stopped' | 'failed',
  message: string,
  at: string,
): Promise<void> {
  await endJob(transaction, job.id, { state, at, message })
  await markAdoption(transaction, job.site, null, job.id)
  transaction.touch('clearing')
}

/** The size of the next step, after one that began at a time: as much as fits into a step's time. */
export function nextBatch(size: number, began: number): number {
  const fitting = stepTime / Math.max(1, performance.now() - began)
  return Math.max(1, Math.min(maxBatch, Math.round(size * Math.max(0.5, Math.min(2, fitting)))))
}
