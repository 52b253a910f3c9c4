import { regionLabel, regionNames, regionOf, type CounterpartList, type EntryCounterparts } from '@wisteria/core'
import {
  counterpartRow,
  familiesOf,
  firstOfFamilies,
  siteWithId,
  type CounterpartRow,
  type Reader,
  type Site,
  type WorkingCopy,
} from '@wisteria/store'
import { z } from 'zod'
import { jobView } from '../jobs/jobs.js'
import { route, type Route } from '../kernel/route.js'
import { publishIfImmediate } from '../publishing/immediate.js'
import { requireKnownRegion, requireType } from '../read/listQuery.js'
import { requireEntry } from '../workingCopies/entryView.js'
import { answerEntry, entryAt } from '../workingCopies/oneEntry.js'
import { requireRegional } from '../workingCopies/regions.js'
import { planCounterparts, requireSome } from './choosing.js'
import { beginCounterparts } from './counterpartJob.js'
import { placeInRegion } from './regions.js'
import { sourceChanges, takeFromSource } from './taking.js'

const site = '/edit/v1/sites/{site}'
const entry = `${site}/entries/{id}`

/** Families on a page. */
const pageSize = 100

const order = z.strictObject({
  region: z.string().max(60),
  ids: z.array(z.string().max(60)).min(1, 'names no entry').max(1_000),
  withChildren: z.boolean().default(false),
})

const choice = z.strictObject({
  how: z.enum(['added', 'removed', 'changed', 'moved']),
  at: z.array(z.string().max(300)).min(1).max(100),
  locale: z.string().max(40).nullable().default(null),
  side: z.enum(['source', 'own']),
})

const viewOf = ({ root: _, ...view }: CounterpartRow) => view

async function counterpartsOf(reader: Reader, at: Site, copy: WorkingCopy): Promise<EntryCounterparts> {
  const family =
    copy.counterpartRoot === null
      ? [await counterpartRow(reader, at, copy.id)].flatMap((own) => own ?? [])
      : await familiesOf(reader, at, [copy.counterpartRoot])
  const source = family.find(({ id }) => id === copy.counterpart?.of)
  return {
    region: regionOf(copy.type, copy.region),
    source: source ? viewOf(source) : null,
    regions: copy.type.regional
      ? regionNames(at.settings).map((name) => {
          const there = family.find(({ region }) => region === name)
          return { name, label: regionLabel(at.settings, name), entry: there ? viewOf(there) : null }
        })
      : [],
  }
}

async function listOf(
  reader: Reader,
  at: Site,
  asked: {
    readonly type?: string | undefined
    readonly missing?: string | undefined
    readonly behind?: string | undefined
    readonly after: number
  },
): Promise<CounterpartList> {
  const type = asked.type === undefined ? undefined : requireType(at, asked.type)
  if (type) requireRegional(type)
  for (const name of [asked.missing, asked.behind]) if (name !== undefined) requireKnownRegion(at, name)
  const types = (type ? [type] : at.model.types.filter(({ regional }) => regional)).map(({ id }) => id)
  const rows = await firstOfFamilies(reader, at, { ...asked, types, limit: pageSize + 1 })
  const page = rows.slice(0, pageSize)
  const others = await familiesOf(
    reader,
    at,
    page.flatMap(({ root }) => root ?? []),
  )
  return {
    families: page.map((first) => {
      const members = first.root === null ? [first] : others.filter(({ root }) => root === first.root)
      return {
        first: viewOf(first),
        regions: Object.fromEntries(members.map((member) => [member.region, viewOf(member)])),
      }
    }),
    next: rows.length > pageSize ? asked.after + pageSize : null,
  }
}

export const counterpartRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: `${site}/counterparts`,
    summary:
      'Entries with their counterparts in each region, in the order of their paths; `missing` and `behind` name a region: only those without an entry there, or whose source has changed since.',
    permission: 'draft.read',
    query: z.object({
      type: z.string().max(64).optional(),
      missing: z.string().max(60).optional(),
      behind: z.string().max(60).optional(),
      after: z.coerce.number().int().min(0).max(1_000_000).default(0),
    }),
    handle: async ({ kernel, site: at, query }) => ({ body: await listOf(kernel.database, at, query) }),
  }),
  route({
    method: 'POST',
    path: `${site}/counterparts/plan`,
    summary:
      'What making counterparts would do: the entries that would be copied, those that have one already, and why others get none. Changes nothing.',
    permission: 'entry.write',
    insteadOfDryRun: 'It changes nothing: it is the dry run of making counterparts.',
    body: order,
    handle: async ({ kernel, site: at, caller, body }) => ({
      body: await planCounterparts(kernel.database, at, caller, body),
    }),
  }),
  route({
    method: 'POST',
    path: `${site}/counterparts`,
    summary:
      'Copies the entries in `ids` to a region, as a job; `withChildren`: with everything below them. References between them lead to the copies, others to what is in that region, where it is. Nothing becomes public by it.',
    permission: 'entry.write',
    idempotent: true,
    body: order,
    handle: async (request) => {
      const { kernel, actor, caller, body } = request
      const answer = await request.write(async (transaction) => {
        const at = await siteWithId(transaction, request.site.id)
        const ids = await requireSome(transaction, at, caller, body)
        return { status: 202, body: jobView(await beginCounterparts(kernel, transaction, at, actor, body.region, ids)) }
      })
      kernel.jobs.wake()
      return answer
    },
  }),
  route({
    method: 'GET',
    path: `${entry}/counterparts`,
    summary: 'Where an entry has counterparts and where none, and the entry that it was copied from.',
    permission: 'draft.read',
    handle: async ({ kernel, site: at, params }) => ({
      body: await counterpartsOf(kernel.database, at, await requireEntry(kernel.database, at, params['id']!)),
    }),
  }),
  route({
    method: 'GET',
    path: `${entry}/source`,
    summary:
      'What changed in the entry that this one was copied from since, with what was changed here at the same places; and what overwriting it would change.',
    permission: 'draft.read',
    handle: async ({ kernel, site: at, params }) => ({
      body: await sourceChanges(kernel.database, at, await requireEntry(kernel.database, at, params['id']!)),
    }),
  }),
  route({
    method: 'POST',
    path: `${entry}/source`,
    summary:
      'Takes changes of the entry that this one was copied from. `take: changes` merges them field by field and block by block: those in `choices` by their `side`, others unless something was changed here too; for those `conflicts` decides. `take: everything` overwrites.',
    permission: 'entry.write',
    idempotent: true,
    body: z.strictObject({
      take: z.enum(['changes', 'everything']).default('changes'),
      choices: z.array(choice).max(5_000).default([]),
      conflicts: z.enum(['source', 'own']).optional(),
      sourceVersion: z.int().min(1).optional(),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site: at, copy } = await entryAt(request, transaction)
        const { kernel, body } = request
        const { copy: saved, ...counts } = await takeFromSource(kernel, transaction, at, request, copy, body)
        const current = await publishIfImmediate(kernel, transaction, at, request, saved)
        return answerEntry(transaction, at, current, { body: counts })
      }),
  }),
  route({
    method: 'PUT',
    path: `${entry}/region`,
    summary:
      'Puts an entry that was never public into a region, or says which entry of another region it is the counterpart of (`counterpartOf`, null for none).',
    permission: 'entry.write',
    body: z.strictObject({ region: z.string().max(60), counterpartOf: z.string().max(60).nullable().optional() }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site: at, copy } = await entryAt(request, transaction)
        const placed = await placeInRegion(request.kernel, transaction, at, request, copy, request.body)
        return answerEntry(transaction, at, placed)
      }),
  }),
]
