import {
  compareDocuments,
  goneFrom,
  localeTags,
  printValues,
  WisteriaError,
  type EntryComparison,
  type GoneValue,
  type RevisionView,
} from '@wisteria/core'
import {
  pastModelAt,
  publicHistoryOf,
  revisionsOf,
  sealNewest,
  type Reader,
  type Revision,
  type Site,
  type StoredRevision,
  type WorkingCopy,
} from '@wisteria/store'
import { z } from 'zod'
import { route, type Route } from '../kernel/route.js'
import { publishIfImmediate } from '../publishing/immediate.js'
import { namesIn } from '../workingCopies/named.js'
import { answerEntry, entryAt } from '../workingCopies/oneEntry.js'
import { requireEntry } from '../workingCopies/entryView.js'
import { documentAt, requireRevision } from './versionRef.js'
import { restoreTo } from './restoring.js'

const entryPath = '/edit/v1/sites/{site}/entries/{id}'

const revisionNumber = z.coerce.number().int().min(1)
const pointsSaid = 'a number of a revision, `public` or `working`'
const point = z.union([z.enum(['public', 'working']), revisionNumber], { error: `must be ${pointsSaid}` })

/** So many revisions of an entry are shown. */
const maxShown = 500

function viewRevision(
  site: Site,
  { number, version, author, createdAt, updatedAt, sealedAt }: Revision,
  current: Readonly<Record<string, number>>,
): RevisionView {
  const publicIn = localeTags(site.settings).filter((locale) => current[locale] === number)
  return { number, version, author, createdAt, updatedAt, sealedAt, publicIn }
}

export const historyRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: `${entryPath}/revisions`,
    summary: 'The revisions of an entry, newest first, and in which locales each is public.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      const { revisions: current } = await publicHistoryOf(kernel.database, site, copy.type, copy.id)
      const revisions = await revisionsOf(kernel.database, copy.id, maxShown)
      return { body: { revisions: revisions.map((revision) => viewRevision(site, revision, current)) } }
    },
  }),
  route({
    method: 'POST',
    path: `${entryPath}/revisions`,
    summary: 'Seals the newest revision: the next save begins another.',
    permission: 'entry.write',
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        await sealNewest(transaction, copy, request.kernel.at)
        return answerEntry(transaction, site, copy)
      }),
  }),
  route({
    method: 'GET',
    path: `${entryPath}/revisions/{number}`,
    summary:
      'One revision with its values under the current model; `gone` has the values of fields that the model no longer has.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      const number = Number(params['number'])
      if (!Number.isInteger(number))
        throw new WisteriaError('badRequest', `Give the number of a revision, 1 to ${copy.revision}.`)
      const revision = await requireRevision(kernel.database, copy, number)
      const { revisions: current } = await publicHistoryOf(kernel.database, site, copy.type, copy.id)
      const document = await documentAt(kernel.database, site, copy, number)
      return {
        body: {
          ...viewRevision(site, revision, current),
          values: printValues(site.model, copy.type, document),
          gone: await goneValues(kernel.database, site, copy, revision),
        },
      }
    },
  }),
  route({
    method: 'GET',
    path: `${entryPath}/compare`,
    summary: `The differences between two states of an entry: \`from\` (\`public\` when left out) and \`to\` (\`working\`), each ${pointsSaid}. Text is compared word by word, items by their ids.`,
    permission: 'draft.read',
    query: z.object({ from: point.default('public'), to: point.default('working') }),
    handle: async ({ kernel, site, params, query: { from, to } }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      const [before, after] = [
        await documentAt(kernel.database, site, copy, from),
        await documentAt(kernel.database, site, copy, to),
      ]
      const differences = compareDocuments(site.model, copy.type, before, after, localeTags(site.settings))
      const names = await namesIn(kernel.database, site, differences)
      return { body: { from, to, differences, names } satisfies EntryComparison }
    },
  }),
  route({
    method: 'POST',
    path: `${entryPath}/restore`,
    summary:
      'Restores the working copy from a revision, or from what is public: as a whole, or only the fields in `places`. A save like any other: nothing becomes public, and nothing is lost.',
    permission: 'entry.translate',
    idempotent: true,
    body: z.strictObject({
      from: z.union([z.literal('public'), z.int().min(1)], { error: 'must be a number of a revision, or `public`' }),
      places: z
        .array(
          z.strictObject({
            at: z
              .array(z.string().max(100))
              .min(1, 'names a field')
              .max(39)
              .refine((at) => at.length % 2 === 1, 'must name a field: field names and ids in turn'),
            locale: z.string().max(40).optional(),
          }),
        )
        .min(1)
        .max(500)
        .optional(),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { site, copy } = await entryAt(request, transaction)
        const { from, places } = request.body
        const { copy: saved, changed } = await restoreTo(request.kernel, transaction, site, request, copy, from, places)
        const current = await publishIfImmediate(request.kernel, transaction, site, request, saved)
        return answerEntry(transaction, site, current, { body: { changed } })
      }),
  }),
]

/** The values of a revision in fields that the model no longer has, under the names of that time. */
async function goneValues(
  reader: Reader,
  site: Site,
  copy: WorkingCopy,
  { document, modelVersion }: StoredRevision,
): Promise<GoneValue[]> {
  if (modelVersion === site.model.version) return []
  const model = await pastModelAt(reader, site.id, modelVersion)
  const type = model?.types.find((candidate) => candidate.id === copy.type.id)
  return model && type ? goneFrom(model, type, site.model, document, localeTags(site.settings)) : []
}
