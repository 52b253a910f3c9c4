import { draftChange } from '../workingCopies/changeSeen.js'
import { binKeptDays, titleOf, localeTags, typeWithId, WisteriaError, type BinnedEntry } from '@wisteria/core'
import {
  Act,
  binnedCopyOf,
  binPage,
  cancelSchedulesOf,
  deleteEntry,
  referrersOf,
  publicHistoryOf,
  markDeleted,
  siteWithId,
  markRestored,
  workingCopiesOf,
  workingCopiesReferringTo,
  writeDraftRows,
  type Reader,
  type Site,
  type Transaction,
  type WorkingCopy,
} from '@wisteria/store'
import { z } from 'zod'
import { readCursor, writeCursor } from '../kernel/cursor.js'
import type { Kernel } from '../kernel/kernel.js'
import { titlesIn } from '../kernel/holders.js'
import { onEntry, requireMay } from '../kernel/permission.js'
import { route, type Route } from '../kernel/route.js'
import { answerEntry } from '../workingCopies/oneEntry.js'
import type { Author } from '../workingCopies/saving.js'

/**
 * Moves an entry to the bin. @throws WisteriaError `conflict` while it is public, or others refer to it.
 * @param together ids deleted with it: references among them block nothing.
 */
export async function moveToBin(
  transaction: Transaction,
  act: Act,
  author: Author,
  copy: WorkingCopy,
  together: ReadonlySet<string> = new Set(),
): Promise<void> {
  const { site } = act
  requireMay(author.caller, 'entry.write', { ...onEntry(copy), shared: true })
  if (copy.type.cardinality === 'one')
    throw new WisteriaError('conflict', `${copy.type.label} has exactly one entry, which cannot be deleted.`)
  const history = await publicHistoryOf(transaction, site, copy.type, copy.id)
  if (history.layers) throw new WisteriaError('conflict', 'The entry is public. Withdraw it first.')
  const holders = await otherReferrers(transaction, site, copy.id, together)
  if (holders.length > 0)
    throw new WisteriaError('conflict', `Other entries refer to it: ${titlesIn(holders)}. Remove the references first.`)
  await markDeleted(transaction, site, copy, author.actor, act.at)
  await cancelSchedulesOf(transaction, copy.id, act.at, 'The entry was deleted.')
  await act.tell(
    'entry.deleted',
    { entry: { id: copy.id, type: copy.type.name }, version: copy.version + 1 },
    undefined,
    draftChange(site, copy, { document: copy.document, history }, undefined),
  )
}

/**
 * The titles of some entries outside the bin whose working copies refer to this one, for a message; without those in `except`.
 */
async function otherReferrers(
  transaction: Transaction,
  site: Site,
  id: string,
  except: ReadonlySet<string>,
): Promise<{ title: string; inBin: boolean }[]> {
  // Looked for by their ids alone: there may be as many exceptions as entries.
  const others = (await workingCopiesReferringTo(transaction, id)).filter((other) => !except.has(other))
  const copies = await workingCopiesOf(transaction, site, others.slice(0, 100))
  const order = [site.settings.defaultLocale, ...localeTags(site.settings)]
  // Entries of removed types cannot be opened.
  return [...copies.values()].map((copy) => ({ title: titleOf(copy.type, copy.document, order), inBin: false }))
}

/** Restores an entry from the bin, as it was. */
export async function restoreFromBin(
  transaction: Transaction,
  act: Act,
  author: Author,
  id: string,
): Promise<WorkingCopy> {
  const { site } = act
  const binned = await requireBinned(transaction, site, id)
  requireMay(author.caller, 'entry.write', { ...onEntry(binned), shared: true })
  const copy = await markRestored(transaction, binned)
  const history = await publicHistoryOf(transaction, site, copy.type, copy.id)
  await writeDraftRows(transaction, site, copy.type, copy, copy.document, history, act.at)
  await act.tell(
    'entry.restored',
    { entry: { id, type: copy.type.name }, version: copy.version },
    undefined,
    draftChange(site, copy, undefined, { document: copy.document, history }),
  )
  return copy
}

/** @throws WisteriaError `notFound` with the id. */
async function requireBinned(reader: Reader, site: Site, id: string): Promise<WorkingCopy> {
  const copy = await binnedCopyOf(reader, site, id)
  if (!copy)
    throw new WisteriaError(
      'notFound',
      `There is no entry \`${id.slice(0, 60)}\` in the bin of ${site.settings.label}.`,
    )
  return copy
}

const pageSize = 100
/** When the last entry of a page was deleted, and its id. */
const positionForm = z.tuple([z.string(), z.string()])

async function binOf(kernel: Kernel, site: Site, after: string | undefined) {
  const [at, id] = after === undefined ? [] : readCursor(after, positionForm)
  const position = at === undefined || id === undefined ? undefined : { at, id }
  const rows = await binPage(kernel.database, site.id, position, pageSize + 1)
  const page = rows.slice(0, pageSize)
  const copies = await workingCopiesOf(
    kernel.database,
    site,
    page.map((row) => row.id),
    'binned',
  )
  const order = [site.settings.defaultLocale, ...localeTags(site.settings)]
  const last = page.at(-1)
  return {
    entries: page.flatMap((row): BinnedEntry[] => {
      const copy = copies.get(row.id)
      if (!copy) return []
      return [
        {
          id: row.id,
          type: typeWithId(site.model, row.type)?.name ?? '',
          title: titleOf(copy.type, copy.document, order),
          deletedAt: row.deletedAt,
          deletedBy: row.deletedBy,
          goesAt: new Date(Date.parse(row.deletedAt) + binKeptDays * 86_400_000).toISOString(),
        },
      ]
    }),
    next: rows.length > pageSize && last ? writeCursor([last.deletedAt, last.id]) : null,
  }
}

const base = '/edit/v1/sites/{site}/bin'

export const binRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: `Entries deleted in the last ${binKeptDays} days, newest first, and when each is deleted permanently.`,
    permission: 'draft.read',
    query: z.object({ after: z.string().max(100).optional() }),
    handle: async ({ kernel, site, query }) => ({ body: await binOf(kernel, site, query.after) }),
  }),
  route({
    method: 'POST',
    path: `${base}/{id}/restore`,
    summary: 'Restores an entry from the bin, with its history. It does not become public.',
    permission: 'entry.write',
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const act = new Act(transaction, site, request.actor, request.kernel.environment)
        return answerEntry(transaction, site, await restoreFromBin(transaction, act, request, request.params['id']!))
      }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{id}`,
    summary: 'Deletes an entry in the bin permanently, with its history.',
    permission: 'entry.write',
    handle: (request) =>
      request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const binned = await requireBinned(transaction, site, request.params['id']!)
        requireMay(request.caller, 'entry.write', { ...onEntry(binned), shared: true })
        const { id } = binned
        const holders = (await referrersOf(transaction, site, id)).filter((referrer) => referrer.inWorkingCopy)
        if (holders.length > 0)
          throw new WisteriaError(
            'conflict',
            `Other entries refer to it: ${titlesIn(holders)}. Remove the references, or delete those entries permanently, first.`,
          )
        await deleteEntry(transaction, id)
        return { status: 204 }
      }),
  }),
]
