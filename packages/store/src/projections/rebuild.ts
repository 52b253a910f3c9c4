import {
  emptyModel,
  parentOf,
  publicRows,
  typeWithId,
  upgradeDocument,
  type ContentType,
  type Document,
  type Model,
  type SiteSettings,
} from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import { columnsOf, sideRowsOf, type SideRows } from './editionColumns.js'
import { layersFrom } from '../publications/publicHistory.js'
import { insertMany } from '../connection/inserting.js'
import { later, readsTheSame, writeSideRows } from './rowWriting.js'
import type { Site } from '../sites/sites.js'
import type { PublicationRow } from '../tables/tables.js'

interface Kept extends ReturnType<typeof columnsOf> {
  readonly entry: string
  readonly type: string
  readonly published_at: string
  readonly updated_at: string
  readonly side: SideRows
}

/**
 * Works out what `published` must hold by going through everything that ever happened in public: publications, models
 * and settings, in the order of their events. Needs no row that exists now, and says of each when its bytes last changed.
 */
export async function replayPublished(reader: Reader, site: Site): Promise<Kept[]> {
  const publications = await reader.all<PublicationRow>(
    'select * from publications where site = ? order by sequence, id',
    [site.id],
  )
  const models = await reader.all<{ sequence: number; at: string; model: string }>(
    'select sequence, at, model from models where site = ?',
    [site.id],
  )
  const settings = await reader.all<{ sequence: number; at: string; settings: string }>(
    'select sequence, at, settings from settings where site = ?',
    [site.id],
  )
  const types = new Map(
    (await reader.all<{ id: string; type: string }>('select id, type from entries where site = ?', [site.id])).map(
      (row) => [row.id, row.type],
    ),
  )
  const documents = new Map<string, { readonly document: Document; readonly version: number }>()
  for (const row of await reader.all<{ entry: string; number: number; document: string; model_version: number }>(
    'select r.entry, r.number, r.document, r.model_version from revisions r where r.site = ? and exists (select 1 from publications p where p.entry = r.entry and p.revision = r.number)',
    [site.id],
  ))
    documents.set(`${row.entry} ${row.number}`, {
      document: JSON.parse(row.document) as Document,
      version: row.model_version,
    })

  let model: Model = emptyModel
  let current: SiteSettings | undefined
  const revisions = new Map<string, Record<string, number>>()
  const rows = new Map<string, Map<string, Kept>>()

  /** What is public of an entry, as the model of the moment reads it. */
  const layersOf = (type: ContentType, entry: string) =>
    layersFrom(revisions.get(entry) ?? {}, (revision) => {
      const { document, version } = documents.get(`${entry} ${revision}`)!
      return upgradeDocument(model, type, document, version)
    })
  /** The public entries right below each, in the order in which they were first public; kept with every refresh. */
  const children = new Map<string, Set<string>>()
  const parents = new Map<string, string>()
  const putBelow = (entry: string, parent: string | undefined): void => {
    const before = parents.get(entry)
    if (before === parent) return
    if (before !== undefined) children.get(before)?.delete(entry)
    if (parent === undefined) return void parents.delete(entry)
    parents.set(entry, parent)
    children.set(parent, (children.get(parent) ?? new Set()).add(entry))
  }
  const refresh = (entry: string, at: string): boolean => {
    const type = typeWithId(model, types.get(entry) ?? '')
    const layers = type && layersOf(type, entry)
    const before = rows.get(entry) ?? new Map<string, Kept>()
    const after = new Map<string, Kept>()
    const parent = type && layers ? parentOf(type, layers.shared) : undefined
    const parentRows = parent === undefined ? undefined : rows.get(parent)
    putBelow(entry, parent)
    const made =
      type && layers && current
        ? publicRows(model, type, current, layers, (locale) =>
            parent === undefined ? null : (parentRows?.get(locale)?.path ?? undefined),
          )
        : []
    for (const row of made) {
      const old = before.get(row.locale)
      const columns = columnsOf(row)
      after.set(row.locale, {
        entry,
        type: type!.id,
        ...columns,
        published_at: old?.published_at ?? at,
        updated_at: old && readsTheSame(old, columns) ? old.updated_at : later(old?.updated_at, at),
        side: sideRowsOf(row),
      })
    }
    rows.set(entry, after)
    return [...new Set([...before.keys(), ...after.keys()])].some(
      (locale) => before.get(locale)?.path !== after.get(locale)?.path,
    )
  }
  const refreshWithChildren = (entry: string, at: string, seen = new Set<string>()): void => {
    seen.add(entry)
    if (refresh(entry, at))
      for (const child of [...(children.get(entry) ?? [])]) if (!seen.has(child)) refreshWithChildren(child, at, seen)
  }

  const moments = [
    ...models.map((row) => ({
      sequence: row.sequence,
      at: row.at,
      apply: () => void (model = JSON.parse(row.model) as Model),
    })),
    ...settings.map((row) => ({
      sequence: row.sequence,
      at: row.at,
      apply: () => void (current = JSON.parse(row.settings) as SiteSettings),
    })),
    ...grouped(publications).map((group) => ({
      sequence: group[0]!.sequence,
      at: group[0]!.at,
      entry: group[0]!.entry,
      apply: () => {
        const now = { ...revisions.get(group[0]!.entry) }
        for (const row of group) {
          if (row.revision === null) delete now[row.layer]
          else now[row.layer] = row.revision
        }
        revisions.set(group[0]!.entry, now)
      },
    })),
  ].sort((a, b) => a.sequence - b.sequence)
  for (const moment of moments) {
    moment.apply()
    if ('entry' in moment) refreshWithChildren(moment.entry, moment.at)
    // Parents have older ids or are refreshed again through them, so one pass in any order settles all paths.
    else for (const entry of revisions.keys()) refreshWithChildren(entry, moment.at)
  }
  return [...rows.values()].flatMap((byLocale) => [...byLocale.values()])
}

/** Publications of one entry at one event: they took effect together. */
function grouped(publications: readonly PublicationRow[]): PublicationRow[][] {
  const groups = new Map<string, PublicationRow[]>()
  for (const row of publications) {
    const key = `${row.sequence} ${row.entry}`
    groups.set(key, [...(groups.get(key) ?? []), row])
  }
  return [...groups.values()]
}

/** Throws the published rows of a site away and makes them anew. @returns how many there are. */
export async function rebuildPublished(transaction: Transaction, site: Site): Promise<number> {
  const rows = await replayPublished(transaction, site)
  await transaction.run('delete from published where shelf = ?', [site.shelf])
  const { shelf } = site
  await insertMany(
    transaction,
    'published',
    rows.map(({ side: _, ...row }) => ({ shelf, ...row })),
  )
  await writeSideRows(transaction, 'published', shelf, rows)
  return rows.length
}
