import type { Merge } from '@wisteria/core'
import { integer, key, nullable, oneOf, table, text, type RowOf } from './table.js'

export const events = table('events', {
  site: key(text),
  sequence: key(integer),
  id: text,
  type: text,
  time: text,
  actor: text,
  action: text,
  entry: nullable(text),
  data: text,
})
export type EventRow = RowOf<typeof events>

export const webhooks = table('webhooks', {
  id: key(text),
  site: text,
  label: text,
  address: text,
  events: text,
  enabled: integer,
  created_at: text,
  created_by: text,
  /** JSON: a list of `WebhookSecret`, newest first. */
  secrets: text,
  /** JSON: by name. */
  headers: text,
  condition: nullable(text),
  merge: oneOf<Merge>(),
  failing_since: nullable(text),
  paused_at: nullable(text),
})
export type WebhookRow = RowOf<typeof webhooks>

export const deliveries = table('deliveries', {
  id: key(text),
  site: text,
  webhook: text,
  sequence: integer,
  /** The queue in which order is kept: one for each webhook and entry. Empty for events of the site. */
  entry: text,
  status: oneOf<'waiting' | 'delivered' | 'failed'>(),
  attempts: integer,
  next_at: text,
  created_at: text,
  /** Whether it is the first that waits in its queue, 0 or 1. */
  head: integer,
  /** JSON: the numbers of earlier events that are sent with this one, oldest first. */
  earlier: text,
})
export type DeliveryRow = RowOf<typeof deliveries>

export const attempts = table('attempts', {
  id: key(text),
  delivery: text,
  at: text,
  status: nullable(integer),
  took: integer,
  answer: text,
  error: nullable(text),
  /** JSON: those that were sent, with the values of secret ones hidden. */
  headers: text,
  /** JSON: the numbers of the events that were sent, oldest first. */
  sequences: text,
})
export type AttemptRow = RowOf<typeof attempts>
