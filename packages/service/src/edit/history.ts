import {
  compareDocuments,
  editsTowards,
  localeTags,
  printValues,
  upgradeDocument,
  WisteriaError,
  type EntryComparison,
  type Document,
  type Point,
  type RevisionView,
} from '@wisteria/core'
import {
  publicHistoryOf,
  sealNewest,
  type Reader,
  type RevisionRow,
  type Site,
  type WorkingCopy,
} from '@wisteria/store'
import { z } from 'zod'
import { route, type Route } from '../route.js'
import { readersSee } from './consequences.js'
import { namesIn } from './named.js'
import { answerEntry, entryAt } from './oneEntry.js'
import { requireEntry } from './present.js'
import { saveEdits } from './saving.js'

const one = '/edit/v1/sites/{site}/entries/{id}'

const revisionNumber = z.coerce.number().int().min(1)
const pointsSaid = 'a number of a revision, `public` or `working`'
const point = z.union([z.enum(['public', 'working']), revisionNumber], { error: `must be ${pointsSaid}` })

/** A revision of an entry. @throws WisteriaError `notFound` that says which there are. */
async function requireRevision(reader: Reader, copy: WorkingCopy, number: number): Promise<RevisionRow> {
  const [row] = await reader.all<RevisionRow>('select * from revisions where entry = ? and number = ?', [
    copy.id,
    number,
  ])
  if (!row)
    throw new WisteriaError('notFound', `There is no revision ${number} of the entry: it has 1 to ${copy.revision}.`)
  return row
}

/** The entry as it was or is at some point, as the model of today reads it. */
async function documentAt(reader: Reader, site: Site, copy: WorkingCopy, at: Point): Promise<Document> {
  if (at === 'working') return copy.document
  if (at === 'public') {
    const { layers } = await publicHistoryOf(reader, site, copy.type, copy.id)
    return layers ? readersSee(site, copy.type, layers) : {}
  }
  const row = await requireRevision(reader, copy, at)
  return upgradeDocument(site.model, copy.type, JSON.parse(row.document) as Document, row.model_version)
}

function viewRevision(
  site: Site,
  row: Omit<RevisionRow, 'document'>,
  current: Readonly<Record<string, number>>,
): RevisionView {
  return {
    number: row.number,
    version: row.version,
    author: row.author,
    createdAt: row.created_at,
    updatedAt: row.updated_at,
    sealedAt: row.sealed_at,
    publicIn: localeTags(site.settings).filter((locale) => current[locale] === row.number),
  }
}

export const historyRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: `${one}/revisions`,
    summary: 'The revisions of an entry, newest first, and in which locales each is public.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      const { revisions: current } = await publicHistoryOf(kernel.database, site, copy.type, copy.id)
      const rows = await kernel.database.all<RevisionRow>(
        'select entry, number, version, author, created_at, updated_at, sealed_at from revisions where entry = ? order by number desc limit 500',
        [copy.id],
      )
      return {
        body: {
          revisions: rows.map((row) => viewRevision(site, row, current)),
        },
      }
    },
  }),
  route({
    method: 'POST',
    path: `${one}/revisions`,
    summary: 'Seals the open revision: the next save begins another.',
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
    path: `${one}/revisions/{number}`,
    summary: 'One revision with its values, as the model of today reads them.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => {
      const copy = await requireEntry(kernel.database, site, params['id']!)
      const number = Number(params['number'])
      if (!Number.isInteger(number))
        throw new WisteriaError('badRequest', `A revision is named by its number, 1 to ${copy.revision}.`)
      const row = await requireRevision(kernel.database, copy, number)
      const { revisions: current } = await publicHistoryOf(kernel.database, site, copy.type, copy.id)
      const document = await documentAt(kernel.database, site, copy, number)
      return {
        body: { ...viewRevision(site, row, current), values: printValues(site.model, copy.type, document) },
      }
    },
  }),
  route({
    method: 'GET',
    path: `${one}/compare`,
    summary: `What differs between two states of an entry: \`from\` (\`public\` when left out) and \`to\` (\`working\`), each ${pointsSaid}. Text is compared word by word, items by their handles.`,
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
    path: `${one}/restore`,
    summary:
      'Puts the working copy back to a revision, or to what is public: as a whole, or only the fields that `places` names. A save like any other: nothing becomes public, and nothing is lost.',
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
              .refine((at) => at.length % 2 === 1, 'must name a field: field names and handles in turn'),
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
        const target = await documentAt(transaction, site, copy, from)
        if (from === 'public' && Object.keys(target).length === 0)
          throw new WisteriaError('conflict', 'Nothing of the entry is public: there is nothing to put back.')
        const edits = editsTowards(site.model, copy.type, copy.document, target, places)
        // What stood there until now becomes a revision of its own, also within one sitting: there is a way back from this too.
        const standing = edits.length > 0 ? await sealNewest(transaction, copy, request.kernel.at) : copy
        const { kernel } = request
        const { copy: saved } = await saveEdits(kernel, transaction, site, request, standing, copy.version, edits)
        return answerEntry(transaction, site, saved, { body: { changed: edits.length } })
      }),
  }),
]
