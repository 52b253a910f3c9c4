import { WisteriaError, type Permission } from '@wisteria/core'
import { runningJobs, type Job } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import type { Work } from '../worker/loop.js'

/** One step of a job in a transaction of its own. @returns whether there is more to do. */
export type JobStep = (job: Job) => Promise<boolean>

/** How a kind of job goes on, and what is put right when it does not end well. */
export interface JobKind {
  /** What somebody needs to stop it. */
  readonly permission: Permission
  readonly step: JobStep
  /** After it was stopped or has failed: takes away what it had made. */
  readonly abandon: (job: Job, state: 'stopped' | 'failed', message: string) => Promise<void>
}

/**
 * Long work, step by step, one job at a time, so that others come in between. What a step does is committed with its
 * progress: after a crash a job goes on where it was.
 */
export class Jobs implements Work<Job> {
  readonly name = 'jobs'
  readonly atOnce = 1
  readonly #kernel: Kernel
  readonly #kinds: Readonly<Record<Job['kind'], JobKind>>

  constructor(kernel: Kernel, kinds: Readonly<Record<Job['kind'], JobKind>>) {
    this.#kernel = kernel
    this.#kinds = kinds
  }

  keyOf({ id }: Job): string {
    return id
  }

  due(most: number, skipped: readonly string[]): Promise<Job[]> {
    return runningJobs(this.#kernel.database, most, skipped)
  }

  /** Whoever begins a job wakes the loop, and so does the end of each step. */
  next(): Promise<undefined> {
    return Promise.resolve(undefined)
  }

  async run(job: Job): Promise<void> {
    const kind = this.#kinds[job.kind]
    try {
      await kind.step(job)
    } catch (error) {
      if (!(error instanceof WisteriaError)) throw error
      await kind.abandon(job, 'failed', error.message)
    }
  }

  setAside(job: Job, error: unknown): Promise<void> {
    return this.#kinds[job.kind].abandon(job, 'failed', error instanceof Error ? error.message : String(error))
  }

  /** What somebody needs to stop a job. */
  permissionFor(job: Job): Permission {
    return this.#kinds[job.kind].permission
  }

  /** Ends a job before its time. */
  abandon(job: Job): Promise<void> {
    return this.#kinds[job.kind].abandon(job, 'stopped', 'It was stopped.')
  }
}

export const jobView = (job: Job) => ({
  id: job.id,
  kind: job.kind,
  state: job.state,
  done: job.done,
  total: job.total,
  message: job.message,
  startedBy: job.actor,
  createdAt: job.createdAt,
  finishedAt: job.finishedAt,
})
