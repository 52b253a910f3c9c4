import type { FieldRead } from '../read/fieldReads.js'
import type { Encoding } from './encoding.js'

/** One form of an answer, ready to be sent. */
export interface Form {
  /** Names and values in turn, as `writeHead` takes them. */
  readonly head: readonly string[]
  readonly body: Buffer
  readonly tag: string
}

/** An answer that is the same for everybody who may ask, until the public generation moves. */
export interface CachedAnswer {
  readonly plain: Form
  /** When it may change by waiting, in milliseconds since the epoch. */
  readonly until: number
  /** What a 304 says. */
  readonly notModified: readonly string[]
  /** Compressed forms, made when they are first asked for. */
  readonly encoded: Map<Encoding, Form>
  /** The fields that it reads, to be noted for every key that asks. */
  readonly reads: readonly FieldRead[]
  /** The minute in which a key last asked. */
  readonly noted: Map<string, number>
}

interface Held {
  readonly answer: CachedAnswer
  readonly names: Set<string>
  bytes: number
}

/** What an answer costs besides its bytes: objects, headers, places in maps. */
const overhead = 1_500
/** An answer that would fill so much of the cache alone is not kept. */
const largestShare = 8

/**
 * Answers by name, bounded in bytes; the one that was not asked for longest goes first. A name begins with the stamp of the
 * site's snapshot, so that an answer of an older generation is never found again.
 */
export class ResponseCache {
  readonly #limit: number
  readonly #held = new Map<string, Held>()
  #bytes = 0

  /** @param limit in bytes. */
  constructor(limit: number) {
    this.#limit = limit
  }

  get bytes(): number {
    return this.#bytes
  }

  get(name: string): CachedAnswer | undefined {
    const held = this.#held.get(name)
    if (held === undefined) return undefined
    // A key that is set again is the newest.
    this.#held.delete(name)
    this.#held.set(name, held)
    return held.answer
  }

  /** Keeps an answer under some names. @returns whether there was room. */
  set(names: readonly string[], answer: CachedAnswer): boolean {
    const bytes = answer.plain.body.length + overhead + names.reduce((sum, name) => sum + 2 * name.length, 0)
    if (bytes > this.#limit / largestShare) return false
    for (const name of names) this.#drop(this.#held.get(name))
    const held: Held = { answer, names: new Set(names), bytes }
    for (const name of names) this.#held.set(name, held)
    this.#bytes += bytes
    this.#makeRoom()
    return true
  }

  /** Keeps a compressed form beside the plain one. */
  addForm(name: string, encoding: Encoding, form: Form): void {
    const held = this.#held.get(name)
    if (!held || held.answer.encoded.has(encoding)) return
    held.answer.encoded.set(encoding, form)
    held.bytes += form.body.length
    this.#bytes += form.body.length
    this.#makeRoom()
  }

  #makeRoom(): void {
    while (this.#bytes > this.#limit) {
      const oldest = this.#held.values().next().value
      if (!oldest) return
      this.#drop(oldest)
    }
  }

  #drop(held: Held | undefined): void {
    if (!held) return
    for (const name of held.names) this.#held.delete(name)
    this.#bytes -= held.bytes
  }
}
