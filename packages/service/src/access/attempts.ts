import { WisteriaError } from '@wisteria/core'
import { LRUCache } from 'lru-cache'
import { createHash } from 'node:crypto'
import { perKernel } from '../kernel/perKernel.js'

/** Wrong attempts before the first pause. */
const free = 5
/** The same for one network address over all accounts: enough for an office behind it. */
const freeOfAddress = 100
const longestPause = 900_000
/** Without a wrong attempt for this long, earlier ones are forgotten. */
const forgetAfter = 3_600_000
/** How many are remembered at once; the oldest are dropped. */
const maxKept = 50_000

interface Tries {
  readonly count: number
  readonly last: number
  /** Until when the next attempt is refused unread. */
  readonly until: number
}

/**
 * Counts wrong attempts by account and address together, so that nobody can lock somebody else out, and by address alone.
 * Each further wrong one makes the pause twice as long.
 */
export class Attempts {
  readonly #now: () => number
  readonly #tries = new LRUCache<string, Tries>({ max: maxKept })

  constructor(now: () => number) {
    this.#now = now
  }

  /**
   * Does work that needs a secret, and counts a wrong one.
   * @param what the account's e-mail, or another name of the attempts.
   * @throws WisteriaError `tooMany` during a pause, with `Retry-After` in seconds.
   */
  async guard<Result>(address: string, what: string, work: () => Promise<Result>): Promise<Result> {
    const keys = [
      [keyOf(address, what), free],
      [keyOf(address), freeOfAddress],
    ] as const
    const wait = Math.max(...keys.map(([key]) => (this.#tries.get(key)?.until ?? 0) - this.#now()))
    if (wait > 0) {
      const seconds = Math.ceil(wait / 1000)
      throw new WisteriaError('tooMany', `Too many wrong attempts. Try again in ${seconds} s.`, {
        extra: { retryAfter: seconds },
      })
    }
    // Counted before it is tried, or a thousand at once would all be free.
    for (const [key, most] of keys) this.#count(key, most)
    try {
      const result = await work()
      for (const [key] of keys) this.#forgive(key, key === keys[0][0])
      return result
    } catch (error) {
      const isWrong = error instanceof WisteriaError && ['unauthenticated', 'forbidden'].includes(error.code)
      if (!isWrong) for (const [key] of keys) this.#forgive(key, false)
      throw error
    }
  }

  #count(key: string, most: number): void {
    const now = this.#now()
    const tries = this.#tries.get(key)
    const count = tries && now - tries.last < forgetAfter ? tries.count + 1 : 1
    const pause = count < most ? 0 : Math.min(1000 * 2 ** Math.min(count - most + 1, 20), longestPause)
    this.#tries.set(key, { count, last: now, until: now + pause })
  }

  /** Uncounts an attempt that was not wrong. */
  #forgive(key: string, all: boolean): void {
    const tries = this.#tries.get(key)
    if (!tries) return
    if (all || tries.count <= 1) this.#tries.delete(key)
    else this.#tries.set(key, { count: tries.count - 1, last: tries.last, until: 0 })
  }
}

const keyOf = (...parts: readonly string[]): string => createHash('sha256').update(parts.join('\0')).digest('base64url')

export const attemptsOf = perKernel((kernel) => new Attempts(() => kernel.now))
