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
import type { Transaction } from '../connection/reader.js'
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
    const { sequence, publicGeneration } = await this.#count(affects !== undefined)
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
    const entry = data.entry?.id ?? null
    await this.#transaction.run(
      'insert into events (site, sequence, id, type, time, actor, action, entry, data) values (?, ?, ?, ?, ?, ?, ?, ?, ?)',
      [
        site.id,
        sequence,
        makeId(this.#environment),
        type,
        this.at,
        this.actor,
        this.action,
        entry,
        JSON.stringify(told),
      ],
    )
    const { action, actor, at } = this
    const event = { site, sequence, type, actor, action, data: told, change, at, isPublic: affects !== undefined }
    for (const tellSubscriber of this.#transaction.subscribers)
      await tellSubscriber(this.#transaction, event, this.#environment)
  }

  /** Counts an event, and the first public change of the act. @returns the event's number, and the public generation. */
  async #count(isPublic: boolean): Promise<{ sequence: number; publicGeneration: string }> {
    const moves = isPublic && !this.#moved
    if (moves) this.#moved = true
    const [row] = await this.#transaction.all<{ sequence: number; generation: number; epoch: string }>(
      'update sites set sequence = sequence + 1, generation = generation + ? where id = ? returning sequence, generation, epoch',
      [moves ? 1 : 0, this.site.id],
    )
    const { sequence, generation, epoch } = row!
    this.#sequence = sequence
    return { sequence, publicGeneration: `${epoch}.${generation}` }
  }
}
