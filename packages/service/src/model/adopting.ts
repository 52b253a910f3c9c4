import { WisteriaError } from '@wisteria/core'
import {
  abandonAdoption,
  addFactIndexes,
  beginAdoption as begin,
  clearProjection,
  continueAdoption,
  firstBatch,
  isBuilding,
  isProjectionInUse,
  nextBatch,
  projectionsWithRows,
  siteIds,
  siteWithId,
  type AdoptionOrder,
  type Job,
  type Site,
  type Transaction,
} from '@wisteria/store'
import type { JobKind } from '../jobs/jobs.js'
import type { Kernel } from '../kernel/kernel.js'
import type { Work } from '../worker/loop.js'

/**
 * Puts another model or other settings in force: at once where there is little to rebuild, or as a job.
 * @returns the job, if there is one.
 */
export function beginAdoption(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  order: AdoptionOrder,
): Promise<Job | undefined> {
  requireNoAdoption(site)
  return begin(transaction, kernel.environment, site, actor, order)
}

/** @throws WisteriaError `conflict` while another adoption is under way. */
export function requireNoAdoption(site: Site): void {
  if (site.next)
    throw new WisteriaError(
      'conflict',
      `Another ${site.next.model.version === site.model.version ? 'change of the settings' : 'model'} is being adopted just now. Wait until that job has ended, then compare again.`,
    )
}

/** An adoption as a job: a step in a transaction of its own, so that others write in between. */
export const adoptionJob = (kernel: Kernel): JobKind => ({
  name: 'adoption',
  permission: 'model.change',
  step: (job) => kernel.write((transaction) => continueAdoption(transaction, kernel.environment, job), isBuilding(job)),
  abandon: (job, state, message) =>
    kernel.write((transaction) => abandonAdoption(transaction, job, state, message, kernel.at)),
})

/** Clears projection sets that no site reads any more, in transactions as short as those of a job. */
export class ClearingWork implements Work<string> {
  readonly name = 'clearing'
  readonly atOnce = 1
  readonly #kernel: Kernel
  readonly #sizes = new Map<string, number>()
  /** A crash may have left one. */
  #mayBeLeft = true

  constructor(kernel: Kernel) {
    this.#kernel = kernel
  }

  /** An adoption has ended, one way or the other. */
  tell(): void {
    this.#mayBeLeft = true
  }

  keyOf(projection: string): string {
    return projection
  }

  async due(most: number, skipped: readonly string[]): Promise<string[]> {
    if (!this.#mayBeLeft) return []
    const { database } = this.#kernel
    this.#mayBeLeft = false
    const left: string[] = []
    for (const projection of await projectionsWithRows(database))
      if (!(await isProjectionInUse(database, projection))) left.push(projection)
    this.#mayBeLeft ||= left.length > 0
    return left.filter((projection) => !skipped.includes(projection)).slice(0, most)
  }

  /** The end of each step wakes the loop. */
  next(): Promise<undefined> {
    return Promise.resolve(undefined)
  }

  async run(projection: string): Promise<void> {
    const [size, began] = [this.#sizes.get(projection) ?? firstBatch, performance.now()]
    const isLeft = await this.#kernel.database.write(
      async (transaction) =>
        !(await isProjectionInUse(transaction, projection)) && (await clearProjection(transaction, projection, size)),
      true,
    )
    if (isLeft) this.#sizes.set(projection, nextBatch(size, began))
    else this.#sizes.delete(projection)
  }

  /** A set that cannot be cleared does no harm, and is tried again at the next start. */
  giveUp(): Promise<void> {
    this.#mayBeLeft = false
    return Promise.resolve()
  }
}

/** Makes sure, at the start, that every site's projection set has its indexes: a migration may have rebuilt its tables. */
export async function ensureIndexes(kernel: Kernel): Promise<void> {
  for (const id of await siteIds(kernel.database))
    await kernel.write(async (transaction) => addFactIndexes(transaction, (await siteWithId(transaction, id)).model))
}
