import { WisteriaError } from '@wisteria/core'
import {
  abandonAdoption,
  addFactIndexes,
  beginAdoption as begin,
  clearProjection,
  continueAdoption,
  firstBatch,
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

/**
 * Puts another model or other settings in force: at once where there is little to rebuild, or as a job.
 * @returns the job, when it became one.
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
  step: (job) => kernel.write((transaction) => continueAdoption(transaction, kernel.environment, job)),
  abandon: async (job, state, message) => {
    const built = await kernel.write((transaction) => abandonAdoption(transaction, job, state, message, kernel.at))
    await clearLeftProjection(kernel, built)
  },
})

/** Clears rows that nobody reads any more, in transactions as short as those of a job. Rows in use stay. */
async function clearLeftProjection(kernel: Kernel, projection: string): Promise<void> {
  let [size, isLeft] = [firstBatch, true]
  while (isLeft && !kernel.ending.signal.aborted) {
    const began = performance.now()
    isLeft = await kernel.write(
      async (transaction) =>
        !(await isProjectionInUse(transaction, projection)) && (await clearProjection(transaction, projection, size)),
    )
    size = nextBatch(size, began)
  }
}

/** Clears what a crash left of an adoption that was stopped. */
export async function clearLeftProjections(kernel: Kernel): Promise<void> {
  for (const projection of await projectionsWithRows(kernel.database)) await clearLeftProjection(kernel, projection)
}

/** Makes sure, at the start, that every site's projection set has its indexes: a migration may have made its tables anew. */
export async function ensureIndexes(kernel: Kernel): Promise<void> {
  for (const id of await siteIds(kernel.database))
    await kernel.write(async (transaction) => addFactIndexes(transaction, (await siteWithId(transaction, id)).model))
}
