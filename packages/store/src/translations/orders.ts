import { insertMany } from '../connection/inserting.js'
import type { Reader, Transaction } from '../connection/reader.js'
import type { Site } from '../sites/sites.js'
import type { TranslationOrderItemRow, TranslationOrderRow } from '../tables/tables.js'

/** Entries that a connector translates into a locale. */
export interface TranslationOrder {
  readonly id: string
  readonly site: string
  readonly connector: string
  /** The rule that ordered it; null where somebody did. */
  readonly rule: string | null
  readonly locale: string
  readonly publishes: boolean
  readonly state: 'running' | 'done' | 'stopped'
  /** Numbers of entries. */
  readonly total: number
  readonly done: number
  readonly failed: number
  /** Numbers of texts, and of words in their sources, that were sent so far. */
  readonly texts: number
  readonly words: number
  readonly actor: string
  readonly createdAt: string
  readonly endedAt: string | null
}

export type OrderItemState = TranslationOrderItemRow['state']

/** An entry in it. The type of what was sent belongs to the service. */
export interface TranslationOrderItem<Sent = unknown> {
  readonly id: string
  readonly order: string
  readonly position: number
  readonly entry: string
  readonly locale: string
  readonly title: string
  readonly state: OrderItemState
  /** Attempts that failed, since the last one that did not. */
  readonly attempts: number
  readonly nextAt: string | null
  readonly sent: Sent | null
  readonly sentAt: string | null
  readonly words: number
  readonly texts: number
  /** How many texts have which outcome. */
  readonly outcomes: Readonly<Record<string, number>>
  readonly message: string
}

const orderFrom = (row: TranslationOrderRow): TranslationOrder => ({
  id: row.id,
  site: row.site,
  connector: row.connector,
  rule: row.rule,
  locale: row.locale,
  publishes: row.publish === 1,
  state: row.state,
  total: row.total,
  done: row.done,
  failed: row.failed,
  texts: row.texts,
  words: row.words,
  actor: row.actor,
  createdAt: row.created_at,
  endedAt: row.ended_at,
})

const itemFrom = <Sent>(row: TranslationOrderItemRow): TranslationOrderItem<Sent> => ({
  id: row.id,
  order: row.order_id,
  position: row.position,
  entry: row.entry,
  locale: row.locale,
  title: row.title,
  state: row.state,
  attempts: row.attempts,
  nextAt: row.next_at,
  sent: row.sent === null ? null : (JSON.parse(row.sent) as Sent),
  sentAt: row.sent_at,
  words: row.words,
  texts: row.texts,
  outcomes: JSON.parse(row.outcomes) as Record<string, number>,
  message: row.message,
})

/** Stores an order with its entries, which wait to be sent. */
export async function insertTranslationOrder(
  transaction: Transaction,
  order: TranslationOrder,
  items: readonly Pick<TranslationOrderItem, 'id' | 'entry' | 'title'>[],
): Promise<void> {
  await insertMany(transaction, 'translation_orders', [
    {
      id: order.id,
      site: order.site,
      connector: order.connector,
      rule: order.rule,
      locale: order.locale,
      publish: order.publishes ? 1 : 0,
      state: order.state,
      total: order.total,
      done: order.done,
      failed: order.failed,
      texts: order.texts,
      words: order.words,
      actor: order.actor,
      created_at: order.createdAt,
      ended_at: order.endedAt,
    },
  ])
  await insertMany(
    transaction,
    'translation_order_items',
    items.map(({ id, entry, title }, position) => ({
      id,
      order_id: order.id,
      position,
      entry,
      locale: order.locale,
      title,
      state: 'waiting',
      attempts: 0,
      next_at: order.createdAt,
      sent: null,
      sent_at: null,
      words: 0,
      texts: 0,
      outcomes: '{}',
      message: '',
    })),
  )
  transaction.touch('orders')
}

/** The newest orders of a site. */
export async function translationOrdersOf(reader: Reader, site: Site, most: number): Promise<TranslationOrder[]> {
  const rows = await reader.all<TranslationOrderRow>(
    'select * from translation_orders where site = ? order by created_at desc, id desc limit ?',
    [site.id, most],
  )
  return rows.map(orderFrom)
}

export async function translationOrderWithId(reader: Reader, id: string): Promise<TranslationOrder | undefined> {
  const [row] = await reader.all<TranslationOrderRow>('select * from translation_orders where id = ?', [id])
  return row && orderFrom(row)
}

/** The entries of an order from a position on, in order. */
export async function itemsOfTranslationOrder<Sent>(
  reader: Reader,
  order: string,
  from: number,
  most: number,
): Promise<TranslationOrderItem<Sent>[]> {
  const rows = await reader.all<TranslationOrderItemRow>(
    'select * from translation_order_items where order_id = ? and position >= ? order by position limit ?',
    [order, from, most],
  )
  return rows.map((row) => itemFrom<Sent>(row))
}

export async function translationOrderItem<Sent>(
  reader: Reader,
  id: string,
): Promise<TranslationOrderItem<Sent> | undefined> {
  const [row] = await reader.all<TranslationOrderItemRow>('select * from translation_order_items where id = ?', [id])
  return row && itemFrom<Sent>(row)
}

/** An item that is due, with the address that it goes to. */
export interface DueOrderItem {
  readonly id: string
  readonly connector: string
  readonly address: string
}

/**
 * Items that are to be sent or asked about, the longest due first. Of one entry and locale only the one that was ordered first, so
 * that two orders do not translate the same.
 * @param skipped ids that are left out.
 */
export const dueOrderItems = (
  reader: Reader,
  at: string,
  most: number,
  skipped: readonly string[],
): Promise<DueOrderItem[]> =>
  reader.all(
    `select i.id, c.id as connector, c.address from translation_order_items i join translation_orders o on o.id = i.order_id
       join connectors c on c.id = o.connector
     where i.next_at <= ? and c.enabled = 1 and i.id not in (select value from json_each(?)) and not exists (
       select 1 from translation_order_items e join translation_orders p on p.id = e.order_id join connectors d on d.id = p.connector
       where e.entry = i.entry and e.locale = i.locale and e.next_at is not null and e.id < i.id and d.enabled = 1)
     order by i.next_at limit ?`,
    [at, JSON.stringify(skipped), most],
  )

/** When the next item is due; undefined where none waits. */
export async function nextOrderItemAt(reader: Reader, skipped: readonly string[]): Promise<string | undefined> {
  const [row] = await reader.all<{ at: string }>(
    `select i.next_at as at from translation_order_items i join translation_orders o on o.id = i.order_id
       join connectors c on c.id = o.connector
     where i.next_at is not null and c.enabled = 1 and i.id not in (select value from json_each(?))
     order by i.next_at limit 1`,
    [JSON.stringify(skipped)],
  )
  return row?.at
}

type ItemChange = Partial<
  Pick<
    TranslationOrderItem,
    'state' | 'attempts' | 'nextAt' | 'sent' | 'sentAt' | 'words' | 'texts' | 'outcomes' | 'message' | 'title'
  >
>

/**
 * Records how an item stands, and counts it in its order. An order whose items have all ended is done.
 * @returns the order afterwards.
 */
export async function changeOrderItem(
  transaction: Transaction,
  item: TranslationOrderItem,
  change: ItemChange,
  at: string,
): Promise<TranslationOrder> {
  const now = { ...item, ...change }
  await transaction.run(
    `update translation_order_items set state = ?, attempts = ?, next_at = ?, sent = ?, sent_at = ?, words = ?, texts = ?,
       outcomes = ?, message = ?, title = ? where id = ?`,
    [
      now.state,
      now.attempts,
      now.nextAt,
      now.sent === null ? null : JSON.stringify(now.sent),
      now.sentAt,
      now.words,
      now.texts,
      JSON.stringify(now.outcomes),
      now.message,
      now.title,
      item.id,
    ],
  )
  const counted = (state: OrderItemState): number => Number(now.state === state) - Number(item.state === state)
  const [row] = await transaction.all<TranslationOrderRow>(
    `update translation_orders set done = done + ?1, failed = failed + ?2, texts = texts + ?3, words = words + ?4,
       state = case when state = 'stopped' then state when done + ?1 + failed + ?2 >= total then 'done' else 'running' end,
       ended_at = case when state = 'stopped' then ended_at when done + ?1 + failed + ?2 >= total then ?5 end
     where id = ?6 returning *`,
    [counted('done'), counted('failed'), now.texts - item.texts, now.words - item.words, at, item.order],
  )
  if (now.nextAt !== null) transaction.touch('orders')
  return orderFrom(row!)
}

/** Ends an order: translations that come back later are not taken. */
export async function stopTranslationOrder(transaction: Transaction, id: string, at: string): Promise<void> {
  await transaction.run(
    `update translation_order_items set state = 'stopped', next_at = null where order_id = ? and state in ('waiting', 'sent')`,
    [id],
  )
  await transaction.run(`update translation_orders set state = 'stopped', ended_at = ? where id = ?`, [at, id])
}

/** Items that failed are sent again, now. @returns how many. */
export async function retryTranslationOrder(transaction: Transaction, id: string, at: string): Promise<number> {
  const count = await transaction.run(
    `update translation_order_items set state = 'waiting', attempts = 0, next_at = ?, message = '' where order_id = ? and state = 'failed'`,
    [at, id],
  )
  if (count === 0) return 0
  await transaction.run(
    `update translation_orders set state = 'running', ended_at = null, failed = failed - ? where id = ?`,
    [count, id],
  )
  transaction.touch('orders')
  return count
}

/** Those of some entries that have texts to translate into a locale, with their titles in the source. In the order of the ids. */
export async function entriesWithWork(
  reader: Reader,
  site: Site,
  ids: readonly string[],
  locale: string,
): Promise<{ entry: string; title: string }[]> {
  const { defaultLocale } = site.settings
  return reader.all(
    `select d.entry, coalesce((select s.title from drafts s where s.projection = d.projection and s.entry = d.entry and s.locale = ?3), '') as title
     from json_each(?1) i cross join drafts d on d.projection = ?4 and d.entry = i.value and d.locale = ?2
     where d.work_since is not null and d.state <> 'archived' order by i.key`,
    [JSON.stringify(ids), locale, defaultLocale, site.projection],
  )
}
