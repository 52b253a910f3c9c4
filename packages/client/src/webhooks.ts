import type { EventData, EventType } from '@wisteria/core'

/** An event as a webhook carries it: a CloudEvent 1.0. */
export interface WebhookEvent {
  readonly specversion: '1.0'
  /** The same at every attempt: deduplicate by it. */
  readonly id: string
  readonly source: string
  readonly type: EventType
  readonly subject?: string
  readonly time: string
  readonly sequence: string
  readonly data: EventData & { readonly actor: string; readonly action: string }
}

const toleranceSeconds = 300

/**
 * Checks the signature of a delivery (Standard Webhooks) and reads its event.
 * @param headers as Node has them, or as the Fetch standard does.
 * @param body the body as it came, byte for byte.
 * @throws Error when the signature, its age or the body is not as it must be: answer 400 then.
 */
export async function verifyWebhook(
  secret: string,
  headers: Headers | Readonly<Record<string, string | string[] | undefined>>,
  body: string,
  now: number = Date.now(),
): Promise<WebhookEvent> {
  const header = (name: string): string => {
    const value = headers instanceof Headers ? headers.get(name) : headers[name]
    if (typeof value !== 'string' || value === '') throw new Error(`The header ${name} is missing.`)
    return value
  }
  const id = header('webhook-id')
  const timestamp = header('webhook-timestamp')
  if (!/^\d{1,12}$/.test(timestamp) || Math.abs(now / 1000 - Number(timestamp)) > toleranceSeconds)
    throw new Error('The delivery is too old, or a clock is wrong.')
  const key = await crypto.subtle.importKey(
    'raw',
    bytesOf(secret.replace(/^whsec_/, '')),
    { name: 'HMAC', hash: 'SHA-256' },
    false,
    ['verify'],
  )
  const signed = new TextEncoder().encode(`${id}.${timestamp}.${body}`)
  for (const signature of header('webhook-signature').split(' ')) {
    const [version, value] = signature.split(',')
    if (version !== 'v1' || value === undefined) continue
    if (await crypto.subtle.verify('HMAC', key, bytesOf(value), signed)) return JSON.parse(body) as WebhookEvent
  }
  throw new Error('The signature does not fit.')
}

/** Whether something that depends on these groups is stale after an event. */
export function isAffected(groups: Iterable<string>, event: WebhookEvent): boolean {
  if (event.data.affected?.all) return true
  const affected = new Set(event.data.affected?.groups)
  for (const group of groups) if (affected.has(group)) return true
  return false
}

function bytesOf(base64: string): Uint8Array<ArrayBuffer> {
  try {
    return Uint8Array.from(atob(base64), (letter) => letter.charCodeAt(0))
  } catch {
    throw new Error('The secret or the signature is not base64.')
  }
}
