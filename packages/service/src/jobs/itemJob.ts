import type { Permission } from '@wisteria/core'
import {
  countJobItems,
  endJob,
  insertJobItem,
  jobWithId,
  keepJobProgress,
  type Job,
  type JobItem,
  type Reader,
  type Transaction,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import type { JobKind } from './jobs.js'

/** How long one step may block other writes, in milliseconds. */
const stepTime = 40

/** The result of one item of a job; without what undoing it needs where it cannot be undone. */
export type ItemResult = Pick<JobItem, 'entry' | 'title' | 'state' | 'message'> &
  Partial<Pick<JobItem, 'before' | 'after'>>

/** A job under way, in the transaction of a step. */
export interface OpenJob {
  /** Does the item at a position, from 0. A refusal must undo its own work only. */
  readonly one: (position: number) => Promise<ItemResult>
  /** What the job keeps besides its progress. */
  readonly cursor?: () => string
}

/** A kind of job that goes through items, each with a result of its own: as many in a step as its time allows. */
export const itemJob = (
  kernel: Kernel,
  kind: {
    readonly name: string
    readonly permission: Permission
    readonly open: (transaction: Transaction, job: Job) => Promise<OpenJob>
    /** After its end. */
    readonly close?: (job: Job) => void
  },
): JobKind => ({
  name: kind.name,
  permission: kind.permission,
  step: (job) =>
    kernel.write(async (transaction) => {
      const current = await jobWithId(transaction, job.id)
      if (current?.state !== 'running') return false
      const { one, cursor } = await kind.open(transaction, current)
      const until = performance.now() + stepTime
      let { done } = current
      while (done < current.total) {
        const item = await one(done)
        await insertJobItem(transaction, { job: job.id, position: done, before: null, after: null, ...item })
        done++
        if (performance.now() > until) break
      }
      if (done < current.total) {
        await keepJobProgress(transaction, job.id, done, cursor?.() ?? current.cursor)
        return true
      }
      const message = await resultOf(transaction, job.id)
      await endJob(transaction, job.id, { state: 'done', at: kernel.at, message, done })
      kind.close?.(job)
      return false
    }),
  abandon: async (job, state, message) => {
    kind.close?.(job)
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
