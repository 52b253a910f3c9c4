import type { Permission } from '@wisteria/core'
import type { JobRow } from '@wisteria/store'
import type { Kernel } from '../kernel.js'

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
 * Runs long work step by step, one job at a time, so that others come in between. What a step does is committed with its
 * progress: after a crash a job goes on where it was.
 */
export class Jobs {
  readonly #kernel: Kernel
  readonly #kinds: Readonly<Record<JobRow['kind'], JobKind>>
  #running: Promise<void> | undefined
  #again = false
  #stopped = false

  constructor(kernel: Kernel, kinds: Readonly<Record<JobRow['kind'], JobKind>>) {
    this.#kernel = kernel
    this.#kinds = kinds
  }

  /** Takes up what there is to do. */
  wake(): void {
    this.#again = true
    this.#running ??= this.#run().finally(() => {
      this.#running = undefined
      if (this.#again && !this.#stopped) this.wake()
    })
  }

  /** What somebody needs to stop a job. */
  permissionFor(job: JobRow): Permission {
    return this.#kinds[job.kind].permission
  }

  /** Ends a job before its time. */
  abandon(job: JobRow): Promise<void> {
    return this.#kinds[job.kind].abandon(job, 'stopped', 'It was stopped.')
  }

  /** Finishes the step that is under way. */
  async stop(): Promise<void> {
    this.#stopped = true
    await this.#running
  }

  async #run(): Promise<void> {
    this.#again = false
    while (!this.#stopped) {
      const [job] = await this.#kernel.database.all<JobRow>(
        "select * from jobs where state = 'running' order by created_at, id limit 1",
      )
      if (!job) return
      const kind = this.#kinds[job.kind]
      try {
        await kind.step(job)
      } catch (error) {
        this.#kernel.logger.error({ err: error, job: job.id }, 'a job failed')
        await kind
          .abandon(job, 'failed', error instanceof Error ? error.message : String(error))
          .catch((second: unknown) => {
            this.#kernel.logger.error({ err: second, job: job.id }, 'a failed job could not be put away')
            this.#stopped = true
          })
      }
    }
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
