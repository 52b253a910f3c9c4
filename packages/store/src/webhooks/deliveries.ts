import { makeId } from '@wisteria/core'
import type { Reader, Subscriber, Transaction } from '../connection/reader.js'
import type { AttemptRow, DeliveryRow } from '../tables/tables.js'
import type { Webhook } from './webhooks.js'

/** The delivery of an event to a webhook. */
export type DeliveryStatus = DeliveryRow['status']

/** An event that waits for a webhook, with all that is sent. */
export interface DueDelivery {
  readonly id: string
  readonly webhook: string
  /** The entry whose events are kept in order; empty for events of the site. */
  readonly entry: string
  readonly sequence: number
  readonly attempts: number
  readonly createdAt: string
  readonly address: string
  readonly secret: string
  readonly event: {
    readonly id: string
    readonly sequence: number
    /** The name of the site. */
    readonly site: string
    readonly type: string
    readonly time: string
    readonly actor: string
    readonly action: string
    /** JSON. */
    readonly data: string
  }
}

interface DueRow extends DeliveryRow {
  readonly address: string
  readonly secret: string
  readonly site_name: string
  readonly event_id: string
  readonly type: string
  readonly time: string
  readonly actor: string
  readonly action: string
  readonly data: string
}

const selectDue = `select d.*, w.address, w.secret, s.name as site_name, e.id as event_id, e.type, e.time, e.actor, e.action, e.data
  from deliveries d join webhooks w on w.id = d.webhook join sites s on s.id = d.site
  join events e on e.site = d.site and e.sequence = d.sequence`

const dueFrom = (row: DueRow): DueDelivery => ({
  id: row.id,
  webhook: row.webhook,
  entry: row.entry,
  sequence: row.sequence,
  attempts: row.attempts,
  createdAt: row.created_at,
  address: row.address,
  secret: row.secret,
  event: {
    id: row.event_id,
    sequence: row.sequence,
    site: row.site_name,
    type: row.type,
    time: row.time,
    actor: row.actor,
    action: row.action,
    data: row.data,
  },
})

/**
 * Queues an event for every webhook that subscribes to it, or to every public change. The number of webhooks does not change the
 * number of statements. A delivery is the head of its queue when no other of its webhook and entry waits.
 */
export const queueDeliveries: Subscriber = async (transaction, event, environment) => {
  const queued = await transaction.run(
    `insert into deliveries (id, site, webhook, sequence, entry, status, attempts, next_at, created_at, head)
     select ?1 || lower(hex(randomblob(5))), w.site, w.id, ?2, ?3, 'waiting', 0, ?4, ?4, not exists (
       select 1 from deliveries o where o.webhook = w.id and o.entry = ?3 and o.status = 'waiting')
     from webhooks w where w.site = ?5 and w.enabled = 1
       and (w.events = '[]' and ?6 or exists (select 1 from json_each(w.events) where value = ?7))`,
    [
      makeId(environment).slice(0, 10),
      event.sequence,
      event.entry ?? '',
      event.at,
      event.site,
      event.isPublic ? 1 : 0,
      event.type,
    ],
  )
  if (queued > 0) transaction.touch('deliveries')
}

/** The due heads of a webhook's queues. @param skipped ids that are left out. */
export async function dueDeliveries(
  reader: Reader,
  webhook: string,
  at: string,
  most: number,
  skipped: readonly string[],
): Promise<DueDelivery[]> {
  const rows = await reader.all<DueRow>(
    `${selectDue} where d.webhook = ? and d.status = 'waiting' and d.head = 1 and d.next_at <= ?
       and d.id not in (select value from json_each(?)) order by d.next_at, d.sequence limit ?`,
    [webhook, at, JSON.stringify(skipped), most],
  )
  return rows.map(dueFrom)
}

/** A delivery, if it is still to be sent. */
export async function dueDelivery(reader: Reader, id: string): Promise<DueDelivery | undefined> {
  const [row] = await reader.all<DueRow>(
    `${selectDue} where d.id = ? and d.status = 'waiting' and d.head = 1 and w.enabled = 1`,
    [id],
  )
  return row && dueFrom(row)
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

/** The result of one attempt to send. */
export interface DeliveryAttempt {
  readonly at: string
  /** Of the answer; null where there was none. */
  readonly status: number | null
  /** Milliseconds. */
  readonly took: number
  readonly answer: string
  readonly error: string | null
}

/** Stores an attempt and the result of the event; the next of its queue becomes the head when that is final. */
export async function recordAttempt(
  transaction: Transaction,
  due: DueDelivery,
  attempt: DeliveryAttempt & { readonly id: string },
  status: DeliveryStatus,
  nextAt: string,
): Promise<void> {
  await transaction.run(
    `insert into attempts (id, delivery, at, status, took, answer, error) select ?, id, ?, ?, ?, ?, ? from deliveries where id = ?`,
    [attempt.id, attempt.at, attempt.status, attempt.took, attempt.answer, attempt.error, due.id],
  )
  const isWaiting = status === 'waiting'
  await transaction.run('update deliveries set attempts = ?, status = ?, head = ?, next_at = ? where id = ?', [
    due.attempts + 1,
    status,
    isWaiting ? 1 : 0,
    nextAt,
    due.id,
  ])
  if (isWaiting) return
  await transaction.run(
    `update deliveries set head = 1 where head = 0 and id = (
       select id from deliveries where webhook = ? and entry = ? and status = 'waiting' order by sequence limit 1)`,
    [due.webhook, due.entry],
  )
}

/** A delivery with its attempts, oldest first. */
export interface Delivery {
  readonly id: string
  readonly sequence: number
  /** The event's id. */
  readonly event: string
  readonly type: string
  readonly status: DeliveryStatus
  readonly nextAt: string
  readonly attempts: readonly DeliveryAttempt[]
}

/** The newest deliveries of a webhook. */
export async function deliveriesOf(reader: Reader, webhook: Webhook['id'], most: number): Promise<Delivery[]> {
  const deliveries = await reader.all<DeliveryRow & { type: string; event: string }>(
    `select d.*, e.type, e.id as event from deliveries d join events e on e.site = d.site and e.sequence = d.sequence
     where d.webhook = ? order by d.sequence desc limit ?`,
    [webhook, most],
  )
  const attempts = await reader.all<AttemptRow>(
    'select * from attempts where delivery in (select value from json_each(?)) order by at',
    [JSON.stringify(deliveries.map(({ id }) => id))],
  )
  return deliveries.map(({ id, sequence, event, type, status, next_at: nextAt }) => ({
    id,
    sequence,
    event,
    type,
    status,
    nextAt,
    attempts: attempts
      .filter(({ delivery }) => delivery === id)
      .map((row) => ({ at: row.at, status: row.status, took: row.took, answer: row.answer, error: row.error })),
  }))
}

/** Has an event sent again, whether it was delivered or not. @returns whether the webhook has such a delivery. */
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
