import { LRUCache } from 'lru-cache'
import type { FieldRead } from '../read/fieldReads.js'
import type { Encoding } from './encoding.js'

/** One encoding of an answer, ready to be sent. */
export interface Form {
  /** Names and values in turn, the form of `writeHead`. */
  readonly head: readonly string[]
  readonly body: Buffer
  readonly tag: string
}

/** An answer that is the same for everybody who may ask, until the public generation moves. */
export interface CachedAnswer {
  readonly plain: Form
  /** When it may change with the time, in milliseconds since the epoch. */
  readonly until: number
  /** Headers of a 304. */
  readonly notModified: readonly string[]
  /** Compressed forms, made on the first request. */
  readonly encoded: Map<Encoding, Form>
  /** The fields that it reads, to be noted for every key. */
  readonly reads: readonly FieldRead[]
  /** The minute of a key's last request. */
  readonly noted: Map<string, number>
}

interface CachedEntry {
  readonly answer: CachedAnswer
  readonly names: readonly string[]
  bytes: number
}

/** The memory of an answer besides its bytes: objects, headers, entries of maps. */
const overhead = 1_500
/** An answer that would fill so much of the cache alone is not cached. */
const largestShare = 8

/**
 * Answers by key, bounded in bytes; the least recently used is dropped first. A key begins with the stamp of the site's snapshot,
 * so that an answer of an older generation is never found.
 */
export class ResponseCache {
  readonly #limit: number
  readonly #byName = new Map<string, CachedEntry>()
  /** The size of each, least recently used first. A dropped answer drops its keys. */
  readonly #sizes: LRUCache<CachedEntry, number>

  /** @param limit in bytes. */
  constructor(limit: number) {
    this.#limit = limit
    this.#sizes = new LRUCache<CachedEntry, number>({
      // Nothing at all fits into a cache of no bytes.
      maxSize: Math.max(1, limit),
      sizeCalculation: (bytes) => bytes,
      dispose: (_, entry, reason) => {
        if (reason === 'set') return
        for (const name of entry.names) if (this.#byName.get(name) === entry) this.#byName.delete(name)
      },
    })
  }

  get bytes(): number {
    return this.#sizes.calculatedSize
  }

  get(name: string): CachedAnswer | undefined {
    const cached = this.#byName.get(name)
    if (cached === undefined) return undefined
    this.#sizes.get(cached)
    return cached.answer
  }

  /** Caches an answer under some keys. @returns whether there was room. */
  set(names: readonly string[], answer: CachedAnswer): boolean {
    const bytes = answer.plain.body.length + overhead + names.reduce((sum, name) => sum + 2 * name.length, 0)
    if (bytes > this.#limit / largestShare) return false
    for (const name of names) {
      const before = this.#byName.get(name)
      if (before) this.#sizes.delete(before)
    }
    const entry: CachedEntry = { answer, names, bytes }
    for (const name of names) this.#byName.set(name, entry)
    this.#sizes.set(entry, bytes)
    return true
  }

  /** Stores a compressed form beside the plain one. */
  addForm(name: string, encoding: Encoding, form: Form): void {
    const cached = this.#byName.get(name)
    if (!cached || cached.answer.encoded.has(encoding)) return
    cached.answer.encoded.set(encoding, form)
    cached.bytes += form.body.length
    this.#sizes.set(cached, cached.bytes)
  }
}
