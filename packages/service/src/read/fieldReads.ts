import { keepFieldReads, type Database, type FieldRead as KeptRead, type Site } from '@wisteria/store'
import type { Caller } from '@wisteria/core'
import { perKernel } from '../kernel/perKernel.js'

/** Every field of the type, as an answer without a selection has it. */
export const allFields = '*'

/** A field of a type that was read, and the name in the request. */
export type FieldRead = Pick<KeptRead, 'type' | 'field' | 'name'>

interface Read extends KeptRead {
  /** Whether it is written already. */
  isKept: boolean
}

/** So many at most between two times of keeping: beyond it, something else than front ends is asking. */
const maxNoted = 50_000

/**
 * Notes which access key reads which field, and when it last did. Kept in memory to the minute and written now and then, so
 * that a read costs a look into a map.
 */
export class FieldReads {
  readonly #database: Database
  readonly #now: () => number
  readonly #reads = new Map<string, Read>()
  /** The minute it is, and how it is written. */
  #minute = 0
  #at = ''
  /** Noted reads of cached answers in the minute, by site and key. */
  #keptMinute = 0
  #keptReads = new Map<string, Set<FieldRead>>()
  readonly #recorded = new WeakMap<Caller, FieldRead[]>()

  constructor(database: Database, now: () => number) {
    this.#database = database
    this.#now = now
  }

  /**
   * @param type internal id of the type or block type, `field` that of the field.
   * @param name the name in the request.
   */
  note(site: Site, caller: Caller, type: string, field: string, name: string): void {
    if (caller.is !== 'key') return
    this.#recorded.get(caller)?.push({ type, field, name })
    const minute = Math.floor(this.#now() / 60_000) * 60_000
    if (minute !== this.#minute) {
      this.#minute = minute
      this.#at = new Date(minute).toISOString()
    }
    const place = `${site.id} ${caller.key} ${type} ${field} ${name}`
    const read = this.#reads.get(place)
    const at = this.#at
    if (read?.at === at) return
    if (!read && this.#reads.size >= maxNoted) return
    this.#reads.set(place, { site: site.id, key: caller.key, type, field, name, at, isKept: false })
  }

  /** Notes reads that a cached plan or answer repeats: the same object again within the minute costs next to nothing. */
  noteKept(site: Site, caller: Caller, read: FieldRead): void {
    if (caller.is !== 'key') return
    const minute = Math.floor(this.#now() / 60_000)
    if (minute !== this.#keptMinute) {
      this.#keptMinute = minute
      this.#keptReads = new Map()
    }
    const of = `${site.id} ${caller.key}`
    const cached = this.#keptReads.get(of)
    if (cached?.has(read)) {
      this.#recorded.get(caller)?.push(read)
      return
    }
    if (cached) cached.add(read)
    else this.#keptReads.set(of, new Set([read]))
    this.note(site, caller, read.type, read.field, read.name)
  }

  /** The reads of one request from now on, so that they can be noted again with its cached answer. */
  record(caller: Caller): readonly FieldRead[] {
    const reads: FieldRead[] = []
    this.#recorded.set(caller, reads)
    return reads
  }

  /** Writes new reads to the database. */
  async keep(): Promise<void> {
    const fresh = [...this.#reads.values()].filter((read) => !read.isKept)
    if (fresh.length === 0) return
    for (const read of fresh) read.isKept = true
    await this.#database.write((transaction) => keepFieldReads(transaction, fresh))
  }
}

export const fieldReadsOf = perKernel((kernel) => new FieldReads(kernel.database, () => kernel.now))
