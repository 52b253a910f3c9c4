import { createHmac } from 'node:crypto'

const secretMark = 'whsec_'

/** A webhook's secret as Standard Webhooks writes it. */
export const makeWebhookSecret = (random: (bytes: number) => Uint8Array): string =>
  secretMark + Buffer.from(random(32)).toString('base64')

/** The headers that prove the sender of a delivery (Standard Webhooks 1.0.0, symmetric signatures). */
export function signedHeaders(secret: string, id: string, seconds: number, body: string): Record<string, string> {
  const key = Buffer.from(secret.slice(secretMark.length), 'base64')
  const signature = createHmac('sha256', key).update(`${id}.${seconds}.${body}`).digest('base64')
  return { 'webhook-id': id, 'webhook-timestamp': String(seconds), 'webhook-signature': `v1,${signature}` }
}
