import { createHmac, timingSafeEqual } from 'node:crypto'
import type { IncomingHttpHeaders } from 'node:http'
import { secretMark } from '../kernel/secretMark.js'

/** A webhook's secret as Standard Webhooks writes it. */
export const makeWebhookSecret = (random: (bytes: number) => Uint8Array): string =>
  secretMark + Buffer.from(random(32)).toString('base64')

/**
 * The headers that prove the sender of a delivery (Standard Webhooks 1.0.0, symmetric signatures): one signature for each secret,
 * so that a receiver can go from one to the next when it likes.
 */
export function signedHeaders(
  secrets: readonly string[],
  id: string,
  seconds: number,
  body: string,
): Record<string, string> {
  const signatures = secrets.map((secret) => {
    const key = Buffer.from(secret.slice(secretMark.length), 'base64')
    return `v1,${createHmac('sha256', key).update(`${id}.${seconds}.${body}`).digest('base64')}`
  })
  return { 'webhook-id': id, 'webhook-timestamp': String(seconds), 'webhook-signature': signatures.join(' ') }
}

/** How old a signed message may be, in seconds. */
const tolerance = 300

/** Whether a message that came in is signed with a secret, by the headers of Standard Webhooks, and not older than five minutes. */
export function isSigned(secret: string, headers: IncomingHttpHeaders, seconds: number, body: string): boolean {
  const text = (name: string): string => String(headers[name] ?? '')
  const sentAt = Number(text('webhook-timestamp'))
  if (!Number.isInteger(sentAt) || Math.abs(seconds - sentAt) > tolerance) return false
  const expected = Buffer.from(signedHeaders([secret], text('webhook-id'), sentAt, body)['webhook-signature']!)
  return text('webhook-signature')
    .split(' ')
    .some((signature) => {
      const given = Buffer.from(signature)
      return given.length === expected.length && timingSafeEqual(given, expected)
    })
}
