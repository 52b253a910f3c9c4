import {
  typeWithId,
  upgradeDocument,
  WisteriaError,
  type ContentType,
  type Document,
  type Model,
  type SiteSettings,
} from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import { workingCopiesOf } from '../entries/workingCopies.js'
import { projectDrafts, projectPublic } from '../projections/editionWriting.js'
import { addFactIndexes } from '../projections/factIndexes.js'
import { publicHistoriesOf } from '../publications/publicHistory.js'
import type { Site } from '../sites/sites.js'

/** Above this number of entries an event says that everything changed, and names none. */
export const maxNamed = 1000

/** How far the building of a projection set is. */
export interface Progress {
  /** `all`: every entry once; `below`: those whose paths hang on a parent's, again and again until no path moves. */
  readonly phase: 'all' | 'below' | 'built'
  /** The last entry that was done in this round. */
  readonly after: string
  readonly round: number
  /** Whether a path moved in this round. */
  readonly moved: boolean
  readonly done: number
  /** Entries whose public bytes differ, as far as they are named. */
  readonly changed: readonly string[]
  /** Whether any public path differs. */
  readonly pathsMove: boolean
}

/** Nothing is built yet. */
export const unbuilt: Progress = {
  phase: 'all',
  after: '',
  round: 0,
  moved: false,
  done: 0,
  changed: [],
  pathsMove: false,
}

const maxRounds = 50

/** The site as it will be. */
export const asAdopted = (site: Site, model: Model, settings: SiteSettings, projection: string): Site => ({
  ...site,
  model,
  settings,
  projection,
})

/** Makes a projection set ready to be filled. */
export async function prepareProjection(transaction: Transaction, next: Site): Promise<void> {
  await addFactIndexes(transaction, next.model)
}

/**
 * Builds the rows of some entries in the next projection set.
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
    `select id, type from entries where +site = ? and id > ?${phase === 'below' ? ` and type in (${parented.map(() => '?').join(', ')})` : ''} order by id limit ${size}`,
    [site.id, after, ...(phase === 'below' ? parented : [])],
  )
  let { moved, pathsMove } = progress
  const changed = new Set(progress.changed)
  const typed = entries.flatMap(({ id, type: typeId }) => {
    const type = typeWithId(next.model, typeId)
    if (type) return { id, type }
    // A removed type takes its entries along: they are no longer public.
    changed.add(id)
    pathsMove = true
    return []
  })
  await refuseLosses(transaction, site, next, typed)
  const copies = await workingCopiesOf(
    transaction,
    next,
    typed.map(({ id }) => id),
  )
  const histories = await publicHistoriesOf(transaction, next, typed, copies)
  const build = async (some: readonly { readonly id: string; readonly type: ContentType }[]): Promise<boolean> => {
    const published = some.map(({ id, type }) => ({ id, type, layers: histories.get(id)!.layers }))
    const wrote = await projectPublic(transaction, next, published, at, site.projection)
    wrote.forEach(({ locales }, index) => {
      if (locales.length > 0 && changed.size <= maxNamed) changed.add(some[index]!.id)
    })
    pathsMove ||= wrote.some((row) => row.moved)
    const drafts = some.flatMap(({ id }) => {
      const copy = copies.get(id)
      return copy ? [{ ...copy, history: histories.get(id)! }] : []
    })
    await projectDrafts(transaction, next, drafts, at, site.projection)
    return wrote.some(({ paths }) => Object.keys(paths).length > 0)
  }
  await build(typed.filter(({ type }) => type.parent === undefined))
  // Entries with parents are built one by one: their paths need the rows of their parents.
  for (const entry of typed.filter(({ type }) => type.parent !== undefined)) {
    const before = await draftPaths(transaction, next, entry.id)
    const hasMoved = await build([entry])
    moved ||= hasMoved || before !== (await draftPaths(transaction, next, entry.id))
  }
  const last = entries.at(-1)?.id
  const done = progress.done + (phase === 'all' ? entries.length : 0)
  const state = { done, changed: [...changed], pathsMove }
  if (entries.length === size && last !== undefined) return { phase, after: last, round, moved, ...state }
  // A round is over: again, while paths hang on paths that have just moved.
  const again = parented.length > 0 && moved && round < maxRounds
  return { phase: again ? 'below' : 'built', after: '', round: round + 1, moved: !again && moved, ...state }
}

/**
 * Makes sure that all public and working values of some entries can be converted: they may have changed since the comparison.
 * @throws WisteriaError `conflict` that names the entry and its values.
 */
export async function refuseLosses(
  reader: Reader,
  site: Site,
  next: Site,
  entries: readonly { readonly id: string; readonly type: ContentType }[],
): Promise<void> {
  if (!next.model.conversions?.some((conversion) => conversion.version > site.model.version)) return
  const types = new Map(entries.map(({ id, type }) => [id, type]))
  const rows = await reader.all<{ entry: string; document: string; model_version: number; title: string | null }>(
    // With max(), the other columns are those of the row that has it: the newest publication of each layer.
    `with asked as (select value as entry from json_each(?)), in_force as (
       select e.id as entry, e.revision as number from asked join entries e on e.id = asked.entry
       union select entry, revision from (select p.entry, p.revision, max(p.id) from asked join publications p on p.entry = asked.entry group by p.entry, p.layer))
     select r.entry, r.document, r.model_version, (select title from drafts d where d.projection = ? and d.entry = r.entry limit 1) as title
     from in_force f join revisions r on r.entry = f.entry and r.number = f.number`,
    [JSON.stringify([...types.keys()]), site.projection],
  )
  for (const { entry, title, ...row } of rows)
    upgradeDocument(
      next.model,
      types.get(entry)!,
      JSON.parse(row.document) as Document,
      row.model_version,
      ({ because }) => {
        throw new WisteriaError(
          'conflict',
          `“${title ?? entry}” (${entry}) holds a value that cannot be converted: ${because}. Nothing was adopted. Change it, and compare again.`,
        )
      },
    )
}

const draftPaths = async (reader: Reader, site: Site, entry: string): Promise<string> =>
  JSON.stringify(
    await reader.all('select locale, path from drafts where projection = ? and entry = ? order by locale', [
      site.projection,
      entry,
    ]),
  )
