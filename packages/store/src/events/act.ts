import { groupsOfChange, makeId, type Affected, type EventData, type EventType, type Environment } from '@wisteria/core'
import type { Transaction } from '../connection/reader.js'
import type { Site } from '../sites/sites.js'

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
  readonly #environment: Environment
  #sequence: number
  #generation: number
  readonly #epoch: string
  #moved = false

  /** @param action of the act that this one is a part of; its own when left out. */
  constructor(transaction: Transaction, site: Site, actor: string, environment: Environment, action?: string) {
    this.#transaction = transaction
    this.#environment = environment
    this.site = site
    this.actor = actor
    this.action = action ?? makeId(environment)
    this.at = new Date(environment.now()).toISOString()
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
    const entry = data.entry?.id ?? null
    await this.#transaction.run(
      'insert into events (site, sequence, id, type, time, actor, action, entry, data) values (?, ?, ?, ?, ?, ?, ?, ?, ?)',
      [site.id, this.#sequence, makeId(this.#environment), type, this.at, this.actor, this.action, entry, JSON.stringify(told)], // prettier-ignore
    )
    await this.#transaction.run('update sites set sequence = ?, generation = ? where id = ?', [
      this.#sequence,
      this.#generation,
      site.id,
    ])
    // To every webhook that names the event, or that names none where the change is public. Their number changes nothing.
    const queued = await this.#transaction.run(
      `insert into deliveries (id, site, webhook, sequence, entry, status, attempts, next_at, created_at, head)
       select ?1 || lower(hex(randomblob(5))), w.site, w.id, ?2, ?3, 'waiting', 0, ?4, ?4, not exists (
         select 1 from deliveries o where o.webhook = w.id and o.entry = ?3 and o.status = 'waiting')
       from webhooks w where w.site = ?5 and w.enabled = 1
         and (w.events = '[]' and ?6 or exists (select 1 from json_each(w.events) where value = ?7))`,
      [makeId(this.#environment).slice(0, 10), this.#sequence, entry ?? '', this.at, site.id, change ? 1 : 0, type],
    )
    if (queued > 0) this.#transaction.touch('deliveries')
  }
}
