import type { CloudEvent, Merge } from '@wisteria/core'
import { segment, type Call } from './transport.js'

/** A webhook as it is shown. */
export interface Webhook {
  readonly id: string
  readonly label: string
  readonly address: string
  /** The events that it subscribes to; null for every public change. */
  readonly events: readonly string[] | null
  /** A condition over the entries that its events are about. */
  readonly where: string | null
  readonly merge: Merge
  /** The names of its own headers. Their values are never shown. */
  readonly headers: readonly string[]
  /** Those that deliveries are signed with, newest first. */
  readonly secrets: readonly { readonly id: string; readonly createdAt: string; readonly until: string | null }[]
  readonly enabled: boolean
  /** Since when its address accepts nothing. */
  readonly failingSince: string | null
  /** Since when nothing is sent, because of that. */
  readonly pausedAt: string | null
  /** Why its condition cannot be asked. */
  readonly problem: string | null
  readonly createdAt: string
  readonly createdBy: string
}

/** How many deliveries wait, since when the oldest does, and how many were given up. */
export interface WebhookBacklog {
  readonly waiting: number
  readonly oldest: string | null
  readonly failed: number
}

export interface NewWebhook {
  readonly label: string
  readonly address: string
  /** Every event that changes what published readers see, when left out. */
  readonly events?: readonly string[]
  readonly where?: string
  readonly merge?: Merge
  readonly headers?: Readonly<Record<string, string>>
}

/** A change of a webhook; members left out stay. */
export interface WebhookChange {
  readonly label?: string
  readonly address?: string
  /** null: every public change. */
  readonly events?: readonly string[] | null
  readonly where?: string | null
  readonly merge?: Merge
  /** Those to set; null removes one. */
  readonly headers?: Readonly<Record<string, string | null>>
  readonly enabled?: boolean
  /** Sends again, where it is paused. */
  readonly paused?: false
}

/** The result of one try to send. */
export interface SentOutcome {
  readonly at: string
  /** Of the answer; null where there was none. */
  readonly status: number | null
  /** Milliseconds. */
  readonly took: number
  /** The beginning of it. */
  readonly answer: string
  readonly error: string | null
  /** That were sent. */
  readonly headers: Readonly<Record<string, string>>
}

export interface DeliveryAttempt extends SentOutcome {
  readonly id: string
}

export interface Delivery {
  readonly id: string
  /** Of its newest event. */
  readonly sequence: number
  /** The id of the event. */
  readonly event: string
  readonly type: string
  /** How many events go out together. */
  readonly events: number
  readonly status: 'waiting' | 'delivered' | 'failed'
  readonly createdAt: string
  readonly nextAt: string | null
  readonly attempts: readonly DeliveryAttempt[]
}

/** One delivery, with the bodies that were sent: null where their events are no longer kept. */
export interface DeliveryInFull extends Omit<Delivery, 'attempts'> {
  readonly sequences: readonly number[]
  readonly attempts: readonly (DeliveryAttempt & { readonly body: CloudEvent | null })[]
}

/** Webhooks of a site, and their deliveries. */
export class WebhookAdmin {
  readonly #call: <Body>(request: Call) => Promise<Body>

  constructor(call: <Body>(request: Call) => Promise<Body>) {
    this.#call = call
  }

  list = () => this.#call<{ readonly webhooks: readonly (Webhook & WebhookBacklog)[] }>({ path: webhooks })
  /** Only this answer contains the secret that deliveries are signed with. */
  create = (webhook: NewWebhook) =>
    this.#call<Webhook & { readonly secret: string }>({ method: 'POST', path: webhooks, body: webhook })
  change = (id: string, change: WebhookChange) =>
    this.#call<Webhook>({ method: 'PATCH', path: `${webhooks}/${segment(id)}`, body: change })
  remove = (id: string) => this.#call<undefined>({ method: 'DELETE', path: `${webhooks}/${segment(id)}` })

  /** What a webhook would get. Nothing is sent. */
  preview = (webhook: Pick<NewWebhook, 'events' | 'where' | 'merge'> = {}) =>
    this.#call<{ readonly body: CloudEvent; readonly real: boolean }>({
      method: 'POST',
      path: `${webhooks}/preview`,
      body: webhook,
    })
  /** Sends a sample now. */
  test = (id: string) =>
    this.#call<SentOutcome & { readonly body: CloudEvent }>({ method: 'POST', path: `${webhooks}/${segment(id)}/test` })

  /** Adds a secret, which only this answer contains. Earlier ones stay valid for some hours. */
  addSecret = (id: string, keepHours?: number) =>
    this.#call<Webhook & { readonly secret: string }>({
      method: 'POST',
      path: `${webhooks}/${segment(id)}/secrets`,
      body: keepHours === undefined ? {} : { keepHours },
    })
  endSecret = (id: string, secret: string) =>
    this.#call<undefined>({ method: 'DELETE', path: `${webhooks}/${segment(id)}/secrets/${segment(secret)}` })

  /** The deliveries of a webhook, newest first. */
  deliveries = (
    id: string,
    query: { readonly status?: Delivery['status']; readonly before?: number; readonly first?: number } = {},
  ) =>
    this.#call<{ readonly deliveries: readonly Delivery[]; readonly next: number | null }>({
      path: `${webhooks}/${segment(id)}/deliveries`,
      query: { ...query },
    })
  delivery = (id: string, delivery: string) =>
    this.#call<DeliveryInFull>({ path: `${webhooks}/${segment(id)}/deliveries/${segment(delivery)}` })
  resend = (id: string, delivery: string) =>
    this.#call<{ readonly id: string }>({
      method: 'POST',
      path: `${webhooks}/${segment(id)}/deliveries/${segment(delivery)}/resend`,
    })
  /** Sends the events of a span of time again, piece by piece. @returns how many deliveries. */
  resendSpan = async (
    id: string,
    span: { readonly from: string; readonly to?: string | undefined; readonly onlyMissed?: boolean | undefined },
  ): Promise<{ readonly resent: number }> => {
    let resent = 0
    // What happens meanwhile is not part of it.
    const { from, to = new Date().toISOString(), onlyMissed = false } = span
    for (let after: number | null = 0; after !== null;) {
      const answer: { readonly resent: number; readonly next: number | null } = await this.#call({
        method: 'POST',
        path: `${webhooks}/${segment(id)}/resend`,
        body: { from, to, onlyMissed, after },
      })
      resent += answer.resent
      after = answer.next
    }
    return { resent }
  }
}

const webhooks = '/webhooks'
