import { WisteriaError } from '@wisteria/core'

/**
 * Runs a limited number at a time. Waiting requests are taken in turns by caller, so that a caller with very many holds up only its
 * own.
 */
export class FairQueue {
  readonly #atOnce: number
  readonly #maxWaiting: number
  readonly #waiting = new Map<string, (() => void)[]>()
  #running = 0
  #count = 0

  constructor(atOnce: number, maxWaiting: number) {
    this.#atOnce = atOnce
    this.#maxWaiting = maxWaiting
  }

  get waiting(): number {
    return this.#count
  }

  /** @throws WisteriaError `unavailable` where too many wait already. */
  async run<Result>(who: string, work: () => Promise<Result>): Promise<Result> {
    if (this.#running >= this.#atOnce) await this.#wait(who)
    else this.#running++
    try {
      return await work()
    } finally {
      this.#next()
    }
  }

  #wait(who: string): Promise<void> {
    if (this.#count >= this.#maxWaiting)
      throw new WisteriaError('unavailable', 'Too many requests are waiting already. Try again in a moment.', {
        extra: { retryAfter: 2 },
      })
    this.#count++
    return new Promise((resolve) => {
      const waiting = this.#waiting.get(who)
      if (waiting) waiting.push(resolve)
      else this.#waiting.set(who, [resolve])
    })
  }

  /** Hands the turn over to the next in line, who then counts as running. */
  #next(): void {
    const first = this.#waiting.entries().next().value
    if (!first) {
      this.#running--
      return
    }
    const [who, waiting] = first
    this.#waiting.delete(who)
    const resolve = waiting.shift()!
    // A caller with more requests goes to the end of the line.
    if (waiting.length > 0) this.#waiting.set(who, waiting)
    this.#count--
    resolve()
  }
}
