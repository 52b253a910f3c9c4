/** The rest of a caller's quota in a window. */
export interface Quota {
  readonly isOver: boolean
  /** Fields of RFC-to-be "RateLimit header fields for HTTP": names and values in turn. */
  readonly head: readonly string[]
  /** Seconds until the window ends. */
  readonly seconds: number
}

const window = 60_000

/** Counts requests by caller, in windows of a minute. */
export class RateLimiter {
  readonly #limit: number
  readonly #now: () => number
  readonly #policy: string
  #counts = new Map<string, number>()
  #ends = 0

  /** @param limit requests a minute; 0 for as many as they like. */
  constructor(limit: number, now: () => number) {
    this.#limit = limit
    this.#now = now
    this.#policy = `"reads";q=${limit};w=${window / 1000}`
  }

  /** Counts a request; undefined where there is no limit. */
  take(who: string): Quota | undefined {
    if (this.#limit === 0) return undefined
    const now = this.#now()
    if (now >= this.#ends) {
      this.#counts = new Map()
      this.#ends = now + window
    }
    const count = (this.#counts.get(who) ?? 0) + 1
    this.#counts.set(who, count)
    const left = Math.max(0, this.#limit - count)
    const seconds = Math.ceil((this.#ends - now) / 1000)
    return {
      isOver: count > this.#limit,
      head: ['RateLimit-Policy', this.#policy, 'RateLimit', `"reads";r=${left};t=${seconds}`],
      seconds,
    }
  }
}
