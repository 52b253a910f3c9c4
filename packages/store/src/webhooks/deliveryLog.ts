import { makeId, type Environment } from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import type { AttemptRow, DeliveryRow } from '../tables/tables.js'
import { sequencesOf, type DeliveryAttempt, type DeliveryStatus } from './deliveries.js'
import type { Webhook } from './webhooks.js'

/** A delivery with its attempts, oldest first. */
export interface Delivery {
  readonly id: string
  /** Of its newest event. */
  readonly sequence: number
  /** The event's id. */
  readonly event: string
  readonly type: string
  /** How many events go out together. */
  readonly events: number
  readonly status: DeliveryStatus
  readonly createdAt: string
  readonly nextAt: string
  readonly attempts: readonly (DeliveryAttempt & { readonly id: string })[]
}

type LoggedRow = DeliveryRow & { readonly type: string | null; readonly event: string | null }

/** Which deliveries of a webhook to show. */
export interface DeliveryFilter {
  readonly status?: DeliveryStatus | undefined
  /** Those whose newest event has a lower number. */
  readonly before?: number | undefined
}

/** The newest deliveries of a webhook, and one more than asked where there are. */
export async function deliveriesOf(
  reader: Reader,
  webhook: Webhook['id'],
  { status, before }: DeliveryFilter,
  most: number,
): Promise<Delivery[]> {
  const rows = await reader.all<LoggedRow>(
    `select d.*, e.type, e.id as event from deliveries d left join events e on e.site = d.site and e.sequence = d.sequence
     where d.webhook = ?1 and (?2 is null or d.status = ?2) and (?3 is null or d.sequence < ?3)
     order by d.sequence desc limit ?4`,
    [webhook, status ?? null, before ?? null, most],
  )
  return withAttempts(reader, rows)
}

/** A delivery of a webhook, with the numbers of the events of each attempt. */
export async function deliveryOf(
  reader: Reader,
  webhook: Webhook['id'],
  id: string,
): Promise<(Delivery & { readonly site: string; readonly sequences: readonly number[] }) | undefined> {
  const [row] = await reader.all<LoggedRow>(
    `select d.*, e.type, e.id as event from deliveries d left join events e on e.site = d.site and e.sequence = d.sequence
     where d.id = ? and d.webhook = ?`,
    [id, webhook],
  )
  if (!row) return undefined
  const [delivery] = await withAttempts(reader, [row])
  return { ...delivery!, site: row.site, sequences: sequencesOf(row) }
}

/** The numbers of the events that an attempt sent, oldest first. */
export async function sequencesSent(reader: Reader, attempt: string): Promise<number[]> {
  const [row] = await reader.all<AttemptRow>('select * from attempts where id = ?', [attempt])
  return row ? (JSON.parse(row.sequences) as number[]) : []
}

async function withAttempts(reader: Reader, rows: readonly LoggedRow[]): Promise<Delivery[]> {
  const attempts = await reader.all<AttemptRow>(
    'select * from attempts where delivery in (select value from json_each(?)) order by at, id',
    [JSON.stringify(rows.map(({ id }) => id))],
  )
  return rows.map((row) => ({
    id: row.id,
    sequence: row.sequence,
    event: row.event ?? '',
    type: row.type ?? '',
    events: sequencesOf(row).length,
    status: row.status,
    createdAt: row.created_at,
    nextAt: row.next_at,
    attempts: attempts
      .filter(({ delivery }) => delivery === row.id)
      .map(({ id, at, status, took, answer, error, headers }) => ({
        id,
        at,
        status,
        took,
        answer,
        error,
        headers: JSON.parse(headers) as Record<string, string>,
      })),
  }))
}

/** Has a delivery sent again, whether it was accepted or not. @returns whether the webhook has it. */
export async function resendDelivery(
  transaction: Transaction,
  webhook: string,
  id: string,
  at: string,
): Promise<boolean> {
  const changed = await transaction.run(
    "update deliveries set status = 'waiting', head = 1, next_at = ? where id = ? and webhook = ?",
    [at, id, webhook],
  )
  if (changed > 0) transaction.touch('deliveries')
  return changed > 0
}

/** A span of the event log to send again. */
export interface ResentSpan {
  /** ISO instants; the events at both count. */
  readonly from: string
  readonly to: string
  /** Only what was given up, or never queued because the webhook was off or not there. */
  readonly onlyMissed: boolean
  /** The events of a span come in pieces: those after this number. */
  readonly after: number
}

/**
 * Queues the events of a span again: deliveries that ended, and events that never had one, in their order.
 * @returns how many deliveries, and the number of the last event that was looked at; undefined where none is left.
 */
export async function resendSpan(
  transaction: Transaction,
  webhook: Webhook,
  span: ResentSpan,
  most: number,
  environment: Environment,
): Promise<{ readonly resent: number; readonly next: number | undefined }> {
  const [last] = await transaction.all<{ sequence: number | null; count: number }>(
    `select max(sequence) as sequence, count(*) as count from (
       select sequence from events where site = ? and sequence > ? and time >= ? and time <= ? order by sequence limit ?)`,
    [webhook.site, span.after, span.from, span.to, most],
  )
  const upTo = last?.sequence ?? null
  if (upTo === null) return { resent: 0, next: undefined }
  const at = new Date(environment.now()).toISOString()
  const again = await transaction.run(
    `update deliveries set status = 'waiting', head = 0, attempts = 0, next_at = ?1, created_at = ?1 where webhook = ?2
       and sequence > ?3 and sequence <= ?4 and status <> 'waiting' and (status = 'failed' or ?5 = 0)
       and sequence in (select sequence from events where site = ?6 and sequence > ?3 and sequence <= ?4 and time >= ?7 and time <= ?8)`,
    [at, webhook.id, span.after, upTo, span.onlyMissed ? 1 : 0, webhook.site, span.from, span.to],
  )
  // What a condition would have said then is not known any more: only events that met it have deliveries.
  const added =
    webhook.condition !== null
      ? 0
      : await transaction.run(
          `insert into deliveries (id, site, webhook, sequence, entry, status, attempts, next_at, created_at, head)
           select ?1 || lower(hex(randomblob(5))), e.site, ?2, e.sequence, case ?3 when 'act' then '' else coalesce(e.entry, '') end,
             'waiting', 0, ?4, ?4, 0
           from events e where e.site = ?5 and e.sequence > ?6 and e.sequence <= ?7 and e.time >= ?8 and e.time <= ?9
             and (?10 = '[]' and e.data ->> 'publicGeneration' is not null or exists (select 1 from json_each(?10) where value = e.type))
             and not exists (select 1 from deliveries d where d.webhook = ?2 and (d.sequence = e.sequence
               or d.earlier <> '[]' and exists (select 1 from json_each(d.earlier) where value = e.sequence)))`,
          [
            makeId(environment).slice(0, 10),
            webhook.id,
            webhook.merge,
            at,
            webhook.site,
            span.after,
            upTo,
            span.from,
            span.to,
            JSON.stringify(webhook.events),
          ],
        )
  await setHeads(transaction, webhook.id)
  transaction.touch('deliveries')
  return { resent: again + added, next: last!.count < most ? undefined : upTo }
}

/** Makes the first that waits in each queue of a webhook its head, and no other. */
async function setHeads(transaction: Transaction, webhook: string): Promise<void> {
  await transaction.run(
    `update deliveries set head = (sequence = (
       select min(f.sequence) from deliveries f where f.webhook = ?1 and f.entry = deliveries.entry and f.status = 'waiting'))
     where webhook = ?1 and status = 'waiting'`,
    [webhook],
  )
}
