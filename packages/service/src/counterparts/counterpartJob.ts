import {
  copiedOrigins,
  copyDocument,
  localeTags,
  makeId,
  referencesOf,
  storedRegion,
  titleOf,
  WisteriaError,
  type ContentType,
  type Document,
} from '@wisteria/core'
import {
  becomeRoot,
  counterpartsIn,
  sealNewest,
  siteWithId,
  workingCopyOf,
  type Job,
  type Reader,
  type Site,
  type Transaction,
} from '@wisteria/store'
import { callerOfActor } from '../access/actors.js'
import { itemJob, type ItemResult } from '../jobs/itemJob.js'
import { beginJob } from '../jobs/beginJob.js'
import type { JobKind } from '../jobs/jobs.js'
import { tryOrRefuse, whyNot } from '../kernel/attempt.js'
import type { Kernel } from '../kernel/kernel.js'
import { createCopy } from '../workingCopies/creating.js'
import type { Author } from '../workingCopies/saving.js'

interface CounterpartTask {
  readonly region: string
  /** The ids of the sources, parents first. */
  readonly ids: readonly string[]
  /** The ids that their counterparts get, in the same order. */
  readonly copies: readonly string[]
}

/** Begins to make counterparts. Their ids are chosen first, so that they can refer to each other in any order. */
export async function beginCounterparts(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  region: string,
  ids: readonly string[],
): Promise<Job> {
  const task: CounterpartTask = { region, ids, copies: ids.map(() => makeId(kernel.environment)) }
  const message = `Copying ${ids.length === 1 ? '1 entry' : `${ids.length} entries`} to ${region}.`
  return beginJob(kernel, transaction, site, { kind: 'counterparts', actor, total: ids.length, task, message })
}

/**
 * A document as a region has it: what it refers to is replaced by its counterpart there, where it has one. Items keep their ids, so
 * that it can be compared with its source.
 */
export async function documentInRegion(
  reader: Reader,
  site: Site,
  type: ContentType,
  document: Document,
  region: string,
  made: ReadonlyMap<string, string> = new Map(),
): Promise<Document> {
  const ids = new Set(
    referencesOf(site.model, type, document, localeTags(site.settings)).flatMap(({ to, target }) =>
      to === 'entry' ? [target] : [],
    ),
  )
  const there = await counterpartsIn(reader, site, [...ids], region)
  return copyDocument(site.model, type, document, {
    entry: (id) => made.get(id) ?? there.get(id) ?? id,
    asset: (id) => id,
    locale: () => true,
  })
}

async function makeOne(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  region: string,
  made: ReadonlyMap<string, string>,
  id: string,
): Promise<ItemResult> {
  const source = await workingCopyOf(transaction, site, id)
  if (!source) return { entry: id, title: '', state: 'skipped', message: 'It is gone.' }
  const tags = localeTags(site.settings)
  const title = titleOf(source.type, source.document, [site.settings.defaultLocale, ...tags])
  if ((await counterpartsIn(transaction, site, [id], region)).size > 0)
    return { entry: id, title, state: 'skipped', message: `It has a counterpart in ${region} already.` }
  const done = await tryOrRefuse(transaction, async () => {
    const { type, revision, origins = {} } = source
    const document = await documentInRegion(transaction, site, type, source.document, region, made)
    const counterpartRoot = await becomeRoot(transaction, source)
    // What was copied stays as it is, to compare later changes with.
    await sealNewest(transaction, source, kernel.at)
    return createCopy(kernel, transaction, site, author, {
      type,
      document,
      id: made.get(id)!,
      copied: copiedOrigins(origins),
      region: storedRegion(region),
      counterpart: { of: id, revision },
      counterpartRoot,
    })
  })
  if (done instanceof WisteriaError) return { entry: id, title, state: 'refused', message: whyNot(done) }
  return { entry: done.id, title, state: 'done', message: '' }
}

/** Makes counterparts, a few entries in a transaction. */
export const counterpartJob = (kernel: Kernel): JobKind =>
  itemJob(kernel, {
    name: 'counterparts',
    permission: 'entry.write',
    open: async (transaction, job) => {
      const { region, ids, copies } = JSON.parse(job.task) as CounterpartTask
      const made = new Map(ids.map((id, index) => [id, copies[index]!]))
      const site = await siteWithId(transaction, job.site)
      const author = { caller: await callerOfActor(kernel, job.actor, site), actor: job.actor }
      return { one: (position) => makeOne(kernel, transaction, site, author, region, made, ids[position]!) }
    },
  })
