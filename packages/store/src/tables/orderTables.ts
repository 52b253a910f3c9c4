import { integer, key, nullable, oneOf, table, text, type RowOf } from './table.js'

/** An address that translates. */
export const connectors = table('connectors', {
  id: key(text),
  site: text,
  label: text,
  address: text,
  secret: text,
  /** The locales that it translates into, as a JSON list; empty for all. */
  locales: text,
  enabled: integer,
  created_at: text,
  created_by: text,
})
export type ConnectorRow = RowOf<typeof connectors>

/** A translation that is ordered by itself after an event. */
export const translationRules = table('translation_rules', {
  id: key(text),
  site: text,
  connector: text,
  label: text,
  /** The type of the event. */
  event: text,
  /** The internal id of the type of entries. */
  type: text,
  /** Which entries; empty for all of the type. */
  condition: text,
  /** A JSON list; empty for all that the connector translates into. */
  locales: text,
  publish: integer,
  enabled: integer,
  /** Why it did nothing the last time, where it could not be carried out. */
  message: text,
  created_at: text,
  /** Whose rights it has. */
  actor: text,
})
export type TranslationRuleRow = RowOf<typeof translationRules>

/** An event that a rule has still to look at. */
export const translationTriggers = table('translation_triggers', {
  site: key(text),
  sequence: key(integer),
  rule: key(text),
  entry: text,
})

export const translationOrders = table('translation_orders', {
  id: key(text),
  site: text,
  connector: text,
  /** The rule that ordered it, if any. */
  rule: nullable(text),
  locale: text,
  /** 1 where results are published. */
  publish: integer,
  state: oneOf<'running' | 'done' | 'stopped'>(),
  /** Numbers of entries. */
  total: integer,
  done: integer,
  failed: integer,
  /** That were sent so far. */
  texts: integer,
  words: integer,
  actor: text,
  created_at: text,
  ended_at: nullable(text),
})
export type TranslationOrderRow = RowOf<typeof translationOrders>

/** An entry in an order. */
export const translationOrderItems = table('translation_order_items', {
  id: key(text),
  order_id: text,
  position: integer,
  entry: text,
  locale: text,
  title: text,
  state: oneOf<'waiting' | 'sent' | 'done' | 'failed' | 'stopped'>(),
  /** That failed, since the last one that did not. */
  attempts: integer,
  /** When it is sent or asked about next; null where nothing is to be done. */
  next_at: nullable(text),
  /** What was sent, as JSON. */
  sent: nullable(text),
  sent_at: nullable(text),
  words: integer,
  texts: integer,
  /** How many texts have which outcome, as JSON. */
  outcomes: text,
  message: text,
})
export type TranslationOrderItemRow = RowOf<typeof translationOrderItems>
