import { LRUCache } from 'lru-cache'
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

/** What one site has kept of one generation. */
export interface KeptRows {
  get(locale: string, id: string): ReadEntry | undefined
  keep(entry: ReadEntry): void
  named(locale: string, id: string): ReadableEntry | undefined
  keepNamed(locale: string, id: string, entry: ReadableEntry): void
}

/** What a named entry costs. */
const namedWeight = 400
/** The part of the cache that is for entries that were only named. */
const namedShare = 1 / 8

/**
 * Published entries that were followed to lately, as one public generation of their site has them, bounded in bytes. A request
 * that began under an older generation neither finds what is newer nor leaves what is older behind.
 */
export class RowCache {
  readonly #entries: LRUCache<string, ReadEntry>
  /** Entries that were only named. */
  readonly #named: LRUCache<string, ReadableEntry>
  /** The number of each site's generation, which keys begin with. */
  readonly #generations = new LRUCache<string, { readonly stamp: string; readonly number: number }>({ max: 10_000 })
  #newest = 0

  /** @param limit in bytes, for all sites together. */
  constructor(limit: number) {
    this.#entries = new LRUCache({
      maxSize: Math.max(1, Math.floor(limit * (1 - namedShare))),
      sizeCalculation: ({ row }) => row.doc.length * weight + overhead,
    })
    this.#named = new LRUCache({ max: Math.max(1, Math.floor((limit * namedShare) / namedWeight)) })
  }

  /** Entries of a site as it stands: what is found, and how to keep what was read. */
  of(site: Site): KeptRows {
    const number = this.#numberOf(site)
    const keyOf = (locale: string, id: string): string => `${number} ${locale} ${id}`
    return {
      get: (locale, id) => this.#entries.get(keyOf(locale, id)),
      keep: (entry) => void this.#entries.set(keyOf(entry.row.locale, entry.row.entry), entry),
      named: (locale, id) => {
        const key = keyOf(locale, id)
        const entry = this.#entries.get(key)
        return entry ? { type: entry.type.name, path: entry.row.path, title: entry.row.title } : this.#named.get(key)
      },
      keepNamed: (locale, id, entry) => void this.#named.set(keyOf(locale, id), entry),
    }
  }

  #numberOf(site: Site): number {
    const stamp = `${site.publicGeneration} ${site.projection} ${site.model.version}`
    const generation = this.#generations.get(site.id)
    if (generation?.stamp === stamp) return generation.number
    const number = ++this.#newest
    this.#generations.set(site.id, { stamp, number })
    return number
  }
}

export const rowCacheOf = perKernel((kernel) => new RowCache((kernel.options.responseCache * 1_000_000) / 4))
