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
    for (const webhook of webhooks) {
      if (!(JSON.parse(webhook.events) as string[]).includes(type)) continue
      await tables.deliveries.create({
        id: makeId(this.#surroundings),
        site: site.id,
        webhook: webhook.id,
        sequence: this.#sequence,
        entry: data.entry?.id ?? '',
        status: 'waiting',
        attempts: 0,
        next_at: this.at,
        created_at: this.at,
      })
    }
  }
}
