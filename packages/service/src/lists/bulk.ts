import {
  bulkActions,
  childrenFirst,
  editFacts,
  parentOf,
  parentsFirst,
  WisteriaError,
  type BulkAction,
  type BulkItem,
  type NamedEdit,
} from '@wisteria/core'
import {
  entriesDoneBy,
  idsOf,
  jobItemsAfter,
  siteWithId,
  workingCopiesOf,
  type Reader,
  type Site,
} from '@wisteria/store'
import { z } from 'zod'
import { jobView } from '../jobs/jobs.js'
import { requireJob } from '../jobs/routes.js'
import { tryOrRefuse, whyNot } from '../kernel/attempt.js'
import type { Kernel } from '../kernel/kernel.js'
import { requirePermission } from '../kernel/permission.js'
import { planList, requireLocale, requireType } from '../read/listQuery.js'
import { route, type Route } from '../kernel/route.js'
import { applyToEntry, permissionOfAction, type BulkOrder } from '../entries/entryActions.js'
import { beginBulk, titleOfEntry, type BulkTask } from './bulkJob.js'
import { namedEdit } from '../workingCopies/namedEdit.js'
import type { Author } from '../workingCopies/saving.js'

/** The most entries that one job changes. */
const maxEntries = 100_000
/** How many a dry run tries at most, and how long it may keep others from writing, in milliseconds. */
const maxTried = 200
const trialTime = 50

/** Items of a job on a page. */
const pageSize = 200

const verbs: Readonly<Record<BulkAction, string>> = {
  publish: 'Publishing',
  withdraw: 'Withdrawing',
  archive: 'Archiving',
  reactivate: 'Reactivating',
  delete: 'Deleting',
  duplicate: 'Duplicating',
  edit: 'Changing',
}

const entriesWord = (count: number): string => (count === 1 ? '1 entry' : `${count} entries`)

/** The entries of a request: by their ids, or all that a list finds. */
const chosen = {
  ids: z.array(z.string().max(60)).min(1, 'names no entry').max(10_000).optional(),
  type: z.string().optional(),
  search: z.string().max(500).optional(),
  where: z.string().optional(),
  all: z.literal(true).optional(),
  locale: z.string().optional(),
}

interface Chosen {
  readonly ids?: readonly string[] | undefined
  readonly type?: string | undefined
  readonly search?: string | undefined
  readonly where?: string | undefined
  readonly all?: true | undefined
  readonly locale?: string | undefined
}

/** The ids of the chosen entries, in the order in which each follows those that it depends on. */
async function idsChosen(
  kernel: Kernel,
  reader: Reader,
  site: Site,
  body: Chosen,
  does: BulkAction,
): Promise<string[]> {
  const asked = body.type !== undefined || body.search !== undefined || body.where !== undefined || body.all === true
  if (asked === (body.ids !== undefined))
    throw new WisteriaError(
      'badRequest',
      'Say which entries: either `ids`, or all that `type`, `search` and `where` find; `all: true` for all there are.',
    )
  const ids = body.ids ? [...new Set(body.ids)] : await idsFound(kernel, reader, site, body)
  if (ids.length > maxEntries)
    throw new WisteriaError('tooLarge', `More than ${maxEntries} entries: narrow the condition.`)
  return sortedForest(reader, site, ids, does)
}

async function idsFound(kernel: Kernel, reader: Reader, site: Site, body: Chosen): Promise<string[]> {
  const type = body.type === undefined ? undefined : requireType(site, body.type)
  const plan = planList(kernel, site, type, 'draft', {
    where: body.where,
    search: body.search,
    locale: requireLocale(site, body.locale),
    facts: editFacts,
  })
  return idsOf(reader, plan.query, maxEntries + 1)
}

/** Parents before their children when publishing, after them when withdrawing. */
async function sortedForest(reader: Reader, site: Site, ids: readonly string[], does: BulkAction): Promise<string[]> {
  if (!site.model.types.some((type) => type.parent !== undefined)) return [...ids]
  const parents = new Map<string, string>()
  for (let from = 0; from < ids.length; from += 500)
    for (const [id, copy] of await workingCopiesOf(reader, site, ids.slice(from, from + 500))) {
      const parent = parentOf(copy.type, copy.document)
      if (parent !== undefined) parents.set(id, parent)
    }
  const inOrder = ['withdraw', 'archive', 'delete'].includes(does) ? childrenFirst : parentsFirst
  return inOrder(ids.map((id) => ({ id, parent: parents.get(id) }))).map(({ id }) => id)
}

/** The result for each of the first entries; everything that was tried is rolled back. */
async function tryOut(kernel: Kernel, site: Site, author: Author, order: BulkOrder, ids: readonly string[]) {
  const taken = ids.slice(0, maxTried)
  const items: BulkItem[] = []
  const rollback = new Error('a dry run leaves nothing behind')
  await kernel.database
    .write(async (transaction) => {
      const until = performance.now() + trialTime
      const all = new Set(ids)
      for (const entry of taken) {
        if (items.length > 0 && performance.now() > until) break
        const now = await siteWithId(transaction, site.id)
        const title = await titleOfEntry(transaction, now, entry)
        const done = await tryOrRefuse(transaction, () =>
          applyToEntry(kernel, transaction, now, author, order, entry, all),
        )
        items.push(
          done instanceof WisteriaError
            ? { entry, title, state: 'refused', message: whyNot(done) }
            : { entry, title, state: 'done', message: '' },
        )
      }
      throw rollback
    })
    .catch((error: unknown) => {
      if (error !== rollback) throw error
    })
  return { total: ids.length, tried: items.length, items }
}

/** @throws WisteriaError where an action lacks a member, or has one of another action. */
function readOrder(
  site: Site,
  body: { do: BulkAction; locales?: readonly string[] | undefined; edits?: readonly NamedEdit[] | undefined },
): BulkOrder {
  const { do: does, locales, edits } = body
  if ((does === 'edit') !== (edits !== undefined))
    throw new WisteriaError(
      'badRequest',
      does === 'edit' ? '`edits` must say what to change.' : 'Only `do: edit` takes `edits`.',
    )
  if (locales && does !== 'publish' && does !== 'withdraw')
    throw new WisteriaError('badRequest', 'Only `publish` and `withdraw` take `locales`.')
  for (const locale of locales ?? []) requireLocale(site, locale)
  return { does, locales, edits }
}

const base = '/edit/v1/sites/{site}'

export const bulkRoutes: readonly Route[] = [
  route({
    method: 'POST',
    path: `${base}/entries/bulk`,
    insteadOfDryRun: 'Send `dryRun: true` in its body.',
    summary:
      'Does one action on many entries, as a job: those in `ids`, or all that `type`, `search` and `where` find now. `dryRun` answers what it would do to the first of them and changes nothing.',
    permission: 'entry.write',
    idempotent: true,
    body: z.strictObject({
      do: z.enum(bulkActions, `must be one of ${bulkActions.join(', ')}`),
      ...chosen,
      locales: z.array(z.string().max(40)).min(1).max(200).optional(),
      edits: z.array(namedEdit).min(1).max(100).optional(),
      dryRun: z.boolean().optional(),
    }),
    handle: async (request) => {
      const { kernel, body } = request
      requirePermission(request.caller, permissionOfAction[body.do], request.site)
      const order = readOrder(request.site, body)
      if (body.dryRun) {
        const ids = await idsChosen(kernel, kernel.database, request.site, body, body.do)
        return { body: await tryOut(kernel, request.site, request, order, ids) }
      }
      const answer = await request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const ids = await idsChosen(kernel, transaction, site, body, body.do)
        const message = `${verbs[body.do]} ${entriesWord(ids.length)}.`
        const job = await beginBulk(kernel, transaction, site, request.actor, { ...order, ids }, message)
        return { status: 202, body: jobView(job) }
      })
      kernel.jobs.wake()
      return answer
    },
  }),
  route({
    method: 'GET',
    path: `${base}/jobs/{id}/items`,
    summary: 'The results of a bulk job so far, entry by entry; `refused=true` for those that were refused or skipped.',
    permission: 'draft.read',
    query: z.object({
      after: z.coerce.number().int().min(-1).default(-1),
      refused: z.enum(['true', 'false']).optional(),
    }),
    handle: async ({ kernel, site, params, query }) => {
      const job = await requireJob(kernel, site, params['id']!)
      const onlyFailed = query.refused === 'true'
      const found = await jobItemsAfter(kernel.database, job.id, query.after, pageSize + 1, onlyFailed)
      const page = found.slice(0, pageSize)
      const items = page.map(({ entry, title, state, message }) => ({ entry, title, state, message }))
      return { body: { items, next: found.length > pageSize ? page.at(-1)!.position : null } }
    },
  }),
  route({
    method: 'POST',
    path: `${base}/jobs/{id}/undo`,
    insteadOfDryRun: 'The items of the job say what it changed.',
    summary: 'Undoes a bulk action, as another job. Entries that somebody changed since stay as they are.',
    permission: 'entry.write',
    idempotent: true,
    handle: async (request) => {
      const { kernel } = request
      const job = await requireJob(kernel, request.site, request.params['id']!)
      const task = job.kind === 'bulk' ? (JSON.parse(job.task) as BulkTask) : undefined
      if (!task) throw new WisteriaError('conflict', 'Only a bulk action can be undone.')
      if (task.puttingBack !== undefined)
        throw new WisteriaError(
          'conflict',
          'This job undid another one. Start the bulk action again from the list instead.',
        )
      if (job.state === 'running') throw new WisteriaError('conflict', 'The job is still running. Stop it first.')
      requirePermission(request.caller, permissionOfAction[task.does], request.site)
      const answer = await request.write(async (transaction) => {
        const ids = await entriesDoneBy(transaction, job.id)
        const message = `Undoing an action on ${entriesWord(ids.length)}.`
        const order = { does: task.does, ids, puttingBack: job.id }
        return {
          status: 202,
          body: jobView(await beginBulk(kernel, transaction, request.site, request.actor, order, message)),
        }
      })
      kernel.jobs.wake()
      return answer
    },
  }),
]
