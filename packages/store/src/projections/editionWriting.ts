import {
  draftRows,
  noWork,
  parentOf,
  publicRows,
  statesOf,
  summaryOf,
  translationProgress,
  typeWithId,
  upgradeDocument,
  type ContentType,
  type Document,
  type Origins,
  type ParentPath,
  type PublicHistory,
  type PublicLayers,
  type TranslationProgress,
} from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import { editionTables, type Edition } from './editionTables.js'
import type { DraftStanding } from '../entries/workingCopies.js'
import { publicHistoryOf } from '../publications/publicHistory.js'
import { writeRows, type EntryRows, type RowsChanged, type StoredRow } from './rowWriting.js'
import type { Site } from '../sites/sites.js'

/**
 * Rebuilds an entry's rows of the published edition from its layers; without layers they are deleted. While a model is being
 * adopted its rows are rebuilt too.
 * @param layers as the site's own model reads them.
 */
export async function writePublicRows(
  transaction: Transaction,
  site: Site,
  type: ContentType,
  entry: string,
  layers: PublicLayers | undefined,
  at: string,
): Promise<RowsChanged> {
  const [changed] = await projectPublic(transaction, site, [{ id: entry, type, layers }], at)
  const next = nextOf(site, type)
  if (next) {
    const upgraded = layers && upgradeLayers(next.site, next.type, layers, site.model.version)
    await projectPublic(transaction, next.site, [{ id: entry, type: next.type, layers: upgraded }], at, site.projection)
  }
  return changed!
}

/** The site with the next model, and a type in it; undefined when nothing is being adopted, or the type is removed. */
function nextOf(site: Site, type: ContentType): { site: Site; type: ContentType } | undefined {
  const next = site.next && typeWithId(site.next.model, type.id)
  return next && site.next ? { site: site.next, type: next } : undefined
}

const upgradeLayers = (site: Site, type: ContentType, layers: PublicLayers, version: number): PublicLayers => ({
  shared: upgradeDocument(site.model, type, layers.shared, version),
  locales: Object.fromEntries(
    Object.entries(layers.locales).map(([tag, document]) => [
      tag,
      upgradeDocument(site.model, type, document, version),
    ]),
  ),
})

/** An entry whose published rows are to be written; without layers they are deleted. */
export interface ToPublish {
  readonly id: string
  readonly type: ContentType
  readonly layers: PublicLayers | undefined
}

/**
 * Writes published rows of some entries in the projection set of one site, by its model. `from` is the projection set with their
 * history. None of them may be the parent of another. @returns the changes, in their order.
 */
export async function projectPublic(
  transaction: Transaction,
  site: Site,
  entries: readonly ToPublish[],
  at: string,
  from?: string,
): Promise<RowsChanged[]> {
  const wanted: EntryRows[] = []
  const regions = await regionsOf(transaction, entries)
  for (const { id, type, layers } of entries) {
    const parent = layers ? parentOf(type, layers.shared) : undefined
    const parentPath = await parentPathsOf(transaction, site, 'published', parent)
    wanted.push({
      entry: id,
      type,
      rows: layers
        ? publicRows(site.model, type, site.settings, layers, parentPath, { id, region: regions.get(id) })
        : [],
      complete: (row, before) => ({ ...row, published_at: before?.published_at ?? at }),
    })
  }
  return writeRows(transaction, 'published', site.projection, wanted, at, from)
}

/** Rebuilds an entry's rows of the draft edition from its working copy. @returns its states. */
export async function writeDraftRows(
  transaction: Transaction,
  site: Site,
  type: ContentType,
  entry: Pick<ToDraft, 'id' | 'version' | 'origins'>,
  document: Document,
  history: PublicHistory,
  at: string,
): Promise<DraftStanding> {
  const [standing] = await writeDrafts(transaction, site, [{ ...entry, type, document, history }], at)
  return standing!
}

/** Rebuilds the rows of the draft edition of some entries; none of them may be the parent of another. @returns their states. */
export async function writeDrafts(
  transaction: Transaction,
  site: Site,
  entries: readonly ToDraft[],
  at: string,
): Promise<DraftStanding[]> {
  const standings = await projectDrafts(transaction, site, entries, at)
  const upgraded = entries.flatMap((entry): ToDraft[] => {
    const next = nextOf(site, entry.type)
    if (!next) return []
    const { document, history } = entry
    return [
      {
        ...entry,
        type: next.type,
        document: upgradeDocument(next.site.model, next.type, document, site.model.version),
        history: {
          ...history,
          layers: history.layers && upgradeLayers(next.site, next.type, history.layers, site.model.version),
        },
      },
    ]
  })
  if (site.next && upgraded.length > 0) await projectDrafts(transaction, site.next, upgraded, at, site.projection)
  return standings
}

/** An entry whose draft rows are to be written. */
export interface ToDraft {
  readonly id: string
  readonly type: ContentType
  readonly version: number
  readonly document: Document
  /** Undefined where no save has recorded them. */
  readonly origins: Origins | undefined
  readonly history: PublicHistory
}

/**
 * Writes draft rows of some entries in the projection set of one site, as `projectPublic` does. @returns their states, in their
 * order.
 */
export async function projectDrafts(
  transaction: Transaction,
  site: Site,
  entries: readonly ToDraft[],
  at: string,
  from?: string,
): Promise<DraftStanding[]> {
  const wanted: EntryRows[] = []
  const all: Omit<DraftStanding, 'paths' | 'moved'>[] = []
  const regions = await regionsOf(transaction, entries)
  for (const { id, type, version, document, origins, history } of entries) {
    const parentPath = await parentPathsOf(transaction, site, 'draft', parentOf(type, document))
    const states = statesOf(site.model, type, document, history, site.settings)
    const summary = summaryOf(states)
    const progress = translationProgress(site.model, type, document, origins, history, site.settings)
    const freshness = Object.fromEntries(Object.entries(progress).map(([locale, { freshness }]) => [locale, freshness]))
    all.push({ states, freshness })
    wanted.push({
      entry: id,
      type,
      rows: draftRows(site.model, type, site.settings, document, parentPath, { id, region: regions.get(id) }),
      complete: (row, before) => ({
        ...row,
        published_at: before?.public_since ?? null,
        state: states[row.locale]!,
        freshness: freshness[row.locale] ?? '',
        summary,
        version,
        ...workColumns(states[row.locale] === 'archived' ? undefined : progress[row.locale], before, at),
      }),
    })
  }
  const changed = await writeRows(transaction, 'draft', site.projection, wanted, at, from)
  return all.map((values, index) => {
    const { standing, paths } = changed[index]!
    return { ...values, paths: standing, moved: Object.keys(paths).length > 0 }
  })
}

/** The regions of those of some entries whose types are regional and which are not in the main one, by id. */
async function regionsOf(
  reader: Reader,
  entries: readonly { readonly id: string; readonly type: ContentType }[],
): Promise<ReadonlyMap<string, string>> {
  const ids = entries.filter(({ type }) => type.regional).map(({ id }) => id)
  if (ids.length === 0) return new Map()
  const rows = await reader.all<{ id: string; region: string }>(
    'select id, region from entries where id in (select value from json_each(?)) and region is not null',
    [JSON.stringify(ids)],
  )
  return new Map(rows.map(({ id, region }) => [id, region]))
}

/** The columns of a draft row with the work of translators in it. */
function workColumns(progress: TranslationProgress | undefined, before: StoredRow | undefined, at: string) {
  const { units, words } = progress ?? { units: noWork, words: noWork }
  // A row of a version that counted no work: the work is as old as the text.
  const since = before?.content_locale === '' ? before.updated_at : (before?.work_since ?? at)
  return {
    units_missing: units.missing,
    units_outdated: units.outdated,
    units_done: units.done,
    words_missing: words.missing,
    words_outdated: words.outdated,
    words_done: words.done,
    work_since: units.missing + units.outdated > 0 ? since : null,
  }
}

/** The paths of a parent in an edition, by locale: null everywhere without a parent. */
export async function parentPathsOf(
  reader: Reader,
  site: Site,
  edition: Edition,
  parent: string | undefined,
): Promise<ParentPath> {
  if (parent === undefined) return () => null
  const rows = await reader.all<{ locale: string; path: string | null }>(
    `select locale, path from ${editionTables[edition].rows} where projection = ? and entry = ?`,
    [site.projection, parent],
  )
  const paths = new Map(rows.map((row) => [row.locale, row.path]))
  return (locale) => paths.get(locale) ?? undefined
}

/** The ids of entries directly below another in an edition. */
export async function childrenOf(
  reader: Reader,
  site: Site,
  edition: Edition,
  parents: readonly string[],
): Promise<{ id: string; type: ContentType }[]> {
  const fields = site.model.types.flatMap((type) =>
    type.fields.filter((field) => field.name === type.parent).map((field) => field.id),
  )
  if (fields.length === 0 || parents.length === 0) return []
  const { refs, rows } = editionTables[edition]
  const stored = await reader.all<{ entry: string; type: string }>(
    `select distinct r.entry, t.type from ${refs} r join ${rows} t on t.projection = r.projection and t.entry = r.entry and t.locale = r.locale
     where r.projection = ? and r.direct = 1 and r.field in (${fields.map(() => '?').join(', ')}) and r.target in (${parents.map(() => '?').join(', ')}) order by r.entry`,
    [site.projection, ...fields, ...parents],
  )
  return stored.map(({ entry, type }) => ({ id: entry, type: typeWithId(site.model, type)! }))
}

/** Everything below an entry, nearest first. A circle is walked once. */
export async function descendantsOf(
  reader: Reader,
  site: Site,
  edition: Edition,
  entry: string,
): Promise<{ id: string; type: ContentType }[]> {
  const all: { id: string; type: ContentType }[] = []
  const seen = new Set([entry])
  let level = [entry]
  while (level.length > 0) {
    const next = (await childrenOf(reader, site, edition, level)).filter(({ id }) => !seen.has(id))
    for (const child of next) seen.add(child.id)
    all.push(...next)
    level = next.map(({ id }) => id)
  }
  return all
}

/** Writes again the published rows of everything below an entry whose path has changed. @returns the changes, by entry. */
export async function rewriteDescendants(
  transaction: Transaction,
  site: Site,
  entry: string,
  at: string,
): Promise<{ id: string; type: ContentType; changed: RowsChanged }[]> {
  const rewritten = []
  for (const { id, type } of await descendantsOf(transaction, site, 'published', entry)) {
    const { layers } = await publicHistoryOf(transaction, site, type, id)
    const changed = await writePublicRows(transaction, site, type, id, layers, at)
    if (changed.locales.length > 0) rewritten.push({ id, type, changed })
  }
  return rewritten
}
