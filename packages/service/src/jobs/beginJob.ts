import { makeId } from '@wisteria/core'
import { insertJob, type Job, type Site, type Transaction } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'

/** A job before it has an id and a time. */
export interface NewJob {
  readonly kind: string
  readonly actor: string
  readonly total: number
  /** How much of it is done already. */
  readonly done?: number
  /** As its kind reads it: stored as JSON. */
  readonly task: unknown
  /** How far it is, as its kind reads it. */
  readonly cursor?: string
  readonly message: string
}

/** Stores a job; it runs once its transaction has committed. */
export async function beginJob(
  kernel: Kernel,
  transaction: Transaction,
  site: Pick<Site, 'id'>,
  { kind, actor, total, done = 0, task, cursor = '', message }: NewJob,
): Promise<Job> {
  const job: Job = {
    id: makeId(kernel.environment),
    site: site.id,
    kind,
    state: 'running',
    done,
    total,
    task: JSON.stringify(task),
    cursor,
    message,
    actor,
    createdAt: kernel.at,
    finishedAt: null,
  }
  await insertJob(transaction, job)
  return job
}
