import {
  groupsOfChange,
  groups,
  isOfEverything,
  localeTags,
  makeId,
  type Affected,
  type EntryChange,
  type EntryPublicChange,
  type EventData,
  type EventType,
  type Environment,
} from '@wisteria/core'
import { insertMany } from '../connection/inserting.js'
import type { ToldEvent, Transaction } from '../connection/reader.js'
import type { Site } from '../sites/sites.js'

/** Something public that an act changed. */
export interface PublicChange {
  readonly entries: readonly EntryPublicChange[]
  /** Ids of files that entries show. */
  readonly assets?: readonly string[]
  readonly paths: readonly string[]
  /** So much that everything counts as changed. */
  readonly all?: boolean
}

/**
 * One act on a site, inside its transaction: numbers its events, moves the public generation if needed, and calls every subscriber.
 * Nothing else announces a change.
 */
export class Act {
  readonly site: Site
  readonly actor: string
  /** Shared by all events of the act. */
  readonly action: string
  /** ISO instant, the same for everything in the act. */
  readonly at: string
  readonly #transaction: Transaction
  readonly #environment: Environment
  #sequence: number
  #moved = false

  /** @param action the id of the act that this one is a part of; a new one when left out. */
  constructor(transaction: Transaction, site: Site, actor: string, environment: Environment, action?: string) {
    this.#transaction = transaction
    this.#environment = environment
    this.site = site
    this.actor = actor
    this.action = action ?? makeId(environment)
    this.at = new Date(environment.now()).toISOString()
    this.#sequence = site.sequence
  }

  /** The number of the act's next event: rows written now belong to it. */
  get sequence(): number {
    return this.#sequence + 1
  }

  /**
   * Records an event, and calls the subscribers.
   * @param affects what it changes of the published edition, if anything.
   * @param change what it changes of its entry, worked out where a condition asks.
   */
  async tell(
    type: EventType,
    data: Omit<EventData, 'publicGeneration' | 'affected'>,
    affects?: PublicChange,
    change?: () => EntryChange,
  ): Promise<void> {
    const { site } = this
    const { sequence, publicGeneration } = await this.#count(1, affects !== undefined)
    let told: EventData = data
    if (affects) {
      const affected: Affected = {
        paths: [...new Set(affects.paths)],
        groups: [
          ...groupsOfChange(affects.entries, localeTags(site.settings), affects.assets),
          ...(isOfEverything(type, affects) ? [groups.all] : []),
        ],
        ...(affects.all ? { all: true } : {}),
      }
      told = { ...data, publicGeneration, affected }
    }
    await this.#record([this.#event(type, sequence, told, change, affects !== undefined)])
  }

  /** Records events of one type that change nothing for published readers, all at once, in their order. */
  async tellAll(
    type: EventType,
    all: readonly { readonly data: EventData; readonly change?: () => EntryChange }[],
  ): Promise<void> {
    const { sequence } = await this.#count(all.length, false)
    const before = sequence - all.length
    const [first, ...others] = all.map(({ data, change }, index) =>
      this.#event(type, before + index + 1, data, change, false),
    )
    if (first) await this.#record([first, ...others])
  }

  #event(
    type: EventType,
    sequence: number,
    data: EventData,
    change: (() => EntryChange) | undefined,
    isPublic: boolean,
  ): ToldEvent {
    const { site, action, actor, at } = this
    return { site, sequence, type, actor, action, data, change, at, isPublic }
  }

  async #record(events: readonly [ToldEvent, ...ToldEvent[]]): Promise<void> {
    await insertMany(
      this.#transaction,
      'events',
      events.map(({ sequence, type, data }) => ({
        site: this.site.id,
        sequence,
        id: makeId(this.#environment),
        type,
        time: this.at,
        actor: this.actor,
        action: this.action,
        entry: data.entry?.id ?? null,
        data: JSON.stringify(data),
      })),
    )
    for (const tellSubscriber of this.#transaction.subscribers)
      await tellSubscriber(this.#transaction, events, this.#environment)
  }

  /** Counts events, and the first public change of the act. @returns the last one's number, and the public generation. */
  async #count(events: number, isPublic: boolean): Promise<{ sequence: number; publicGeneration: string }> {
    const moves = isPublic && !this.#moved
    if (moves) this.#moved = true
    const [row] = await this.#transaction.all<{ sequence: number; generation: number; epoch: string }>(
      'update sites set sequence = sequence + ?, generation = generation + ? where id = ? returning sequence, generation, epoch',
      [events, moves ? 1 : 0, this.site.id],
    )
    const { sequence, generation, epoch } = row!
    this.#sequence = sequence
    return { sequence, publicGeneration: `${epoch}.${generation}` }
  }
}
