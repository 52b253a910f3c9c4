import { WisteriaError, type Permission } from '@wisteria/core'
import { endJob, firstJobOfEachSite, summaryOf, type Job, type JobSummary } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import type { Work } from '../worker/loop.js'

/** One step of a job in a transaction of its own. @returns whether more steps follow. */
export type JobStep = (job: Job) => Promise<boolean>

/** How a kind of job continues, and how it cleans up when it does not end well. */
export interface JobKind {
  /** As its jobs are stored and shown. */
  readonly name: string
  /** The permission to stop it. */
  readonly permission: Permission
  readonly step: JobStep
  /** After it was stopped or has failed: removes its unfinished work. */
  readonly abandon: (job: Job, state: 'stopped' | 'failed', message: string) => Promise<void>
}

/**
 * Jobs, step by step. Those of a site run one after the other, those of different sites take turns. The work of a step is committed
 * with its progress, so after a crash a job continues where it was.
 */
export class Jobs implements Work<Job> {
  readonly name = 'jobs'
  readonly atOnce = 4
  readonly #kernel: Kernel
  readonly #kinds: ReadonlyMap<string, JobKind>
  /** When each site had its last turn, as the number of the turn. */
  readonly #turns = new Map<string, number>()
  #turn = 0

  /** @param kinds every kind of job. */
  constructor(kernel: Kernel, kinds: readonly JobKind[]) {
    this.#kernel = kernel
    this.#kinds = new Map(kinds.map((kind) => [kind.name, kind]))
  }

  keyOf({ id }: Job): string {
    return id
  }

  async due(most: number, skipped: readonly string[]): Promise<Job[]> {
    const jobs = await firstJobOfEachSite(this.#kernel.database)
    const sites = new Set(jobs.map(({ site }) => site))
    for (const site of this.#turns.keys()) if (!sites.has(site)) this.#turns.delete(site)
    const turnOf = ({ site }: Job): number => this.#turns.get(site) ?? 0
    return jobs
      .filter(({ id }) => !skipped.includes(id))
      .sort((a, b) => turnOf(a) - turnOf(b))
      .slice(0, most)
  }

  /** A new job wakes the loop, and so does the end of each step. */
  next(): Promise<undefined> {
    return Promise.resolve(undefined)
  }

  async run(job: Job): Promise<void> {
    this.#turns.set(job.site, ++this.#turn)
    const kind = this.#kinds.get(job.kind)
    if (!kind) return this.#failUnknown(job)
    try {
      await kind.step(job)
    } catch (error) {
      if (!(error instanceof WisteriaError)) throw error
      await kind.abandon(job, 'failed', error.message)
    }
  }

  async giveUp(job: Job, error: unknown): Promise<void> {
    await this.#kinds.get(job.kind)?.abandon(job, 'failed', error instanceof Error ? error.message : String(error))
  }

  /** The permission to stop a job. */
  permissionFor(job: Job): Permission {
    return this.#kinds.get(job.kind)?.permission ?? 'operate'
  }

  /** Ends a job before its time. */
  async abandon(job: Job): Promise<void> {
    const kind = this.#kinds.get(job.kind)
    if (kind) await kind.abandon(job, 'stopped', 'It was stopped.')
    else await this.#failUnknown(job)
  }

  /** Of a kind that only another version of the service knows. */
  #failUnknown(job: Job): Promise<void> {
    const message = `This version of the service does not know jobs of the kind \`${job.kind}\`.`
    return this.#kernel.write((transaction) =>
      endJob(transaction, job.id, { state: 'failed', at: this.#kernel.at, message }),
    )
  }
}

/** A job as the Edit API shows it, whether it was listed or is at hand. */
export function jobView(job: Job | JobSummary) {
  const { id, kind, does, undoes, state, done, total, message, actor, createdAt, finishedAt } =
    'task' in job ? summaryOf(job) : job
  return { id, kind, does, undoes, state, done, total, message, startedBy: actor, createdAt, finishedAt }
}
