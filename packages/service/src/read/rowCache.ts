import { LRUCache } from 'lru-cache'
import type { Site } from '@wisteria/store'
import type { ReadEntry } from './readEntry.js'
import { perKernel } from '../kernel/perKernel.js'

/** The memory of a cached entry besides its text: the parsed values take several times as much. */
const weight = 4
const overhead = 1_000

/** The public part of an entry, for entries that refer to it. */
export interface ReadableEntry {
  readonly type: string
  readonly path: string | null
  readonly title: string
  readonly contentLocale: string
}

/** The cache of one site in one generation. */
export interface KeptRows {
  get(locale: string, id: string): ReadEntry | undefined
  keep(entry: ReadEntry): void
  named(locale: string, id: string): ReadableEntry | undefined
  keepNamed(locale: string, id: string, entry: ReadableEntry): void
}

/** The memory of a named entry. */
const namedWeight = 400
/** The part of the cache that is for entries that were only named. */
const namedShare = 1 / 8

/**
 * Recently followed published entries of each site in one public generation, bounded in bytes. A request that began under an older
 * generation neither reads newer entries nor leaves older ones behind.
 */
export class RowCache {
  readonly #entries: LRUCache<string, ReadEntry>
  /** Entries that were only named. */
  readonly #named: LRUCache<string, ReadableEntry>
  /** The number of each site's generation, with which keys begin. */
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

  /** Entries of a site in one generation: finding and caching them. */
  of(site: Site): KeptRows {
    const number = this.#numberOf(site)
    const keyOf = (locale: string, id: string): string => `${number} ${locale} ${id}`
    return {
      get: (locale, id) => this.#entries.get(keyOf(locale, id)),
      keep: (entry) => void this.#entries.set(keyOf(entry.row.locale, entry.row.entry), entry),
      named: (locale, id) => {
        const key = keyOf(locale, id)
        const entry = this.#entries.get(key)
        if (!entry) return this.#named.get(key)
        const { path, title, content_locale: contentLocale } = entry.row
        return { type: entry.type.name, path, title, contentLocale }
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
