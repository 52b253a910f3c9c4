import {
  localeTags,
  parentOf,
  parentsFirst,
  publicCopy,
  referencesOf,
  typeWithId,
  withNamedKeys,
  type ContentType,
  type PublicLayers,
} from '@wisteria/core'
import type { Reader } from '../connection/reader.js'
import { publicHistoriesOf, sharedLayer, type KnownHistory } from '../publications/publicHistory.js'
import type { Site } from '../sites/sites.js'
import { archiveParts, lineOf, type ArchiveLine } from './parts.js'

/** So many entries are read at once. */
const batch = 100
/** Who did what is not public. */
const nobody = 'service'
/** The number of the model's event, and those of publications after it. */
const modelSequence = 1

/** The parts that an archive of what is public has, in the order in which they are written. */
export const publicParts = [
  'settings',
  'models',
  'entries',
  'revisions',
  'publications',
  'paths',
  'assets',
  'assetRevisions',
] as const
export type PublicPart = (typeof publicParts)[number]

interface PublicEntry {
  readonly id: string
  readonly type: ContentType
  readonly region: string | null
  /** Since when each locale can be read. */
  readonly since: Readonly<Record<string, string>>
  readonly counterpart: { readonly of: string | null; readonly root: string | null }
}

/**
 * What is public of a site, as an archive has it: each entry with one revision that holds its public values. Drafts, earlier values,
 * references to what is not public, files that nothing public shows and the names of people are not in it.
 */
export class PublicReading {
  readonly #reader: Reader
  readonly #site: Site
  /** Parents before what is below them. */
  readonly #entries: readonly PublicEntry[]
  readonly #ids: ReadonlySet<string>
  readonly #assets = new Set<string>()
  #sequence = modelSequence

  private constructor(reader: Reader, site: Site, entries: readonly PublicEntry[]) {
    this.#reader = reader
    this.#site = site
    this.#entries = entries
    this.#ids = new Set(entries.map(({ id }) => id))
  }

  static async of(reader: Reader, site: Site): Promise<PublicReading> {
    const entries = await publicEntries(reader, site)
    const parents = new Map<string, string | undefined>()
    const nested = entries.filter(({ type }) => type.parent !== undefined)
    for await (const { entry, layers } of historiesOf(reader, site, nested))
      parents.set(entry.id, parentOf(entry.type, layers.shared))
    const placed = entries.map((entry) => ({ ...entry, parent: parents.get(entry.id) }))
    return new PublicReading(reader, site, parentsFirst(placed))
  }

  /** The lines of a part. Files are known after the revisions. */
  lines(name: PublicPart): AsyncGenerator<ArchiveLine[]> {
    switch (name) {
      case 'settings':
      case 'models':
        return this.#inForce(name)
      case 'entries':
        return this.#entryLines()
      case 'revisions':
        return this.#revisions()
      case 'publications':
        return this.#publications()
      case 'paths':
        return this.#paths()
      case 'assets':
      case 'assetRevisions':
        return this.#assetLines(name)
    }
  }

  /** The settings and the model in force. */
  async *#inForce(name: 'settings' | 'models'): AsyncGenerator<ArchiveLine[]> {
    const part = archiveParts[name]
    const version = name === 'models' ? this.#site.model.version : this.#site.settingsVersion
    const rows = await this.#reader.all<Record<string, string>>(
      `select * from ${part.table.name} where site = ? and version = ?`,
      [this.#site.id, version],
    )
    yield rows.map((row) => ({
      ...lineOf(part, row),
      sequence: name === 'models' ? modelSequence : 0,
      by: nobody,
      ...(name === 'models' ? { consequences: [] } : {}),
    }))
  }

  async *#entryLines(): AsyncGenerator<ArchiveLine[]> {
    for (let from = 0; from < this.#entries.length; from += batch)
      yield this.#entries.slice(from, from + batch).map((entry) => {
        const at = firstOf(entry)
        const { of, root } = entry.counterpart
        return {
          id: entry.id,
          type: entry.type.name,
          version: 1,
          revision: 1,
          createdAt: at,
          createdBy: nobody,
          updatedAt: at,
          updatedBy: nobody,
          ...(entry.region === null ? {} : { region: entry.region }),
          ...(root !== null && this.#ids.has(root) ? { counterpartRoot: root } : {}),
          ...(of !== null && this.#ids.has(of) ? { counterpartOf: of, counterpartRevision: 1 } : {}),
        }
      })
  }

  /** The public values of each entry. */
  async *#revisions(): AsyncGenerator<ArchiveLine[]> {
    const { model, settings } = this.#site
    for await (const { entry, layers } of historiesOf(this.#reader, this.#site, this.#entries)) {
      const values = publicCopy(model, entry.type, layers, settings, (id) => this.#ids.has(id))
      for (const { to, target } of referencesOf(model, entry.type, values, localeTags(settings)))
        if (to === 'asset') this.#assets.add(target)
      const at = firstOf(entry)
      yield [
        {
          entry: entry.id,
          number: 1,
          modelVersion: model.version,
          version: 1,
          author: nobody,
          createdAt: at,
          updatedAt: at,
          sealedAt: at,
          values: withNamedKeys(model, entry.type, values),
        },
      ]
    }
  }

  /** Each locale is published when it could first be read, without interruption. The shared values come with the first. */
  async *#publications(): AsyncGenerator<ArchiveLine[]> {
    for await (const { entry, history } of historiesOf(this.#reader, this.#site, this.#entries)) {
      const first = firstOf(entry)
      const layers = Object.keys(history.revisions)
        .map((layer) => ({ layer, at: layer === sharedLayer ? first : (entry.since[layer] ?? first) }))
        .sort((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : 0))
      let before: string | undefined
      const lines: ArchiveLine[] = []
      for (const { layer, at } of layers) {
        if (at !== before) this.#sequence++
        before = at
        lines.push({
          entry: entry.id,
          layer,
          revision: 1,
          modelVersion: this.#site.model.version,
          sequence: this.#sequence,
          at,
          by: nobody,
          action: entry.id,
        })
      }
      yield lines
    }
  }

  /** The number of the last publication. */
  get sequence(): number {
    return this.#sequence
  }

  /** The present and earlier paths of public entries. */
  async *#paths(): AsyncGenerator<ArchiveLine[]> {
    const part = archiveParts.paths
    const rows = await this.#reader.all<Record<string, string>>('select * from paths where site = ? order by path', [
      this.#site.id,
    ])
    yield rows.filter(({ entry }) => this.#ids.has(entry!)).map((row) => lineOf(part, row))
  }

  /** The files that public values show, as they are. */
  async *#assetLines(name: 'assets' | 'assetRevisions'): AsyncGenerator<ArchiveLine[]> {
    const rows = await this.#reader.all<Record<string, string>>(
      'select * from assets where id in (select value from json_each(?)) and +site = ? order by id',
      [JSON.stringify([...this.#assets]), this.#site.id],
    )
    yield rows.map((row) => {
      const line = { ...lineOf(archiveParts.assets, { ...row, revision: 1, origins: null }), createdBy: nobody }
      if (name === 'assets') return line
      const { id, createdAt, createdBy: _, updatedAt, ...content } = line as Record<string, unknown>
      return { asset: id, ...content, at: updatedAt ?? createdAt, by: nobody }
    })
  }
}

const firstOf = ({ since }: PublicEntry): string => Object.values(since).sort()[0]!

async function publicEntries(reader: Reader, site: Site): Promise<PublicEntry[]> {
  const rows = await reader.all<{
    id: string
    type: string
    region: string | null
    counterpart_of: string | null
    counterpart_root: string | null
    since: string
  }>(
    `select p.entry as id, p.type, e.region, e.counterpart_of, e.counterpart_root, json_group_object(p.locale, p.published_at) as since
     from published p join entries e on e.id = p.entry where p.projection = ? group by p.entry order by p.entry`,
    [site.projection],
  )
  return rows.flatMap((row) => {
    const type = typeWithId(site.model, row.type)
    return type
      ? [
          {
            id: row.id,
            type,
            region: row.region,
            since: JSON.parse(row.since) as Record<string, string>,
            counterpart: { of: row.counterpart_of, root: row.counterpart_root },
          },
        ]
      : []
  })
}

/** Entries with their public layers, in their order. */
async function* historiesOf(
  reader: Reader,
  site: Site,
  entries: readonly PublicEntry[],
): AsyncGenerator<{ entry: PublicEntry; layers: PublicLayers; history: KnownHistory }> {
  for (let from = 0; from < entries.length; from += batch) {
    const some = entries.slice(from, from + batch)
    const histories = await publicHistoriesOf(reader, site, some)
    for (const entry of some) {
      const history = histories.get(entry.id)!
      if (history.layers) yield { entry, layers: history.layers, history }
    }
  }
}
