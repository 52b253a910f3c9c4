import { makeId, WisteriaError, type OrderItemView, type OrderView } from '@wisteria/core'
import {
  Act,
  entriesWithWork,
  insertTranslationOrder,
  translationOrderWithId,
  type Connector,
  type Reader,
  type Site,
  type Transaction,
  type TranslationOrder,
  type TranslationOrderItem,
} from '@wisteria/store'
import { whyNot } from '../kernel/attempt.js'
import type { Kernel } from '../kernel/kernel.js'
import { requireMay } from '../kernel/permission.js'
import type { Author } from '../workingCopies/saving.js'
import { requireTranslates } from './connectors.js'

/** The most entries of one order. */
const maxEntries = 10_000

export const orderView = (order: TranslationOrder): OrderView => ({
  id: order.id,
  connector: order.connector,
  rule: order.rule,
  locale: order.locale,
  publish: order.publishes,
  state: order.state,
  total: order.total,
  done: order.done,
  failed: order.failed,
  texts: order.texts,
  words: order.words,
  actor: order.actor,
  createdAt: order.createdAt,
  endedAt: order.endedAt,
})

export const orderItemView = (item: TranslationOrderItem): OrderItemView => ({
  position: item.position,
  entry: item.entry,
  title: item.title,
  state: item.state,
  attempts: item.attempts,
  nextAt: item.nextAt,
  texts: item.texts,
  words: item.words,
  outcomes: item.outcomes,
  message: item.message,
})

/** @throws WisteriaError `notFound`. */
export async function requireOrder(reader: Reader, site: Site, id: string): Promise<TranslationOrder> {
  const order = await translationOrderWithId(reader, id)
  if (order?.site === site.id) return order
  throw new WisteriaError('notFound', `There is no order \`${id.slice(0, 60)}\` on ${site.settings.label}.`)
}

/** Why something ordered cannot be done: rights that have gone since are told as such. */
export const whyNoLonger = (error: WisteriaError): string =>
  error.code === 'unauthenticated' || error.code === 'forbidden'
    ? 'Whoever ordered it may no longer do so.'
    : whyNot(error)

/** Tells how far an order is. */
export async function tellOrder(
  act: Act,
  type: 'translation.ordered' | 'translation.orderProgressed' | 'translation.orderEnded',
  { label }: Pick<Connector, 'label'>,
  { id, locale, state, total, done, failed, words }: TranslationOrder,
): Promise<void> {
  await act.tell(type, {
    locales: [locale],
    order: { id, connector: label, locale, state, total, done, failed, words },
  })
}

/**
 * Orders translations of entries: of those that have texts to translate.
 * @param rule the rule that orders, if any.
 * @returns undefined where none has any.
 * @throws WisteriaError where the caller may not, or the connector cannot.
 */
export async function orderTranslations(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  author: Author,
  connector: Connector,
  {
    ids,
    locale,
    publishes,
    rule = null,
  }: {
    readonly ids: readonly string[]
    readonly locale: string
    readonly publishes: boolean
    readonly rule?: string | null
  },
): Promise<TranslationOrder | undefined> {
  requireTranslates(connector, locale)
  requireMay(author.caller, 'entry.translate', { locales: [locale] })
  if (publishes) requireMay(author.caller, 'entry.publish', { locales: [locale] })
  const entries = await entriesWithWork(transaction, site, ids, locale)
  if (entries.length === 0) return undefined
  if (entries.length > maxEntries)
    throw new WisteriaError(
      'tooCostly',
      `An order has at most ${maxEntries} entries, and these are ${entries.length}. Use a narrower condition.`,
    )
  const act = new Act(transaction, site, author.actor, kernel.environment)
  const order: TranslationOrder = {
    id: makeId(kernel.environment),
    site: site.id,
    connector: connector.id,
    rule,
    locale,
    publishes,
    state: 'running',
    total: entries.length,
    done: 0,
    failed: 0,
    texts: 0,
    words: 0,
    actor: author.actor,
    createdAt: act.at,
    endedAt: null,
  }
  const items = entries.map(({ entry, title }) => ({ id: makeId(kernel.environment), entry, title }))
  await insertTranslationOrder(transaction, order, items)
  await tellOrder(act, 'translation.ordered', connector, order)
  return order
}
