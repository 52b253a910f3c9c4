import { bodyOf, makeId } from '@wisteria/core'
import {
  Act,
  dueDeliveries,
  enabledWebhooks,
  nextDeliveryAt,
  noteFailing,
  outgoingDelivery,
  pauseWebhook,
  recordAttempt,
  siteWithId,
  type DeliveryAttempt,
  type DeliveryStatus,
  type DueDelivery,
  type OutgoingDelivery,
  type Transaction,
} from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { hostOf, pauseAfter } from '../outgoing/calling.js'
import type { Work } from '../worker/loop.js'
import { sendBody } from './sending.js'

type Outcome = Omit<DeliveryAttempt, 'at'>

/** After this long a delivery has failed: visible, and no longer blocking later ones. In milliseconds. */
const giveUpAfter = 3 * 86_400_000
/** After an address has accepted nothing for this long, its webhook pauses. In milliseconds. */
const pauseWebhookAfter = 86_400_000
/** How many deliveries run to one address at once. */
const perAddress = 4
/** The longest that an address which does not answer is left in peace, in milliseconds. */
const longestPeace = 60_000

const queueOf = (due: DueDelivery): string => `${due.webhook} ${due.entry}`

/** Running deliveries to an address, and the end of its pause after a failure. */
interface Address {
  open: number
  failures: number
  until: number
}

/**
 * Sends the deliveries of the outbox. Of one webhook and entry only the first waiting event is sent, so that order is kept; other
 * entries do not wait for it. An address has a few places, and a pause after a failure, so that a hanging one blocks no other.
 * Deliveries that ran at a crash are still waiting.
 */
export class Deliveries implements Work<DueDelivery> {
  readonly name = 'webhooks'
  /** Far more than hang at once: what hangs has up to four places, and then one. */
  readonly atOnce = 256
  readonly #kernel: Kernel
  readonly #addresses = new Map<string, Address>()
  /** Queues with a running delivery: a resend must not run beside a waiting event. */
  readonly #busy = new Set<string>()

  constructor(kernel: Kernel) {
    this.#kernel = kernel
  }

  keyOf(due: DueDelivery): string {
    return due.id
  }

  async due(most: number, skipped: readonly string[]): Promise<DueDelivery[]> {
    const results: DueDelivery[] = []
    for (const { id, address } of await enabledWebhooks(this.#kernel.database)) {
      const room = Math.min(this.#room(address), most - results.length)
      if (room <= 0) continue
      const taken = new Set<string>()
      for (const due of await dueDeliveries(
        this.#kernel.database,
        id,
        this.#kernel.at,
        room + this.#busy.size,
        skipped,
      )) {
        const queue = queueOf(due)
        if (taken.size >= room || this.#busy.has(queue) || taken.has(queue)) continue
        taken.add(queue)
        results.push(due)
      }
    }
    return results
  }

  async next(skipped: readonly string[]): Promise<number | undefined> {
    const now = this.#kernel.now
    const times = await Promise.all(
      (await enabledWebhooks(this.#kernel.database)).map(async ({ id, address }) => {
        const { until, open } = this.#addresses.get(hostOf(address)) ?? { until: 0, open: 0 }
        // When that is done, the loop looks again.
        if (until <= now && open >= perAddress) return Infinity
        const at = await nextDeliveryAt(this.#kernel.database, id, skipped)
        return at === undefined ? Infinity : Math.max(Date.parse(at), until)
      }),
    )
    const at = Math.min(...times)
    return Number.isFinite(at) ? at : undefined
  }

  async run(due: DueDelivery): Promise<void> {
    const address = this.#addressOf(due.address)
    const queue = queueOf(due)
    address.open++
    this.#busy.add(queue)
    try {
      await this.#deliver(due, address)
    } finally {
      address.open--
      this.#busy.delete(queue)
      if (address.open === 0 && address.failures === 0) this.#addresses.delete(hostOf(due.address))
    }
  }

  async giveUp(due: DueDelivery, error: unknown): Promise<void> {
    const outgoing = await outgoingDelivery(this.#kernel.database, due.id)
    if (!outgoing) return
    const message = `It could not be sent: ${error instanceof Error ? error.message : String(error)}`
    await this.#record(
      outgoing,
      { status: null, answer: '', error: message, took: 0, headers: {} },
      'failed',
      this.#kernel.now,
    )
  }

  #addressOf(address: string): Address {
    const host = hostOf(address)
    const state = this.#addresses.get(host) ?? { open: 0, failures: 0, until: 0 }
    this.#addresses.set(host, state)
    return state
  }

  /** How many more may run to an address: one, until it answers again. */
  #room(address: string): number {
    const state = this.#addresses.get(hostOf(address))
    if (!state) return perAddress
    return state.until > this.#kernel.now ? 0 : (state.failures > 0 ? 1 : perAddress) - state.open
  }

  async #deliver(delivery: DueDelivery, address: Address): Promise<void> {
    const { database, logger } = this.#kernel
    // It may have been sent, given up or deleted meanwhile.
    const due = await outgoingDelivery(database, delivery.id)
    if (!due) return
    const outcome = await sendBody(this.#kernel, due, bodyOf(due.events, due.merge, due.missed))
    const now = this.#kernel.now
    address.failures = outcome.status === null ? address.failures + 1 : 0
    address.until = address.failures > 0 ? now + Math.min(pauseAfter(address.failures, Math.random()), longestPeace) : 0
    const isAccepted = outcome.status !== null && outcome.status >= 200 && outcome.status < 300
    const isOver = !isAccepted && now - Date.parse(due.createdAt) > giveUpAfter
    await this.#record(due, outcome, isAccepted ? 'delivered' : isOver ? 'failed' : 'waiting', now)
    if (!isAccepted)
      logger.warn(
        {
          webhook: due.webhook,
          sequence: due.events.at(-1)?.sequence,
          attempts: due.attempts + 1,
          status: outcome.status,
          error: outcome.error,
        },
        isOver ? 'webhook delivery failed' : 'webhook not accepted, will try again',
      )
  }

  /**
   * Stores an attempt and the result of the delivery; when that is final, the next of its queue follows. A webhook whose address
   * has accepted nothing for a day pauses.
   */
  #record(due: OutgoingDelivery, outcome: Outcome, status: DeliveryStatus, now: number): Promise<void> {
    const at = new Date(now).toISOString()
    const nextAt = new Date(now + pauseAfter(due.attempts + 1, Math.random())).toISOString()
    const attempt = { ...outcome, id: makeId(this.#kernel.environment), at }
    return this.#kernel.write(async (transaction) => {
      await recordAttempt(transaction, due, attempt, status, nextAt)
      const failingSince = status === 'delivered' ? null : (due.failingSince ?? at)
      if (failingSince !== due.failingSince) await noteFailing(transaction, due.webhook, failingSince)
      if (failingSince !== null && now - Date.parse(failingSince) > pauseWebhookAfter)
        await this.#pause(transaction, due, at)
    })
  }

  async #pause(transaction: Transaction, { webhook, site }: OutgoingDelivery, at: string): Promise<void> {
    const label = await pauseWebhook(transaction, webhook, at)
    if (label === undefined) return
    const act = new Act(transaction, await siteWithId(transaction, site), 'service', this.#kernel.environment)
    await act.tell('webhook.paused', { webhook: { id: webhook, label } })
    this.#kernel.logger.warn({ webhook, label }, 'webhook paused: its address accepted nothing for a day')
  }
}
