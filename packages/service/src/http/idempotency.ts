import { createHash } from 'node:crypto'
import { WisteriaError } from '@wisteria/core'
import { forgetAnswer, keepAnswer, keptAnswer, type Transaction } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import type { Answer } from '../kernel/route.js'

const keptHours = 24

/** The key of a remembered request: the caller's idempotency key, and the request. */
export interface Remembered {
  readonly caller: string
  readonly key: string
  /** A digest of method, path and body: the same key with another digest is refused. */
  readonly request: string
}

export function rememberedAs(
  header: string | undefined,
  caller: string,
  method: string,
  url: string,
  body: unknown,
): Remembered | undefined {
  if (header === undefined) return undefined
  if (!/^[\x21-\x7e]{1,200}$/.test(header))
    throw new WisteriaError('badRequest', '`Idempotency-Key` is 1 to 200 visible ASCII characters.')
  return {
    caller,
    key: header,
    request: createHash('sha256')
      .update(JSON.stringify([method, url, body]))
      .digest('base64url'),
  }
}

/**
 * Does the work once: a key used within the day answers what it answered then. Looked up and stored in the transaction of the work
 * itself, so that two requests at once do it once, and a crash leaves both or neither.
 */
export async function once(
  kernel: Kernel,
  transaction: Transaction,
  as: Remembered | undefined,
  work: () => Promise<Answer>,
): Promise<Answer> {
  if (!as) return work()
  const kept = await keptAnswer(transaction, as.caller, as.key)
  // Keys older than a day are ignored, and deleted within the hour.
  if (kept && Date.parse(kept.at) < kernel.now - keptHours * 3_600_000)
    await forgetAnswer(transaction, as.caller, as.key)
  else if (kept) {
    if (kept.request !== as.request)
      throw new WisteriaError(
        'keyReused',
        'This idempotency key was sent with another request. Take a new key for each.',
      )
    return {
      status: kept.status,
      text: kept.answer,
      headers: {
        'Content-Type': 'application/json; charset=utf-8',
        'Idempotency-Replayed': 'true',
        ...(kept.etag ? { ETag: kept.etag } : {}),
      },
    }
  }
  const answer = await work()
  const etag = answer.headers?.['ETag'] ?? null
  await keepAnswer(transaction, {
    ...as,
    status: answer.status ?? 200,
    answer: JSON.stringify(answer.body ?? null),
    etag,
    at: kernel.at,
  })
  return answer
}
