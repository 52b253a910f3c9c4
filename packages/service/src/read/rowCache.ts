import type { Site } from '@wisteria/store'
import type { ReadEntry } from './readEntry.js'

/** What a kept entry costs besides its text: the parsed values take a few times as much. */
const weight = 4
const overhead = 1_000

interface Kept {
  readonly stamp: string
  readonly entries: Map<string, ReadEntry>
  bytes: number
}

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
  of(site: Site): { get(locale: string, id: string): ReadEntry | undefined; keep(entry: ReadEntry): void } {
    const stamp = `${site.publicGeneration} ${site.shelf} ${site.model.version}`
    const known = this.#sites.get(site.id)
    const own = known?.stamp === stamp ? known : { stamp, entries: new Map<string, ReadEntry>(), bytes: 0 }
    if (own !== known) this.#sites.set(site.id, own)
    return {
      get: (locale, id) => own.entries.get(`${locale} ${id}`),
      keep: (entry) => {
        const bytes = entry.row.doc.length * weight + overhead
        if (own.bytes + bytes > this.#limit / Math.max(1, this.#sites.size)) {
          own.entries.clear()
          own.bytes = 0
        }
        own.entries.set(`${entry.row.locale} ${entry.row.entry}`, entry)
        own.bytes += bytes
      },
    }
  }
}
