import type { CloudEvent } from '@wisteria/core'
import type { DeliveryAttempt, OutgoingDelivery, WebhookSecret } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { callOut } from '../outgoing/calling.js'

/** The most characters of an answer that are kept. */
const answerKept = 2000

/** Those of a webhook's secrets that have not ended. */
export const validSecrets = (secrets: readonly WebhookSecret[], at: string): readonly WebhookSecret[] =>
  secrets.filter(({ until }) => until === null || until > at)

/** Sends a body to a webhook, signed with each of its secrets. It never rejects. */
export async function sendBody(
  kernel: Kernel,
  webhook: Pick<OutgoingDelivery, 'address' | 'secrets' | 'headers'>,
  body: CloudEvent,
): Promise<Omit<DeliveryAttempt, 'at'>> {
  const { status, answer, error, took, sent } = await callOut(kernel, {
    address: webhook.address,
    method: 'POST',
    secrets: validSecrets(webhook.secrets, kernel.at).map(({ secret }) => secret),
    headers: webhook.headers,
    id: String(body['id']),
    type: 'application/cloudevents+json; charset=utf-8',
    body: JSON.stringify(body),
    answerKept,
  })
  return { status, answer, error, took, headers: sent }
}
