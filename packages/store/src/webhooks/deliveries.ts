import type { EventData, EventType, Merge, RecordedEvent } from '@wisteria/core'
import type { Reader, Transaction } from '../connection/reader.js'
import type { DeliveryRow, EventRow } from '../tables/tables.js'
import type { WebhookSecret } from './webhooks.js'

/** The delivery of events to a webhook. */
export type DeliveryStatus = DeliveryRow['status']

/** The head of a queue, with what is needed to choose it. */
export interface DueDelivery {
  readonly id: string
  readonly webhook: string
  /** The entry whose events are kept in order; empty for events of the site, and where acts are merged. */
  readonly entry: string
  readonly address: string
}

/** A delivery with all that is sent. */
export interface OutgoingDelivery extends DueDelivery {
  readonly attempts: number
  readonly createdAt: string
  readonly secrets: readonly WebhookSecret[]
  readonly headers: Readonly<Record<string, string>>
  readonly merge: Merge
  /** Since when the address accepts nothing. */
  readonly failingSince: string | null
  /** The id of the site. */
  readonly site: string
  /** Oldest first. */
  readonly events: readonly RecordedEvent[]
  /** How many earlier ones of its queue were given up since the last that was accepted. */
  readonly missed: number
}

/** The due heads of a webhook's queues. @param skipped ids that are left out. */
export const dueDeliveries = (
  reader: Reader,
  webhook: string,
  at: string,
  most: number,
  skipped: readonly string[],
): Promise<DueDelivery[]> =>
  reader.all(
    `select d.id, d.webhook, d.entry, w.address from deliveries d join webhooks w on w.id = d.webhook
     where d.webhook = ? and d.status = 'waiting' and d.head = 1 and d.next_at <= ?
       and d.id not in (select value from json_each(?)) order by d.next_at, d.sequence limit ?`,
    [webhook, at, JSON.stringify(skipped), most],
  )

interface OutgoingRow extends DeliveryRow {
  readonly address: string
  readonly secrets: string
  readonly headers: string
  readonly merge: Merge
  readonly failing_since: string | null
  readonly missed: number
}

/** A delivery, if it is still to be sent. */
export async function outgoingDelivery(reader: Reader, id: string): Promise<OutgoingDelivery | undefined> {
  const [row] = await reader.all<OutgoingRow>(
    `select d.*, w.address, w.secrets, w.headers, w.merge, w.failing_since, (
       select count(*) from deliveries f where f.webhook = d.webhook and f.entry = d.entry and f.status = 'failed'
         and f.sequence < d.sequence and f.sequence > coalesce((
           select max(o.sequence) from deliveries o where o.webhook = d.webhook and o.entry = d.entry and o.status = 'delivered'
             and o.sequence < d.sequence), 0)) as missed
     from deliveries d join webhooks w on w.id = d.webhook
     where d.id = ? and d.status = 'waiting' and d.head = 1 and w.enabled = 1 and w.paused_at is null`,
    [id],
  )
  return (
    row && {
      id: row.id,
      webhook: row.webhook,
      entry: row.entry,
      address: row.address,
      attempts: row.attempts,
      createdAt: row.created_at,
      secrets: JSON.parse(row.secrets) as WebhookSecret[],
      headers: JSON.parse(row.headers) as Record<string, string>,
      merge: row.merge,
      failingSince: row.failing_since,
      site: row.site,
      events: await eventsNumbered(reader, row.site, sequencesOf(row)),
      missed: row.missed,
    }
  )
}

/** The numbers of the events of a delivery, oldest first. */
export const sequencesOf = ({ earlier, sequence }: Pick<DeliveryRow, 'earlier' | 'sequence'>): number[] => [
  ...(JSON.parse(earlier) as number[]),
  sequence,
]

/** Events of a site by their numbers, oldest first: those that are still kept. */
export async function eventsNumbered(
  reader: Reader,
  site: string,
  sequences: readonly number[],
): Promise<RecordedEvent[]> {
  const rows = await reader.all<EventRow & { site_name: string }>(
    `select e.*, s.name as site_name from json_each(?2) n cross join events e on e.site = ?1 and e.sequence = n.value
     join sites s on s.id = e.site order by e.sequence`,
    [site, JSON.stringify(sequences)],
  )
  return rows.map((row) => ({
    id: row.id,
    sequence: row.sequence,
    site: row.site_name,
    type: row.type as EventType,
    time: row.time,
    actor: row.actor,
    action: row.action,
    data: JSON.parse(row.data) as EventData,
  }))
}

/** When the next delivery of a webhook is due; undefined where none waits. */
export async function nextDeliveryAt(
  reader: Reader,
  webhook: string,
  skipped: readonly string[],
): Promise<string | undefined> {
  const [row] = await reader.all<{ at: string | null }>(
    `select min(next_at) as at from deliveries
     where webhook = ? and status = 'waiting' and head = 1 and id not in (select value from json_each(?))`,
    [webhook, JSON.stringify(skipped)],
  )
  return row?.at ?? undefined
}

/** One attempt to send. */
export interface DeliveryAttempt {
  readonly at: string
  /** Of the answer; null where there was none. */
  readonly status: number | null
  /** Milliseconds. */
  readonly took: number
  readonly answer: string
  readonly error: string | null
  /** That were sent, with secret values hidden. */
  readonly headers: Readonly<Record<string, string>>
}

/**
 * Stores an attempt and the result of the delivery; the next of its queue becomes the head when that is final. Events that joined
 * the delivery while it was sent go on waiting in it.
 */
export async function recordAttempt(
  transaction: Transaction,
  due: Pick<OutgoingDelivery, 'id' | 'webhook' | 'entry' | 'attempts' | 'events'>,
  attempt: DeliveryAttempt & { readonly id: string },
  status: DeliveryStatus,
  nextAt: string,
): Promise<void> {
  const [row] = await transaction.all<DeliveryRow>('select * from deliveries where id = ?', [due.id])
  if (!row) return
  const sent = due.events.map(({ sequence }) => sequence)
  await transaction.run(
    `insert into attempts (id, delivery, at, status, took, answer, error, headers, sequences) values (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
    [
      attempt.id,
      due.id,
      attempt.at,
      attempt.status,
      attempt.took,
      attempt.answer,
      attempt.error,
      JSON.stringify(attempt.headers),
      JSON.stringify(sent),
    ],
  )
  const isWaiting = status === 'waiting'
  const joined = isWaiting ? [] : sequencesOf(row).filter((sequence) => !sent.includes(sequence))
  if (joined.length > 0) {
    await transaction.run(
      'update deliveries set attempts = 0, sequence = ?, earlier = ?, next_at = ?, created_at = ? where id = ?',
      [joined.at(-1)!, JSON.stringify(joined.slice(0, -1)), attempt.at, attempt.at, due.id],
    )
    transaction.touch('deliveries')
    return
  }
  await transaction.run(
    `update deliveries set attempts = ?1, status = ?2, head = case ?2 when 'waiting' then head else 0 end, next_at = ?3 where id = ?4`,
    [due.attempts + 1, status, nextAt, due.id],
  )
  if (!isWaiting) await promoteNext(transaction, due.webhook, due.entry)
}

/** Makes the first that waits in a queue its head. */
const promoteNext = (transaction: Transaction, webhook: string, entry: string): Promise<number> =>
  transaction.run(
    `update deliveries set head = 1 where head = 0 and id = (
       select id from deliveries where webhook = ? and entry = ? and status = 'waiting' order by sequence limit 1)`,
    [webhook, entry],
  )
