import {
  typeWithId,
  upgradeDocument,
  WisteriaError,
  type ContentType,
  type Document,
  type Model,
  type SiteSettings,
} from '@wisteria/core'
import type { PublicChange } from './acts.js'
import type { Reader, Transaction } from './database.js'
import { shelveDraft, shelvePublic } from './editionWriting.js'
import { adjustFactIndexes, dropFactIndexes } from './factIndexes.js'
import { publicHistoryOf } from './publicHistory.js'
import type { Site } from './sites.js'
import { workingCopyOf } from './workingCopies.js'

/*
 * Another model, or other settings, put in force for everything that is stored. Rows are built anew on a shelf of their own
 * in small batches, while those who publish write both shelves; then one short transaction switches to it.
 */

/** How far the building of a shelf is. */
export interface Progress {
  /** `all`: every entry once; `below`: those whose paths hang on a parent's, again and again until no path moves. */
  readonly phase: 'all' | 'below' | 'built'
  /** The last entry that was done in this round. */
  readonly after: string
  readonly round: number
  /** Whether a path moved in this round. */
  readonly moved: boolean
  readonly done: number
}

export const beginning: Progress = { phase: 'all', after: '', round: 0, moved: false, done: 0 }

const maxRounds = 50

/** The site as it will be. */
export const asAdopted = (site: Site, model: Model, settings: SiteSettings, shelf: string): Site => ({
  ...site,
  model,
  settings,
  shelf,
})

/** Makes a shelf ready to be filled. */
export async function prepareShelf(transaction: Transaction, next: Site): Promise<void> {
  await adjustFactIndexes(transaction, next.shelf, next.model)
}

/**
 * Builds the rows of some entries on the next shelf.
 * @param at when the adoption began: rows whose bytes it changes have changed then.
 */
export async function buildBatch(
  transaction: Transaction,
  site: Site,
  next: Site,
  progress: Progress,
  size: number,
  at: string,
): Promise<Progress> {
  const { phase, after, round } = progress
  const parented = next.model.types.filter((type) => type.parent !== undefined).map((type) => type.id)
  const entries = await transaction.all<{ id: string; type: string }>(
    `select id, type from entries where site = ? and id > ?${phase === 'below' ? ` and type in (${parented.map(() => '?').join(', ')})` : ''} order by id limit ${size}`,
    [site.id, after, ...(phase === 'below' ? parented : [])],
  )
  let { moved } = progress
  for (const { id, type: typeId } of entries) {
    const type = typeWithId(next.model, typeId)
    if (!type) continue
    await refuseLosses(transaction, site, next, type, id)
    const history = await publicHistoryOf(transaction, next, type, id)
    const wrote = await shelvePublic(transaction, next, type, id, history.layers, at, site.shelf)
    const copy = await workingCopyOf(transaction, next, id)
    const before = phase === 'below' || type.parent !== undefined ? await draftPaths(transaction, next, id) : ''
    if (copy) await shelveDraft(transaction, next, type, copy, copy.document, history, at, site.shelf)
    if (type.parent !== undefined)
      moved ||= Object.keys(wrote.paths).length > 0 || before !== (await draftPaths(transaction, next, id))
  }
  const last = entries.at(-1)?.id
  const done = progress.done + (phase === 'all' ? entries.length : 0)
  if (entries.length === size && last !== undefined) return { phase, after: last, round, moved, done }
  // A round is over: again, while paths hang on paths that have just moved.
  const again = parented.length > 0 && moved && round < maxRounds
  return again
    ? { phase: 'below', after: '', round: round + 1, moved: false, done }
    : { phase: 'built', after: '', round, moved, done }
}

/**
 * Makes sure that everything in force of an entry can be converted: somebody may have written since the comparison.
 * @throws WisteriaError `conflict` that says which entry holds what.
 */
export async function refuseLosses(
  reader: Reader,
  site: Site,
  next: Site,
  type: ContentType,
  entry: string,
): Promise<void> {
  if (!next.model.conversions?.some((one) => one.version > site.model.version)) return
  const rows = await reader.all<{ document: string; model_version: number; title: string }>(
    `select r.document, r.model_version, (select title from drafts d where d.shelf = ? and d.entry = r.entry limit 1) as title
     from revisions r join entries e on e.id = r.entry where r.entry = ? and (r.number = e.revision
       or r.number in (select p.revision from publications p where p.entry = r.entry group by p.layer having p.id = max(p.id)))`,
    [site.shelf, entry],
  )
  for (const row of rows)
    upgradeDocument(next.model, type, JSON.parse(row.document) as Document, row.model_version, ({ because }) => {
      throw new WisteriaError(
        'conflict',
        `“${row.title ?? entry}” (${entry}) holds a value that cannot be converted: ${because}. Nothing was adopted. Change it, and compare again.`,
      )
    })
}

const draftPaths = async (reader: Reader, site: Site, entry: string): Promise<string> =>
  JSON.stringify(
    await reader.all('select locale, path from drafts where shelf = ? and entry = ? order by locale', [
      site.shelf,
      entry,
    ]),
  )

/** Above so many entries an event says that everything changed, and does not name each. */
const maxNamed = 1000

/** What a published reader sees differently on another shelf. */
export async function differenceOf(reader: Reader, site: Site, next: Site): Promise<PublicChange> {
  const changed = await reader.all<{ entry: string; type: string }>(
    `select distinct entry, type from (
       select n.entry, n.type from published n left join published o on o.shelf = ? and o.entry = n.entry and o.locale = n.locale
       where n.shelf = ? and (o.entry is null or o.doc <> n.doc or o.path is not n.path)
       union all
       select o.entry, o.type from published o left join published n on n.shelf = ? and n.entry = o.entry and n.locale = o.locale
       where o.shelf = ? and n.entry is null) order by entry limit ${maxNamed + 1}`,
    [site.shelf, next.shelf, next.shelf, site.shelf],
  )
  const nameOf = (id: string) => (typeWithId(next.model, id) ?? typeWithId(site.model, id))?.name ?? ''
  if (changed.length > maxNamed) return { entries: [], paths: [], all: true }
  const current = await reader.all<{ path: string }>(
    'select distinct path from published where shelf in (?, ?) and entry in (select value from json_each(?)) and path is not null order by path',
    [site.shelf, next.shelf, JSON.stringify(changed.map((row) => row.entry))],
  )
  return {
    entries: changed.map(({ entry, type }) => ({ id: entry, type: nameOf(type) })),
    paths: current.map((row) => row.path),
  }
}

/**
 * Records the paths that entries gain and lose by going over to another shelf.
 * @throws WisteriaError `conflict` that names a path which two entries would have.
 */
export async function movePaths(transaction: Transaction, site: Site, next: Site, at: string): Promise<void> {
  const [moved] = await transaction.all(
    `select 1 from published n left join published o on o.shelf = ? and o.entry = n.entry and o.locale = n.locale
       where n.shelf = ? and n.path is not o.path
     union all
     select 1 from published o left join published n on n.shelf = ? and n.entry = o.entry and n.locale = o.locale
       where o.shelf = ? and n.entry is null and o.path is not null limit 1`,
    [site.shelf, next.shelf, next.shelf, site.shelf],
  )
  if (!moved) return
  await transaction.run(
    `update paths set current = 0, since = ? where site = ? and current = 1
       and not exists (select 1 from published n where n.shelf = ? and n.entry = paths.entry and n.locale = paths.locale and n.path = paths.path)`,
    [at, site.id, next.shelf],
  )
  const [twice] = await transaction.all<{ path: string; one: string; other: string }>(
    `select path, min(title) as one, max(title) as other from published where shelf = ? and path is not null group by path having count(*) > 1 limit 1`,
    [next.shelf],
  )
  if (twice)
    throw new WisteriaError(
      'conflict',
      `“${twice.one}” and “${twice.other}” would both have the path ${twice.path}. Give one of them another slug first, or change the path pattern.`,
    )
  await transaction.run(
    `insert into paths (site, path, locale, entry, current, since)
       select ?, n.path, n.locale, n.entry, 1, ? from published n where n.shelf = ? and n.path is not null
     on conflict (site, path) do update set locale = excluded.locale, entry = excluded.entry, current = 1,
       since = case when paths.current = 1 and paths.entry = excluded.entry and paths.locale = excluded.locale then paths.since else excluded.since end`,
    [site.id, at, next.shelf],
  )
}

/** Takes some rows of a shelf that is no longer read away. @returns whether any are left. */
export async function clearShelf(transaction: Transaction, shelf: string, size: number): Promise<boolean> {
  for (const table of ['published', 'drafts']) {
    const some = `select entry from ${table} where shelf = ? limit ${size}`
    const rows = await transaction.all(some, [shelf])
    if (rows.length === 0) continue
    await transaction.run(`delete from ${table} where shelf = ? and entry in (${some})`, [shelf, shelf])
    return true
  }
  await dropFactIndexes(transaction, shelf)
  return false
}
