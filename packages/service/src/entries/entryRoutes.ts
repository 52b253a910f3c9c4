import { idPattern, mergePatch, WisteriaError, type PublishConsequences } from '@wisteria/core'
import { Act, publicHistoryOf, referrersOf, siteWithId } from '@wisteria/store'
import { z } from 'zod'
import { meetsIfNoneMatch } from '../kernel/entityTags.js'
import { route, type Route } from '../kernel/route.js'
import { answerEntry, entryAt } from '../workingCopies/oneEntry.js'
import { etagOf, requireEntry, viewEntry } from '../workingCopies/entryView.js'
import { publishCheck, publishConsequences } from '../publishing/consequences.js'
import { declareMinor } from '../publishing/minorChange.js'
import { withdraw } from '../publishing/publishing.js'
import { createEntry, duplicateEntry } from '../workingCopies/creating.js'
import { archive, reactivate } from '../publishing/archiving.js'
import { moveToBin } from './bin.js'
import { publishIfImmediate } from '../publishing/immediate.js'
import { namedEdit } from '../workingCopies/namedEdit.js'
import { maxBatch, publishBatch, batchWith, withoutComing } from '../publishing/publishBatch.js'
import { saveEdits, saveValues } from '../workingCopies/saving.js'
import { withdrawalConsequences } from '../workingCopies/usage.js'
import { presenceOf } from '../workingCopies/presence.js'

const base = '/edit/v1/sites/{site}/entries'
const entryPath = `${base}/{id}`

const locales = z.array(z.string().max(40)).max(200).optional()

export const entryRoutes: readonly Route[] = [
  route({
    method: 'POST',
    path: base,
    summary:
      'Creates an entry. Slugs that are left out are made from the field they come `from`. `region` is for types that are regional; left out, it is that of its parent.',
    permission: 'entry.write',
    idempotent: true,
    body: z.strictObject({
      type: z.string(),
      id: z.string().regex(idPattern, 'must be 20 lowercase base32 characters').optional(),
      values: z.unknown().optional(),
      region: z.string().max(60).optional(),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const created = await createEntry(request.kernel, transaction, site, request, request.body)
        const copy = await publishIfImmediate(request.kernel, transaction, site, request, created)
        const answer = await answerEntry(transaction, site, copy, { status: 201 })
        return { ...answer, headers: { ...answer.headers, Location: `/edit/v1/sites/${site.name}/entries/${copy.id}` } }
      }),
  }),
  route({
    method: 'GET',
    path: entryPath,
    summary: 'The working copy of an entry, in all locales.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params, headers }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      const tag = etagOf(copy)
      if (meetsIfNoneMatch(headers['if-none-match'], tag)) return { status: 304, headers: { ETag: tag } }
      return { body: await viewEntry(kernel.database, site, copy), headers: { ETag: tag } }
    },
  }),
  route({
    method: 'PATCH',
    path: entryPath,
    summary:
      'Changes values by JSON Merge Patch (RFC 7396): `{ "values": … }`, where null makes missing. Needs `If-Match`.',
    permission: 'entry.translate',
    bodyTypes: ['application/merge-patch+json', 'application/json'],
    body: z.strictObject({ values: z.record(z.string(), z.unknown()) }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction, true)
        const { values } = await viewEntry(transaction, site, copy)
        const saved = await saveValues(
          request.kernel,
          transaction,
          site,
          request,
          copy,
          mergePatch(values, request.body.values),
        )
        const current = await publishIfImmediate(request.kernel, transaction, site, request, saved)
        return answerEntry(transaction, site, current)
      }),
  }),
  route({
    method: 'POST',
    path: `${entryPath}/edits`,
    summary:
      'Saves edits by place, made on version `base`; merged with the edits that others saved since, when they do not conflict. `check` has the blocking problems and the differences from the published edition.',
    permission: 'entry.translate',
    idempotent: true,
    body: z.strictObject({ base: z.int().min(1), edits: z.array(namedEdit).max(2000) }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const { base: from, edits } = request.body
        const saved = await saveEdits(request.kernel, transaction, site, request, copy, from, edits)
        const current = await publishIfImmediate(request.kernel, transaction, site, request, saved.copy)
        const history = saved.copy.history ?? (await publicHistoryOf(transaction, site, copy.type, copy.id))
        const check = current === saved.copy ? await publishCheck(transaction, site, current, history) : undefined
        return answerEntry(transaction, site, current, { body: { merged: saved.merged, ...(check ? { check } : {}) } })
      }),
  }),
  route({
    method: 'DELETE',
    path: entryPath,
    summary: 'Moves an entry that is not public to the bin, from where it can be restored for 30 days.',
    permission: 'entry.write',
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        await moveToBin(
          transaction,
          new Act(transaction, site, request.actor, request.kernel.environment),
          request,
          copy,
        )
        return { status: 204 }
      }),
  }),
  route({
    method: 'POST',
    path: `${entryPath}/archive`,
    summary:
      'Archives an entry: it is withdrawn, lists no longer show it, and it cannot be changed until it is reactivated.',
    permission: 'entry.publish',
    idempotent: true,
    body: z.strictObject({ withChildren: z.boolean().optional() }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const act = new Act(transaction, site, request.actor, request.kernel.environment)
        const archived = await archive(transaction, act, request, copy, request.body.withChildren ?? false)
        return answerEntry(transaction, site, archived)
      }),
  }),
  route({
    method: 'POST',
    path: `${entryPath}/reactivate`,
    summary: 'Reactivates an archived entry. It does not become public.',
    permission: 'entry.publish',
    idempotent: true,
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const act = new Act(transaction, site, request.actor, request.kernel.environment)
        return answerEntry(transaction, site, await reactivate(transaction, act, request, copy))
      }),
  }),
  route({
    method: 'POST',
    path: `${entryPath}/presence`,
    insteadOfDryRun: 'It changes nothing that is stored.',
    summary:
      'Reports that you have the entry open, `at` a field, or that you `left`; answers who else has it open, and its version. Send it every 15 seconds.',
    permission: 'member.self',
    body: z.strictObject({ at: z.string().max(500).nullable().optional(), left: z.boolean().optional() }),
    handle: async ({ kernel, site, params, actor, body }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      if (body.left) presenceOf(kernel).left(copy.id, actor)
      else presenceOf(kernel).heard(copy.id, actor, body.at ?? null)
      return {
        body: { others: presenceOf(kernel).others(copy.id, actor), version: copy.version, updatedBy: copy.updatedBy },
      }
    },
  }),
  route({
    method: 'POST',
    path: `${entryPath}/duplicate`,
    summary: 'Makes another entry with the same values: slugs get a number, other unique values are left out.',
    permission: 'entry.write',
    idempotent: true,
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const duplicate = await duplicateEntry(request.kernel, transaction, site, request, copy)
        const answer = await answerEntry(transaction, site, duplicate, { status: 201 })
        return {
          ...answer,
          headers: { ...answer.headers, Location: `/edit/v1/sites/${site.name}/entries/${duplicate.id}` },
        }
      }),
  }),
  route({
    method: 'GET',
    path: `${entryPath}/usage`,
    summary: 'The entries that refer to it, in working copies (deleted ones too) or in public: at most 200.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      return { body: { usedBy: await referrersOf(kernel.database, site, copy.id) } }
    },
  }),
  route({
    method: 'GET',
    path: `${entryPath}/consequences/withdraw`,
    summary:
      'The consequences of withdrawing it: URLs that stop working, public entries below it, and public entries with references that would break. `locales`: comma-separated.',
    permission: 'draft.read',
    query: z.object({ locales: z.string().optional() }),
    handle: async ({ kernel, site, params, query }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      return { body: await withdrawalConsequences(kernel.database, site, copy, listIn(query.locales)) }
    },
  }),
  route({
    method: 'GET',
    path: `${entryPath}/consequences`,
    summary:
      'The consequences of publishing: every change, and every blocking problem. `locales`, and `with`, the ids of entries to publish together with it: comma-separated.',
    permission: 'draft.read',
    query: z.object({ locales: z.string().optional(), with: z.string().max(2000).optional() }),
    handle: async ({ kernel, site, params, query }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      const others = (listIn(query.with) ?? []).filter((id) => id !== '' && id !== copy.id)
      if (others.length > maxBatch)
        throw new WisteriaError('badRequest', `At most ${maxBatch} entries are published together.`)
      const consequences = await publishConsequences(kernel.database, site, copy, listIn(query.locales))
      const problems = withoutComing(consequences.problems, copy, new Set(others))
      const together = await batchWith(kernel.database, site, copy, others)
      return { body: { ...consequences, problems, together } satisfies PublishConsequences }
    },
  }),
  route({
    method: 'POST',
    path: `${entryPath}/publish`,
    summary:
      'Publishes locales (all locales with content, when none are named) with the shared values. `with`: ids of entries to publish together with it, all of them or none. `minor`: translations made from what is public stay current. `If-Match` guards what was seen.',
    permission: 'entry.publish',
    idempotent: true,
    body: z.strictObject({
      locales,
      with: z.array(z.string().max(60)).max(maxBatch).optional(),
      minor: z.boolean().optional(),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const act = new Act(transaction, site, request.actor, request.kernel.environment)
        const { locales: asked, with: others, minor } = request.body
        const ready = minor ? await declareMinor(transaction, act, request, copy) : copy
        return answerEntry(transaction, site, await publishBatch(transaction, act, request, ready, asked, others ?? []))
      }),
  }),
  route({
    method: 'POST',
    path: `${entryPath}/withdraw`,
    summary:
      'Withdraws locales (all public ones, when none are named). `withChildren` withdraws the pages below it too.',
    permission: 'entry.publish',
    idempotent: true,
    body: z.strictObject({ locales, withChildren: z.boolean().optional() }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const { locales: asked, withChildren } = request.body
        const act = new Act(transaction, site, request.actor, request.kernel.environment)
        return answerEntry(
          transaction,
          site,
          await withdraw(transaction, act, request, copy, asked, withChildren ?? false),
        )
      }),
  }),
]

const listIn = (text: string | undefined): string[] | undefined => text?.split(',').map((part) => part.trim())
