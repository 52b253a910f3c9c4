import { createHash } from 'node:crypto'
import {
  collectReferences,
  Dependences,
  holdsListings,
  noReferences,
  typeWithId,
  type ContentType,
  type Listing,
} from '@wisteria/core'
import {
  Act,
  keepListTurns,
  listScanOf,
  listTurnsOf,
  nextListTurn,
  publicRowsOf,
  siteWithId,
  sitesToScan,
  type ListTurn,
  type Site,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { fillListing } from '../read/listings.js'
import type { Work } from '../worker/loop.js'

/** After a public change the lists of a site are looked at again, but no more often than this, in milliseconds. */
const pause = 10_000
/** How soon a list is looked at again of which it is unknown when it turns, in milliseconds. */
const lookAgain = 600_000
/** Rows that are read at once. */
const batch = 200

type PublicRow = Awaited<ReturnType<typeof publicRowsOf>>[number]

/** A row whose lists turned. */
interface Turned {
  readonly row: PublicRow
  readonly type: ContentType
}

/** Tells when a list in a public entry turned with the time: what shows it changes, though nobody changed anything. */
export const turnWork = (kernel: Kernel): Work<string> => ({
  name: 'list turns',
  atOnce: 1,
  keyOf: (site) => site,
  due: (most, skipped) =>
    sitesToScan(kernel.database, kernel.at, new Date(kernel.now - pause).toISOString(), most, skipped),
  next: async () => {
    const at = await nextListTurn(kernel.database)
    return at === undefined ? undefined : Date.parse(at)
  },
  run: (site) => lookAt(kernel, site),
  // The log says why. It is looked at again after the next public change.
  giveUp: async (id) => {
    const site = await siteWithId(kernel.database, id)
    await kernel.write((transaction) =>
      keepListTurns(transaction, id, { generation: site.publicGeneration, at: kernel.at }, []),
    )
  },
})

async function lookAt(kernel: Kernel, id: string): Promise<void> {
  const { database } = kernel
  const site = await siteWithId(database, id)
  const scan = await listScanOf(database, id)
  const known = new Map((await listTurnsOf(database, id)).map((turn) => [`${turn.entry} ${turn.locale}`, turn]))
  const now = kernel.at
  // A list may have turned since it was looked at last, also one that was published since.
  const since = scan ? Date.parse(scan.at) : kernel.now
  const turns: ListTurn[] = []
  const turned: Turned[] = []
  const types = site.model.types.filter((type) => holdsListings(site.model, type))
  let after: PublicRow | undefined
  do {
    const rows: PublicRow[] =
      types.length === 0
        ? []
        : await publicRowsOf(
            database,
            site,
            types.map((type) => type.id),
            after,
            batch,
          )
    after = rows.length === batch ? rows.at(-1) : undefined
    for (const row of rows) {
      const type = typeWithId(site.model, row.type)!
      const earlier = known.get(`${row.entry} ${row.locale}`)
      // What is not due stays as it is, where nothing public has changed.
      if (earlier && earlier.at > now && scan?.generation === site.publicGeneration) {
        turns.push(earlier)
        continue
      }
      const looksAgain = kernel.now + lookAgain
      const seen = await seenOf(kernel, site, type, row, since, earlier ? Date.parse(earlier.at) : looksAgain)
      if (!seen) continue
      const next = seen.at > now ? seen : await seenOf(kernel, site, type, row, kernel.now, looksAgain)
      if (seen.at <= now && earlier?.shows !== next?.shows) turned.push({ row, type })
      if (next) turns.push(next)
    }
  } while (after)
  await kernel.write(async (transaction) => {
    const current = await siteWithId(transaction, id)
    if (turned.length > 0) await tell(new Act(transaction, current, 'service', kernel.environment), turned)
    // What was published meanwhile has not been seen.
    const isCurrent = current.publicGeneration === site.publicGeneration
    const { publicGeneration } = isCurrent ? await siteWithId(transaction, id) : site
    await keepListTurns(transaction, id, { generation: publicGeneration, at: now }, turns)
  })
}

/**
 * What the lists of a row show that turn with the time, and when they can turn next after a moment; undefined where none does.
 * @param otherwise when to look again where that is unknown.
 */
async function seenOf(
  { database }: Kernel,
  site: Site,
  type: ContentType,
  row: PublicRow,
  now: number,
  otherwise: number,
): Promise<ListTurn | undefined> {
  const reached = noReferences()
  collectReferences(site.model, type, JSON.parse(row.doc) as Record<string, unknown>, reached)
  const shown: string[][] = []
  let at = Infinity
  for (const { listing } of reached.listings) {
    const filled = await fillAt(database, site, row.locale, listing, now)
    if (filled.until === Infinity) continue
    shown.push(filled.ids)
    at = Math.min(at, filled.until === 0 ? otherwise : filled.until)
  }
  if (at === Infinity) return undefined
  const shows = createHash('sha256').update(JSON.stringify(shown)).digest('base64url').slice(0, 16)
  return { entry: row.entry, locale: row.locale, at: new Date(at).toISOString(), shows }
}

async function fillAt(
  database: Kernel['database'],
  site: Site,
  locale: string,
  listing: Listing,
  now: number,
): Promise<{ ids: string[]; until: number }> {
  const { rows, until } = await fillListing({ database, now }, site, 'published', locale, listing, new Dependences())
  return { ids: rows.map(({ entry }) => entry), until }
}

/** One event for each entry, with the locales in which its lists turned. */
async function tell(act: Act, turned: readonly Turned[]): Promise<void> {
  const byEntry = new Map<string, Turned[]>()
  for (const one of turned) byEntry.set(one.row.entry, [...(byEntry.get(one.row.entry) ?? []), one])
  for (const [id, all] of byEntry) {
    const type = all[0]!.type.name
    const locales = all.map(({ row }) => row.locale)
    await act.tell(
      'entry.listTurned',
      { entry: { id, type }, locales },
      {
        entries: [
          {
            id,
            type,
            locales: all.map(({ row: { locale, path } }) => ({
              locale,
              came: false,
              fields: [],
              values: [],
              path: { from: path, to: path },
            })),
          },
        ],
        paths: all.flatMap(({ row }) => row.path ?? []).sort(),
      },
    )
  }
}
