import type { Reader, Transaction } from '../connection/reader.js'
import type { IdempotencyRow } from '../tables/tables.js'

/** The answer to a request with an idempotency key. */
export interface KeptAnswer {
  readonly caller: string
  readonly key: string
  /** A digest of the request. */
  readonly request: string
  readonly status: number
  /** JSON. */
  readonly answer: string
  readonly etag: string | null
  readonly at: string
}

export async function keptAnswer(reader: Reader, caller: string, key: string): Promise<KeptAnswer | undefined> {
  const [row] = await reader.all<IdempotencyRow>('select * from idempotency where caller = ? and key = ?', [
    caller,
    key,
  ])
  return row
}

export async function keepAnswer(transaction: Transaction, kept: KeptAnswer): Promise<void> {
  const { caller, key, request, status, answer, etag, at } = kept
  await transaction.run(
    'insert into idempotency (caller, key, request, status, answer, etag, at) values (?, ?, ?, ?, ?, ?, ?)',
    [caller, key, request, status, answer, etag, at],
  )
}

export async function forgetAnswer(transaction: Transaction, caller: string, key: string): Promise<void> {
  await transaction.run('delete from idempotency where caller = ? and key = ?', [caller, key])
}
