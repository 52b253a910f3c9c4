import { WisteriaError, type Permission } from '@wisteria/core'
import type { JobRow } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import type { Work } from '../worker/loop.js'

/** One step of a job in a transaction of its own. @returns whether there is more to do. */
export type JobStep = (job: JobRow) => Promise<boolean>

/** How a kind of job goes on, and what is put right when it does not end well. */
export interface JobKind {
  /** What somebody needs to stop it. */
  readonly permission: Permission
  readonly step: JobStep
  /** After it was stopped or has failed: takes away what it had made. */
  readonly abandon: (job: JobRow, state: 'stopped' | 'failed', message: string) => Promise<void>
}

/**
 * Long work, step by step, one job at a time, so that others come in between. What a step does is committed with its
 * progress: after a crash a job goes on where it was.
 */
export class Jobs implements Work<JobRow> {
  readonly name = 'jobs'
  readonly atOnce = 1
  readonly #kernel: Kernel
  readonly #kinds: Readonly<Record<JobRow['kind'], JobKind>>

  constructor(kernel: Kernel, kinds: Readonly<Record<JobRow['kind'], JobKind>>) {
    this.#kernel = kernel
    this.#kinds = kinds
  }

  keyOf({ id }: JobRow): string {
    return id
  }

  due(most: number, skipped: readonly string[]): Promise<JobRow[]> {
    return this.#kernel.database.all<JobRow>(
      `select * from jobs where state = 'running' and id not in (select value from json_each(?)) order by created_at, id limit ?`,
      [JSON.stringify(skipped), most],
    )
  }

  /** Whoever begins a job wakes the loop, and so does the end of each step. */
  next(): Promise<undefined> {
    return Promise.resolve(undefined)
  }

  async run(job: JobRow): Promise<void> {
    const kind = this.#kinds[job.kind]
    try {
      await kind.step(job)
    } catch (error) {
      if (!(error instanceof WisteriaError)) throw error
      await kind.abandon(job, 'failed', error.message)
    }
  }

  setAside(job: JobRow, error: unknown): Promise<void> {
    return this.#kinds[job.kind].abandon(job, 'failed', error instanceof Error ? error.message : String(error))
  }

  /** What somebody needs to stop a job. */
  permissionFor(job: JobRow): Permission {
    return this.#kinds[job.kind].permission
  }

  /** Ends a job before its time. */
  abandon(job: JobRow): Promise<void> {
    return this.#kinds[job.kind].abandon(job, 'stopped', 'It was stopped.')
  }
}

export const jobView = (row: JobRow) => ({
  id: row.id,
  kind: row.kind,
  state: row.state,
  done: row.done,
  total: row.total,
  message: row.message,
  startedBy: row.actor,
  createdAt: row.created_at,
  finishedAt: row.finished_at,
})
