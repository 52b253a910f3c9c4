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
import type { Reader } from '../connection/reader.js'
import { layersFrom } from '../publications/publicHistory.js'
import type { Site } from '../sites/sites.js'
import type { PublicationRow } from '../tables/tables.js'
import { columnsOf, sideRowsOf, type SideRows } from './editionColumns.js'
import { later, readsTheSame } from './rowWriting.js'

/** An expected row of `published`, with its values and references. */
export interface ReplayedRow extends ReturnType<typeof columnsOf> {
  readonly entry: string
  readonly type: string
  readonly published_at: string
  readonly updated_at: string
  readonly side: SideRows
}

/**
 * Computes the rows of `published` from the whole public history: publications, models and settings, in the order of their events.
 * Needs no existing row, and knows when the bytes of each last changed.
 */
export async function replayPublished(reader: Reader, site: Site): Promise<ReplayedRow[]> {
  const replay = new Replay(await publicRevisions(reader, site), await headsOfAll(reader, site))
  for (const moment of await momentsOf(reader, site)) replay.apply(moment)
  return replay.rows
}

/** A change of the published edition: another model, other settings, or publications of one entry. */
type Moment = { readonly sequence: number; readonly at: string } & (
  | { readonly is: 'model'; readonly model: Model }
  | { readonly is: 'settings'; readonly settings: SiteSettings }
  | { readonly is: 'publications'; readonly entry: string; readonly publications: readonly PublicationRow[] }
)

/** All changes of the published edition of a site, in order. */
async function momentsOf(reader: Reader, site: Site): Promise<Moment[]> {
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
  const moments: Moment[] = [
    ...models.map(({ model, ...row }) => ({ ...row, is: 'model' as const, model: JSON.parse(model) as Model })),
    ...settings.map((row) => ({
      ...row,
      is: 'settings' as const,
      settings: JSON.parse(row.settings) as SiteSettings,
    })),
    ...atOneEvent(publications).map((some) => {
      const { sequence, at, entry } = some[0]!
      return { sequence, at, is: 'publications' as const, entry, publications: some }
    }),
  ]
  return moments.sort((a, b) => a.sequence - b.sequence)
}

/** Publications of one entry at one event: they took effect together. */
function atOneEvent(publications: readonly PublicationRow[]): PublicationRow[][] {
  const groups = new Map<string, PublicationRow[]>()
  for (const row of publications) {
    const key = `${row.sequence} ${row.entry}`
    groups.set(key, [...(groups.get(key) ?? []), row])
  }
  return [...groups.values()]
}

interface WrittenRevision {
  readonly document: Document
  readonly modelVersion: number
}

/** Every revision that was ever public, by entry and number. */
async function publicRevisions(reader: Reader, site: Site): Promise<Map<string, WrittenRevision>> {
  const rows = await reader.all<{ entry: string; number: number; document: string; model_version: number }>(
    `select r.entry, r.number, r.document, r.model_version from revisions r
     where r.site = ? and exists (select 1 from publications p where p.entry = r.entry and p.revision = r.number)`,
    [site.id],
  )
  return new Map(
    rows.map((row) => [
      `${row.entry} ${row.number}`,
      { document: JSON.parse(row.document) as Document, modelVersion: row.model_version },
    ]),
  )
}

/** What of an entry does not change with its revisions. */
interface Head {
  /** The internal id of its type. */
  readonly type: string
  /** It is never another one once the entry has been public. */
  readonly region: string | null
}

async function headsOfAll(reader: Reader, site: Site): Promise<Map<string, Head>> {
  const rows = await reader.all<Head & { id: string }>('select id, type, region from entries where site = ?', [site.id])
  return new Map(rows.map(({ id, ...head }) => [id, head]))
}

/** The published edition, moment by moment. */
class Replay {
  readonly #written: ReadonlyMap<string, WrittenRevision>
  readonly #heads: ReadonlyMap<string, Head>
  #model = emptyModel
  #settings: SiteSettings | undefined
  /** By entry: the revision that each of its layers is public from. */
  readonly #revisions = new Map<string, Record<string, number>>()
  readonly #rows = new Map<string, Map<string, ReplayedRow>>()
  /** The public entries right below each, in the order in which they were first public. */
  readonly #children = new Map<string, Set<string>>()
  readonly #parents = new Map<string, string>()

  constructor(written: ReadonlyMap<string, WrittenRevision>, heads: ReadonlyMap<string, Head>) {
    this.#written = written
    this.#heads = heads
  }

  get rows(): ReplayedRow[] {
    return [...this.#rows.values()].flatMap((byLocale) => [...byLocale.values()])
  }

  apply(moment: Moment): void {
    if (moment.is === 'model') this.#model = moment.model
    else if (moment.is === 'settings') this.#settings = moment.settings
    else {
      this.#publish(moment.entry, moment.publications)
      this.#refreshWithChildren(moment.entry, moment.at)
      return
    }
    // Parents have older ids or are refreshed again through them, so one pass in any order makes all paths right.
    for (const entry of this.#revisions.keys()) this.#refreshWithChildren(entry, moment.at)
  }

  #publish(entry: string, publications: readonly PublicationRow[]): void {
    const now = { ...this.#revisions.get(entry) }
    for (const { layer, revision } of publications) {
      if (revision === null) delete now[layer]
      else now[layer] = revision
    }
    this.#revisions.set(entry, now)
  }

  #refreshWithChildren(entry: string, at: string, seen = new Set<string>()): void {
    seen.add(entry)
    if (!this.#refresh(entry, at)) return
    for (const child of [...(this.#children.get(entry) ?? [])])
      if (!seen.has(child)) this.#refreshWithChildren(child, at, seen)
  }

  /** Rebuilds the rows of an entry. @returns whether one of its paths differs. */
  #refresh(entry: string, at: string): boolean {
    const type = typeWithId(this.#model, this.#heads.get(entry)?.type ?? '')
    const layers = type && this.#layersOf(type, entry)
    const before = this.#rows.get(entry) ?? new Map<string, ReplayedRow>()
    const after = new Map<string, ReplayedRow>()
    const parent = type && layers ? parentOf(type, layers.shared) : undefined
    const parentRows = parent === undefined ? undefined : this.#rows.get(parent)
    this.#putBelow(entry, parent)
    const rows =
      type && layers && this.#settings
        ? publicRows(
            this.#model,
            type,
            this.#settings,
            layers,
            (locale) => (parent === undefined ? null : (parentRows?.get(locale)?.path ?? undefined)),
            { id: entry, region: this.#heads.get(entry)?.region },
          )
        : []
    for (const row of rows) {
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
    this.#rows.set(entry, after)
    return [...new Set([...before.keys(), ...after.keys()])].some(
      (locale) => before.get(locale)?.path !== after.get(locale)?.path,
    )
  }

  /** The public document of an entry, as the model of that moment reads it. */
  #layersOf(type: ContentType, entry: string) {
    return layersFrom(this.#revisions.get(entry) ?? {}, (revision) => {
      const { document, modelVersion } = this.#written.get(`${entry} ${revision}`)!
      return upgradeDocument(this.#model, type, document, modelVersion)
    })
  }

  #putBelow(entry: string, parent: string | undefined): void {
    const before = this.#parents.get(entry)
    if (before === parent) return
    if (before !== undefined) this.#children.get(before)?.delete(entry)
    if (parent === undefined) return void this.#parents.delete(entry)
    this.#parents.set(entry, parent)
    this.#children.set(parent, (this.#children.get(parent) ?? new Set()).add(entry))
  }
}
