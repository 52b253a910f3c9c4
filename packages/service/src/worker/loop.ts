import type { Logger } from 'pino'

/** Background work, item by item, each when it is due. */
export interface Work<Item> {
  /** As the log names it. */
  readonly name: string
  /** How many items are under way at once, at most. */
  readonly atOnce: number
  keyOf(item: Item): string
  /**
   * Due items, the most urgent first.
   * @param skipped keys of items that are running, or that failed and wait.
   */
  due(most: number, skipped: readonly string[]): Promise<readonly Item[]>
  /** When the next item is due, in milliseconds since the epoch; undefined where none waits. */
  next(skipped: readonly string[]): Promise<number | undefined>
  /** Does one item. A refusal is a result that it records itself: it rejects only for an unexpected error. */
  run(item: Item): Promise<void>
  /** After several unexpected errors: gives the item up, visibly. */
  giveUp(item: Item, error: unknown): Promise<void>
}

export interface LoopOptions {
  readonly logger: Pick<Logger, 'error'>
  readonly now: () => number
  /** The pause after the first unforeseen error, in milliseconds; it grows fourfold with each. */
  readonly pause?: number
}

/** The number of unexpected errors after which an item is given up. */
const maxFailures = 4
/** The longest that a loop sleeps: a clock that was set to another time is noticed by then, in milliseconds. */
const longestSleep = 5_000
const longestPause = 3_600_000

/**
 * The one loop of background work. It never ends because of an item, and no item blocks another: after an unexpected error one is
 * tried again with growing pauses, then given up.
 */
export class Loop<Item> {
  readonly #work: Work<Item>
  readonly #options: LoopOptions
  readonly #running = new Map<string, Promise<void>>()
  readonly #failed = new Map<string, { readonly count: number; readonly until: number }>()
  #looking: Promise<void> | undefined
  #timer: NodeJS.Timeout | undefined
  #again = false
  #stopped = false
  #faults = 0

  constructor(work: Work<Item>, options: LoopOptions) {
    this.#work = work
    this.#options = options
  }

  /** Looks for due items. */
  wake(): void {
    this.#again = true
    if (this.#stopped) return
    this.#looking ??= this.#look().finally(() => {
      this.#looking = undefined
      if (this.#again) this.wake()
    })
  }

  /** Starts nothing new, and waits for running items. */
  async stop(): Promise<void> {
    this.#stopped = true
    clearTimeout(this.#timer)
    await this.#looking
    await Promise.all(this.#running.values())
  }

  async #look(): Promise<void> {
    this.#again = false
    clearTimeout(this.#timer)
    const { now } = this.#options
    try {
      const free = this.#work.atOnce - this.#running.size
      if (free > 0) {
        for (const item of await this.#work.due(free, this.#skipped())) {
          if (this.#stopped) return
          if (!this.#running.has(this.#work.keyOf(item))) this.#start(item)
        }
      }
      const waiting = [...this.#failed.values()].flatMap(({ until }) => (until > now() ? [until] : []))
      // With every place taken, the next item to finish looks again.
      const next = this.#running.size < this.#work.atOnce ? await this.#work.next(this.#skipped()) : undefined
      const at = Math.min(...waiting, next ?? Infinity)
      this.#faults = 0
      this.#sleep(Number.isFinite(at) ? at - now() + 2 : longestSleep)
    } catch (error) {
      this.#faults++
      this.#options.logger.error({ err: error }, `${this.#work.name}: looking for work failed`)
      this.#sleep(this.#pauseAfter(this.#faults))
    }
  }

  #skipped(): string[] {
    const now = this.#options.now()
    const failed = [...this.#failed].flatMap(([key, { until }]) => (until > now ? [key] : []))
    return [...this.#running.keys(), ...failed]
  }

  #start(item: Item): void {
    const key = this.#work.keyOf(item)
    const done = this.#try(item, key).finally(() => {
      this.#running.delete(key)
      this.wake()
    })
    this.#running.set(key, done)
  }

  async #try(item: Item, key: string): Promise<void> {
    const { logger, now } = this.#options
    try {
      await this.#work.run(item)
      this.#failed.delete(key)
    } catch (error) {
      const count = (this.#failed.get(key)?.count ?? 0) + 1
      logger.error({ err: error, item: key, tries: count }, `${this.#work.name}: an item failed`)
      this.#failed.set(key, { count, until: now() + this.#pauseAfter(count) })
      if (count < maxFailures) return
      await this.#work.giveUp(item, error).then(
        () => this.#failed.delete(key),
        (second: unknown) =>
          logger.error({ err: second, item: key }, `${this.#work.name}: a failed item could not be given up`),
      )
    }
  }

  #pauseAfter(count: number): number {
    return Math.min((this.#options.pause ?? 1000) * 4 ** Math.min(count - 1, 20), longestPause)
  }

  #sleep(milliseconds: number): void {
    if (this.#stopped) return
    clearTimeout(this.#timer)
    this.#timer = setTimeout(() => this.wake(), Math.min(Math.max(milliseconds, 2), longestSleep))
    this.#timer.unref()
  }
}
