import { isSegmentText, WisteriaError, type SegmentText } from '@wisteria/core'
import { siteWithId, workingCopiesOf } from '@wisteria/store'
import { z } from 'zod'
import { requireAsset } from '../assets/views.js'
import { route, type Route } from '../kernel/route.js'
import { wholeNumber } from '../read/listQuery.js'
import { requireEntry } from '../workingCopies/entryView.js'
import { entryAt } from '../workingCopies/oneEntry.js'
import { saveAssetTranslation, translationOfAsset } from './assetTexts.js'
import { boardOf, workPage } from './board.js'
import { requireTarget, translationOfEntry, translationWith } from './reading.js'
import { saveAndAnswer } from './saving.js'
import { assign, markReady } from './tasks.js'

const site = '/edit/v1/sites/{site}'
const entryPath = `${site}/entries/{id}/translation`
const assetPath = `${site}/assets/{id}/translation`

const locale = z.string().max(40)
const unit = z.string().max(2000)
const units = z.array(unit).max(2000).optional()
/** A text with codes, or a plain one. */
const text = z.union([
  z
    .string()
    .max(200_000)
    .transform((plain): SegmentText => [plain]),
  z
    .array(z.union([z.string(), z.looseObject({ code: z.string() })]))
    .max(2000)
    .refine(isSegmentText, 'must be strings and codes such as `{ "code": "1", "inside": ["bold"] }`')
    .transform((coded) => coded as SegmentText),
])
/** A translation as it is saved. */
const translationBody = z.strictObject({
  locale,
  base: z.int().min(1).optional(),
  revision: z.int().min(1).optional(),
  texts: z
    .array(z.strictObject({ unit, text, source: z.string().max(64).optional(), sourceText: text.optional() }))
    .max(2000)
    .optional(),
  stillRight: units,
  needsNone: units,
  needed: units,
  empty: units,
})
const date = z
  .string()
  .regex(/^\d{4}-\d\d-\d\d$/, 'must be a date such as `2031-03-12`')
  .refine((day) => new Date(`${day}T00:00:00Z`).toJSON()?.slice(0, 10) === day, 'is no day of the calendar')

const among = {
  type: z.string().max(64).optional(),
  where: z.string().max(10_000).optional(),
  search: z.string().max(500).optional(),
}

export const translationRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: `${site}/translations`,
    summary:
      'How far the translations of a site are: by type and locale, in units and words; of all entries, or of those that match `where` and `search`.',
    permission: 'draft.read',
    query: z.object(among),
    handle: async ({ kernel, site, query }) => ({ body: await boardOf(kernel, site, query) }),
  }),
  route({
    method: 'GET',
    path: `${site}/translations/work`,
    summary:
      'A page of entries to translate into `locale`, oldest first. `assignee`: only those assigned to that account, or to you with `me`, those that are due first. `ready`: only those that are ready for review.',
    permission: 'draft.read',
    query: z.object({
      ...among,
      locale: locale.optional(),
      assignee: z.string().max(60).optional(),
      ready: z.enum(['true', 'false']).optional(),
      first: wholeNumber(1, 100).optional(),
      after: z.string().max(500).optional(),
    }),
    handle: async ({ kernel, site, caller, query }) => {
      const { locale: asked, ready, first = 20, ...rest } = query
      const assignee = rest.assignee === 'me' ? (caller.is === 'member' ? caller.account : '') : rest.assignee
      if (asked === undefined && assignee === undefined && ready !== 'true')
        throw new WisteriaError('badRequest', 'Name a `locale`, an `assignee`, or `ready=true`.')
      const target = asked === undefined ? undefined : requireTarget(site, asked)
      const page = { ...rest, assignee, locale: target, isReady: ready === 'true', first }
      return { body: await workPage(kernel, site, page) }
    },
  }),
  route({
    method: 'POST',
    path: `${site}/translations/assign`,
    summary:
      'Assigns the translation of entries into a locale to a member (the id or the e-mail of an account), until a date; `assignee` null: to nobody.',
    permission: 'entry.translate',
    idempotent: true,
    body: z.strictObject({
      entries: z.array(z.string().max(60)).min(1, 'names no entry').max(1000),
      locale,
      assignee: z.string().max(200).nullable(),
      due: date.nullable().default(null),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const { entries, locale: asked, assignee, due } = request.body
        const target = requireTarget(site, asked)
        const copies = await workingCopiesOf(transaction, site, entries)
        const unknown = entries.find((id) => !copies.has(id))
        if (unknown !== undefined) await requireEntry(transaction, site, unknown)
        await assign(request.kernel, transaction, site, request, [...copies.values()], {
          locale: target,
          assignee,
          due,
        })
        return { body: { assigned: copies.size } }
      }),
  }),
  route({
    method: 'GET',
    path: entryPath,
    summary:
      'The units of translation of an entry in a locale: each text of its source with its translation and its state. `units=todo`: only those that are missing or outdated. `follow`: also of entries that it refers to, so many references deep. The files that they hold come last, with the type `asset`.',
    permission: 'draft.read',
    query: z.object({
      locale,
      units: z.enum(['todo', 'all']).default('all'),
      follow: wholeNumber(0, 3).default(0),
    }),
    handle: async ({ kernel, site, params, query }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      const target = requireTarget(site, query.locale)
      return { body: await translationWith(kernel.database, site, copy, target, query.units, query.follow) }
    },
  }),
  route({
    method: 'POST',
    path: entryPath,
    summary:
      'Saves a translation of an entry, unit by unit, made on version `base`. A text is a string, or a list of strings and codes as in the source; an empty one removes the translation. `source`: the digest of the text that it was made from, and `sourceText` that text. `stillRight`, `needsNone`, `needed` and `empty` name units.',
    permission: 'entry.translate',
    idempotent: true,
    body: translationBody,
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const order = { ...request.body, locale: requireTarget(site, request.body.locale) }
        return { body: await saveAndAnswer(request.kernel, transaction, site, request, copy, order) }
      }),
  }),
  route({
    method: 'GET',
    path: assetPath,
    summary:
      'The texts of a file in a locale, each with its translation and its state, in the form of those of an entry.',
    permission: 'draft.read',
    query: z.object({ locale, units: z.enum(['todo', 'all']).default('all') }),
    handle: async ({ kernel, site, params, query }) => {
      const asset = await requireAsset(kernel.database, site, params['id']!)
      const target = requireTarget(site, query.locale)
      return { body: await translationOfAsset(kernel.database, site, asset, target, query.units) }
    },
  }),
  route({
    method: 'POST',
    path: assetPath,
    summary:
      'Saves a translation of the texts of a file, made on revision `base`, as that of an entry is saved; but none of them can be `empty`.',
    permission: 'entry.translate',
    idempotent: true,
    body: translationBody,
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, body } = request
        const at = await siteWithId(transaction, request.site.id)
        const asset = await requireAsset(transaction, at, request.params['id']!)
        const order = { ...body, locale: requireTarget(at, body.locale) }
        const saved = await saveAssetTranslation(kernel, transaction, at, request, asset, order)
        return { body: await translationOfAsset(transaction, at, saved, order.locale) }
      }),
  }),
  route({
    method: 'POST',
    path: `${entryPath}/ready`,
    summary: 'Marks the translation of an entry into a locale as ready for review, or as not ready.',
    permission: 'entry.translate',
    idempotent: true,
    body: z.strictObject({ locale, ready: z.boolean().default(true) }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const target = requireTarget(site, request.body.locale)
        await markReady(request.kernel, transaction, site, request, copy, target, request.body.ready)
        return { body: await translationOfEntry(transaction, site, copy, target) }
      }),
  }),
]
