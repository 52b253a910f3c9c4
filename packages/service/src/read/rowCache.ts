import type { Site } from '@wisteria/store'
import type { ReadEntry } from './readEntry.js'
import { perKernel } from '../kernel/perKernel.js'

/** What a kept entry costs besides its text: the parsed values take a few times as much. */
const weight = 4
const overhead = 1_000

/** What those who refer to an entry may know of it. */
export interface ReadableEntry {
  readonly type: string
  readonly path: string | null
  readonly title: string
}

interface Kept {
  readonly stamp: string
  readonly entries: Map<string, ReadEntry>
  /** Entries that were only named, by locale and id. */
  readonly named: Map<string, ReadableEntry>
  bytes: number
}

/** What one site has kept of one generation. */
export interface KeptRows {
  get(locale: string, id: string): ReadEntry | undefined
  keep(entry: ReadEntry): void
  named(locale: string, id: string): ReadableEntry | undefined
  keepNamed(locale: string, id: string, entry: ReadableEntry): void
}

/** What a named entry costs. */
const namedWeight = 400

/**
 * Published entries that were followed to lately, by their site, as one public generation has them. A request that began
 * under an older one looks into that one's own map, so that it neither finds what is newer nor leaves what is older behind.
 */
export class RowCache {
  readonly #limit: number
  readonly #sites = new Map<string, Kept>()

  /** @param limit in bytes, for all sites together. */
  constructor(limit: number) {
    this.#limit = limit
  }

  /** Entries of a site as it stands: what is found, and how to keep what was read. */
  of(site: Site): KeptRows {
    const stamp = `${site.publicGeneration} ${site.projection} ${site.model.version}`
    const known = this.#sites.get(site.id)
    const own = known?.stamp === stamp ? known : { stamp, entries: new Map(), named: new Map(), bytes: 0 }
    if (own !== known) this.#sites.set(site.id, own)
    const make = (bytes: number): void => {
      if (own.bytes + bytes > this.#limit / Math.max(1, this.#sites.size)) {
        own.entries.clear()
        own.named.clear()
        own.bytes = 0
      }
      own.bytes += bytes
    }
    return {
      get: (locale, id) => own.entries.get(`${locale} ${id}`),
      keep: (entry) => {
        make(entry.row.doc.length * weight + overhead)
        own.entries.set(`${entry.row.locale} ${entry.row.entry}`, entry)
      },
      named: (locale, id) => {
        const key = `${locale} ${id}`
        const row = own.entries.get(key)
        return row ? { type: row.type.name, path: row.row.path, title: row.row.title } : own.named.get(key)
      },
      keepNamed: (locale, id, entry) => {
        make(namedWeight)
        own.named.set(`${locale} ${id}`, entry)
      },
    }
  }
}

export const rowCacheOf = perKernel((kernel) => new RowCache((kernel.options.responseCache * 1_000_000) / 4))
