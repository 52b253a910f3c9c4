import { bodyOf, readChangeCondition, WisteriaError, type Model } from '@wisteria/core'
import { createHash } from 'node:crypto'
import {
  eventsNumbered,
  sequencesSent,
  type Backlog,
  type Delivery,
  type Reader,
  type Webhook,
  type WebhookSecret,
} from '@wisteria/store'
import { validSecrets } from './sending.js'

/** A secret without itself. */
export const secretView = ({ secret, createdAt, until }: WebhookSecret) => ({ id: secretId(secret), createdAt, until })

/** The name of a secret, which tells nothing of it. */
export const secretId = (secret: string): string => createHash('sha256').update(secret).digest('hex').slice(0, 12)

/** Why the condition of a webhook cannot be asked under the model, or null. */
function problemOf(condition: string | null, model: Model): string | null {
  if (condition === null) return null
  try {
    readChangeCondition(condition, model)
    return null
  } catch (error) {
    if (error instanceof WisteriaError)
      return `The condition no longer fits the model, so all events are sent: ${error.message}`
    throw error
  }
}

export const webhookView = (webhook: Webhook, model: Model, at: string) => ({
  id: webhook.id,
  label: webhook.label,
  address: webhook.address,
  events: webhook.events.length === 0 ? null : webhook.events,
  where: webhook.condition,
  merge: webhook.merge,
  headers: Object.keys(webhook.headers),
  secrets: validSecrets(webhook.secrets, at).map(secretView),
  enabled: webhook.isEnabled,
  failingSince: webhook.failingSince,
  pausedAt: webhook.pausedAt,
  problem: problemOf(webhook.condition, model),
  createdAt: webhook.createdAt,
  createdBy: webhook.createdBy,
})

export const backlogView = ({ waiting, oldest, failed }: Backlog) => ({ waiting, oldest, failed })

export const deliveryView = ({ nextAt, ...delivery }: Delivery) => ({
  ...delivery,
  nextAt: delivery.status === 'waiting' ? nextAt : null,
})

/** The body that an attempt sent, made again from its events; null where those are no longer kept. */
export async function bodySent(
  reader: Reader,
  webhook: Webhook,
  attempt: string,
): Promise<Readonly<Record<string, unknown>> | null> {
  const sequences = await sequencesSent(reader, attempt)
  const events = await eventsNumbered(reader, webhook.site, sequences)
  return events.length === 0 || events.length < sequences.length ? null : bodyOf(events, webhook.merge)
}
