import { makeId, WisteriaError, type Environment } from '@wisteria/core'
import type { Transaction } from '../connection/reader.js'
import { countEntriesOnSite } from '../entries/workingCopies.js'
import { endJob, insertJob, jobWithId, keepJobProgress, type Job } from '../jobs/jobs.js'
import { deleteProposals } from '../sites/models.js'
import { markAdoption, siteWithId, type AdoptionTask, type Site } from '../sites/sites.js'
import { asAdopted, buildBatch, prepareProjection, unbuilt, type Progress } from './building.js'
import { clearProjection } from './clearing.js'
import { switchTo } from './switching.js'

/*
 * Another model, or other settings, put in force for everything that is stored. Rows are built anew in a projection set of their own in small
 * batches, while those who publish write both sets; then one short transaction switches to the new one, and the old one is
 * cleared, again in small batches.
 */

/** Up to so many entries it is done at once; above, as a job. */
const atOnce = 300
/** How long one step of a job may keep others from writing, in milliseconds; its size follows. */
const stepTime = 50
const maxBatch = 500
export const firstBatch = 20

interface Cursor {
  readonly phase: 'building' | 'clearing'
  readonly progress: Progress
  /** The projection set that is left, while it is being cleared. */
  readonly old: string
  readonly size: number
}

/** What is to be put in force. */
export type AdoptionOrder = Pick<AdoptionTask, 'what' | 'model' | 'settings'> &
  Partial<Pick<AdoptionTask, 'files' | 'consequences'>>

/**
 * Puts another model or other settings in force: at once where there is little to rebuild, or as a job.
 * @returns the job, when it became one.
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
  const cursor: Cursor = { phase: 'building', progress: unbuilt, old: site.projection, size: firstBatch }
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
 * One step of an adoption that became a job: a batch, the switch, or a part of clearing the old projection set.
 * @returns whether there is more to do.
 */
export async function continueAdoption(transaction: Transaction, environment: Environment, job: Job): Promise<boolean> {
  if ((await jobWithId(transaction, job.id))?.state !== 'running') return false
  const cursor = JSON.parse(job.cursor) as Cursor
  const keep = (done: number, changed: Partial<Cursor>) =>
    keepJobProgress(transaction, job.id, done, JSON.stringify({ ...cursor, ...changed }))
  const began = performance.now()
  if (cursor.phase === 'clearing') {
    const more = await clearProjection(transaction, cursor.old, cursor.size)
    if (more) await keep(job.total, { size: nextBatch(cursor.size, began) })
    else await endJob(transaction, job.id, { state: 'done', at: new Date(environment.now()).toISOString() })
    return more
  }
  const site = await siteWithId(transaction, job.site)
  const task = JSON.parse(job.task) as AdoptionTask
  const next = asAdopted(site, task.model, task.settings, task.projection)
  if (cursor.progress.phase === 'built') {
    await switchTo(transaction, environment, site, next, task, cursor.progress)
    await keep(job.total, { phase: 'clearing' })
    return true
  }
  const progress = await buildBatch(transaction, site, next, cursor.progress, cursor.size, task.at)
  await keep(Math.min(progress.done, job.total), { progress, size: nextBatch(cursor.size, began) })
  return true
}

/**
 * Ends an adoption before its time: everything stays as it was. What was built of it is still to be cleared.
 * @returns the projection set to clear.
 * @throws WisteriaError `conflict` where somebody stops it and it is in force already.
 */
export async function abandonAdoption(
  transaction: Transaction,
  job: Job,
  state: 'stopped' | 'failed',
  message: string,
  at: string,
): Promise<string> {
  const { projection } = JSON.parse(job.task) as AdoptionTask
  const site = await siteWithId(transaction, job.site)
  if (site.projection === projection && state === 'stopped')
    throw new WisteriaError(
      'conflict',
      'It is in force already; only what was there before is still being cleared away.',
    )
  await endJob(transaction, job.id, { state, at, message })
  await markAdoption(transaction, job.site, null, job.id)
  return projection
}

/** How much the next step does, after one that began at a time: as much as fits into a step's time. */
export function nextBatch(size: number, began: number): number {
  const fitting = stepTime / Math.max(1, performance.now() - began)
  return Math.max(1, Math.min(maxBatch, Math.round(size * Math.max(0.5, Math.min(2, fitting)))))
}
