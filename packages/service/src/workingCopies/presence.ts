import type { Present } from '@wisteria/core'
import { perKernel } from '../kernel/perKernel.js'

/** How long somebody counts as present after their last report, in milliseconds. */
const patience = 40_000
/** With this many open entries it drops those that nobody has open any more. */
const maxQuiet = 1000

/** The place of somebody in an entry, since when, and their last report. */
interface Heard {
  readonly at: string | null
  readonly since: number
  readonly heard: number
}

/** Who has which entry open. Nothing of it is kept: after a restart everybody is heard of again within seconds. */
export class Presence {
  readonly #now: () => number
  readonly #byEntry = new Map<string, Map<string, Heard>>()

  constructor(now: () => number) {
    this.#now = now
  }

  /** Drops people without a recent report, in all entries. */
  #sweep(): void {
    const before = this.#now() - patience
    for (const [entry, here] of this.#byEntry)
      for (const [actor, { heard }] of here) if (heard < before) this.left(entry, actor)
  }

  /** Records that somebody is at a place of an entry. */
  heard(entry: string, actor: string, at: string | null): void {
    if (this.#byEntry.size >= maxQuiet) this.#sweep()
    const here = this.#byEntry.get(entry) ?? new Map<string, Heard>()
    this.#byEntry.set(entry, here)
    const before = here.get(actor)
    here.set(actor, { at, since: before?.since ?? this.#now(), heard: this.#now() })
  }

  left(entry: string, actor: string): void {
    const here = this.#byEntry.get(entry)
    here?.delete(actor)
    if (here?.size === 0) this.#byEntry.delete(entry)
  }

  /** Everybody else who has an entry open. */
  others(entry: string, actor: string): Present[] {
    const here = this.#byEntry.get(entry)
    if (!here) return []
    const before = this.#now() - patience
    for (const [person, { heard }] of here) if (heard < before) this.left(entry, person)
    return [...here].flatMap(([person, { at, since }]) =>
      person === actor ? [] : [{ actor: person, at, since: new Date(since).toISOString() }],
    )
  }
}

export const presenceOf = perKernel((kernel) => new Presence(() => kernel.now))
