import {
  groupsOfChange,
  makeId,
  type Affected,
  type EventData,
  type EventType,
  type Surroundings,
} from '@wisteria/core'
import type { Transaction } from './database.js'
import type { Site } from './sites.js'

/** Something public that an act changed. */
export interface PublicChange {
  readonly entries: readonly { readonly id: string; readonly type: string }[]
  readonly paths: readonly string[]
  /** So much that everything counts as changed. */
  readonly all?: boolean
}

/**
 * One act of somebody on a site, inside its transaction: numbers its events, moves the public generation when it must,
 * and puts every event where webhooks will find it. Nothing else announces a change.
 */
export class Act {
  readonly site: Site
  readonly actor: string
  /** Shared by all events of the act. */
  readonly action: string
  /** ISO instant, the same for everything in the act. */
  readonly at: string
  readonly #transaction: Transaction
  readonly #surroundings: Surroundings
  #sequence: number
  #generation: number
  readonly #epoch: string
  #moved = false

  /** @param action of the act that this one is a part of; its own when left out. */
  constructor(transaction: Transaction, site: Site, actor: string, surroundings: Surroundings, action?: string) {
    this.#transaction = transaction
    this.#surroundings = surroundings
    this.site = site
    this.actor = actor
    this.action = action ?? makeId(surroundings)
    this.at = new Date(surroundings.now()).toISOString()
    this.#sequence = site.sequence
    const [epoch, generation] = site.publicGeneration.split('.') as [string, string]
    this.#epoch = epoch
    this.#generation = Number(generation)
  }

  /** The number that the act's next event will have: what is written now belongs to it. */
  get sequence(): number {
    return this.#sequence + 1
  }

  async tell(
    type: EventType,
    data: Omit<EventData, 'publicGeneration' | 'affected'>,
    change?: PublicChange,
  ): Promise<void> {
    const { tables } = this.#transaction
    const { site } = this
    this.#sequence += 1
    let told: EventData = data
    if (change) {
      if (!this.#moved) this.#generation += 1
      this.#moved = true
      const affected: Affected = {
        paths: [...new Set(change.paths)],
        groups: groupsOfChange(change.entries),
        ...(change.all ? { all: true } : {}),
      }
      told = { ...data, publicGeneration: `${this.#epoch}.${this.#generation}`, affected }
    }
    await tables.events.create({
      site: site.id,
      sequence: this.#sequence,
      id: makeId(this.#surroundings),
      type,
      time: this.at,
      actor: this.actor,
      action: this.action,
      entry: data.entry?.id ?? null,
      data: JSON.stringify(told),
    })
    await this.#transaction.run('update sites set sequence = ?, generation = ? where id = ?', [
      this.#sequence,
      this.#generation,
      site.id,
    ])
    const webhooks = await this.#transaction.all<{ id: string; events: string }>(
      'select id, events from webhooks where site = ? and enabled = 1',
      [site.id],
    )
    const subscribed = webhooks.filter(({ events }) =>
      hears(JSON.parse(events) as string[], type, change !== undefined),
    )
    if (subscribed.length === 0) return
    await this.#transaction.run(
      `insert into deliveries (id, site, webhook, sequence, entry, status, attempts, next_at, created_at, head)
       select value ->> 0, ?1, value ->> 1, ?2, ?3, 'waiting', 0, ?4, ?4, not exists (
         select 1 from deliveries o where o.webhook = value ->> 1 and o.entry = ?3 and o.status = 'waiting')
       from json_each(?5)`,
      [site.id, this.#sequence, data.entry?.id ?? '', this.at, JSON.stringify(subscribed.map(({ id }) => [makeId(this.#surroundings), id]))], // prettier-ignore
    )
  }
}

/** Whether a webhook hears of an event: of those that it names, or of every public change where it names none. */
const hears = (events: readonly string[], type: EventType, isPublic: boolean): boolean =>
  events.length === 0 ? isPublic : events.includes(type)
