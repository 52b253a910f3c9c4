import { idPattern, WisteriaError } from '@wisteria/core'
import { Act, publicHistoryOf, siteWithId } from '@wisteria/store'
import { z } from 'zod'
import { route, type Route } from '../route.js'
import { answerEntry, entryAt } from './oneEntry.js'
import { etagOf, requireEntry, viewEntry } from './present.js'
import { publishConsequences } from './consequences.js'
import { publish, unpublish } from './publishing.js'
import { createEntry, duplicateEntry } from './creating.js'
import { saveEdits, saveValues } from './saving.js'
import { unpublishConsequences, usageOf } from './usage.js'

const base = '/edit/v1/sites/{site}/entries'
const one = `${base}/{id}`

const locales = z.array(z.string().max(40)).max(200).optional()

const namedEdit = z.strictObject({
  do: z.enum(['set', 'clear', 'insert', 'move', 'remove']),
  at: z.array(z.string().max(100)).min(1, 'names a place: a field, then perhaps a handle').max(40),
  locale: z.string().optional(),
  value: z.unknown().optional(),
  item: z.unknown().optional(),
  after: z.string().nullable().optional(),
})

export const entryRoutes: readonly Route[] = [
  route({
    method: 'POST',
    path: base,
    summary: 'Creates an entry. Slugs that are left out are made from the field they come `from`.',
    permission: 'entry.write',
    idempotent: true,
    body: z.strictObject({
      type: z.string(),
      id: z.string().regex(idPattern, 'must be 20 lowercase base32 characters').optional(),
      values: z.unknown().optional(),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const { type, values, id } = request.body
        const copy = await createEntry(request.kernel, transaction, site, request, type, values ?? {}, id)
        const made = await answerEntry(transaction, site, copy, { status: 201 })
        return { ...made, headers: { ...made.headers, Location: `/edit/v1/sites/${site.name}/entries/${copy.id}` } }
      }),
  }),
  route({
    method: 'GET',
    path: one,
    summary: 'The working copy of an entry, in all locales.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params, headers }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      const tag = etagOf(copy)
      if (headers['if-none-match']?.split(',').some((one) => one.trim() === tag))
        return { status: 304, headers: { ETag: tag } }
      return { body: await viewEntry(kernel.database, site, copy), headers: { ETag: tag } }
    },
  }),
  route({
    method: 'PATCH',
    path: one,
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
        return answerEntry(transaction, site, saved)
      }),
  }),
  route({
    method: 'POST',
    path: `${one}/edits`,
    summary:
      'Saves edits by place, made on version `base`; merged with what others saved since, when they do not touch.',
    permission: 'entry.translate',
    idempotent: true,
    body: z.strictObject({ base: z.int().min(1), edits: z.array(namedEdit).max(2000) }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const { base: from, edits } = request.body
        const saved = await saveEdits(request.kernel, transaction, site, request, copy, from, edits)
        return answerEntry(transaction, site, saved.copy, { body: { merged: saved.merged } })
      }),
  }),
  route({
    method: 'DELETE',
    path: one,
    summary: 'Deletes an entry of which nothing is public.',
    permission: 'entry.write',
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        if (copy.type.cardinality === 'one')
          throw new WisteriaError('conflict', `${copy.type.label} always has its one entry: it is not deleted.`)
        if ((await publicHistoryOf(transaction, site, copy.type, copy.id)).layers)
          throw new WisteriaError('conflict', 'The entry is public. Unpublish it first.')
        const holders = await transaction.all<{ title: string }>(
          'select distinct d.title from draft_refs r join drafts d on d.shelf = r.shelf and d.entry = r.entry and d.locale = ? where r.shelf = ? and r.target = ? and r.entry <> ? limit 5',
          [site.settings.defaultLocale, site.shelf, copy.id, copy.id],
        )
        if (holders.length > 0)
          throw new WisteriaError(
            'conflict',
            `Other entries refer to it: ${holders.map(({ title }) => `“${title}”`).join(', ')}. Take the references out first.`,
          )
        const act = new Act(transaction, site, request.actor, request.kernel.surroundings)
        await transaction.run('delete from entries where id = ?', [copy.id])
        await act.tell('entry.deleted', { entry: { id: copy.id, type: copy.type.name }, version: copy.version })
        return { status: 204 }
      }),
  }),
  route({
    method: 'POST',
    path: `${one}/duplicate`,
    summary: 'Makes another entry with the same values: slugs get a number, other unique values are left out.',
    permission: 'entry.write',
    idempotent: true,
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const made = await duplicateEntry(request.kernel, transaction, site, request, copy)
        const answer = await answerEntry(transaction, site, made, { status: 201 })
        return { ...answer, headers: { ...answer.headers, Location: `/edit/v1/sites/${site.name}/entries/${made.id}` } }
      }),
  }),
  route({
    method: 'GET',
    path: `${one}/usage`,
    summary: 'The entries that refer to it, in their working copies or in public: at most 200.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      return { body: await usageOf(kernel.database, site, copy) }
    },
  }),
  route({
    method: 'GET',
    path: `${one}/consequences/unpublish`,
    summary:
      'What taking it down would do: paths that lead nowhere, public entries below it, and those that would refer to nothing. `locales`: comma-separated.',
    permission: 'draft.read',
    query: z.object({ locales: z.string().optional() }),
    handle: async ({ kernel, site, params, query }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      return { body: await unpublishConsequences(kernel.database, site, copy, listIn(query.locales)) }
    },
  }),
  route({
    method: 'GET',
    path: `${one}/consequences`,
    summary: 'What publishing would change in public, and everything in the way. `locales`: comma-separated.',
    permission: 'draft.read',
    query: z.object({ locales: z.string().optional() }),
    handle: async ({ kernel, site, params, query }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      return { body: await publishConsequences(kernel.database, site, copy, listIn(query.locales)) }
    },
  }),
  route({
    method: 'POST',
    path: `${one}/publish`,
    summary:
      'Publishes locales (all that have words, when none are named) with the shared values. `If-Match` guards what was seen.',
    permission: 'entry.publish',
    idempotent: true,
    body: z.strictObject({ locales }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const published = await publish(request.kernel, transaction, site, request, copy, request.body.locales)
        return answerEntry(transaction, site, published)
      }),
  }),
  route({
    method: 'POST',
    path: `${one}/unpublish`,
    summary:
      'Takes locales down (all public ones, when none are named). `withChildren` takes down what stands below as well.',
    permission: 'entry.publish',
    idempotent: true,
    body: z.strictObject({ locales, withChildren: z.boolean().optional() }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const { locales: asked, withChildren } = request.body
        return answerEntry(
          transaction,
          site,
          await unpublish(request.kernel, transaction, site, request, copy, asked, withChildren ?? false),
        )
      }),
  }),
]

const listIn = (text: string | undefined): string[] | undefined => text?.split(',').map((one) => one.trim())

/** RFC 7396: objects merge, null removes, anything else replaces. */
function mergePatch(target: unknown, patch: unknown): unknown {
  if (typeof patch !== 'object' || patch === null || Array.isArray(patch)) return patch
  const merged: Record<string, unknown> =
    typeof target === 'object' && target !== null && !Array.isArray(target) ? { ...target } : {}
  for (const [key, value] of Object.entries(patch)) {
    if (value === null) delete merged[key]
    else merged[key] = mergePatch(merged[key], value)
  }
  return merged
}
