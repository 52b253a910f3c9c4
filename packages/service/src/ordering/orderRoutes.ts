import { WisteriaError } from '@wisteria/core'
import {
  Act,
  connectorWithId,
  itemsOfTranslationOrder,
  retryTranslationOrder,
  siteWithId,
  stopTranslationOrder,
  translationOrderItem,
  translationOrdersOf,
  translationOrderWithId,
} from '@wisteria/store'
import { z } from 'zod'
import { requireMay } from '../kernel/permission.js'
import { route, type Route } from '../kernel/route.js'
import { isSigned } from '../outgoing/signing.js'
import { wholeNumber } from '../read/listQuery.js'
import { entriesInScope } from '../translations/exporting.js'
import { requireTarget } from '../translations/reading.js'
import { requireConnector } from './connectors.js'
import type { SentEntry } from './exchange.js'
import { orderItemView, orderTranslations, orderView, requireOrder, tellOrder } from './ordering.js'
import { answerIsThere, withdrawRequests } from './orderWork.js'

const base = '/edit/v1/sites/{site}/translations'

/** The most orders, and the most entries of one, that an answer has. */
const maxOrders = 50
const maxItems = 200

export const orderRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: `${base}/orders`,
    summary: `The newest ${maxOrders} orders for translations, with how far they are.`,
    permission: 'draft.read',
    handle: async ({ kernel, site }) => ({
      body: { orders: (await translationOrdersOf(kernel.database, site, maxOrders)).map(orderView) },
    }),
  }),
  route({
    method: 'POST',
    path: `${base}/orders`,
    summary:
      'Orders translations into `locale` from a connector, by its id or label: of all entries with texts to translate, of those that match `type`, `where` and `search`, or of `ids`. Translations come back as drafts that are ready for review; with `publish` they are published.',
    permission: 'entry.translate',
    idempotent: true,
    body: z.strictObject({
      connector: z.string().max(120),
      locale: z.string().max(40),
      type: z.string().max(64).optional(),
      where: z.string().max(10_000).optional(),
      search: z.string().max(500).optional(),
      ids: z.array(z.string().max(60)).min(1).max(10_000).optional(),
      publish: z.boolean().default(false),
    }),
    handle: async (request) => {
      const { kernel, body } = request
      const { connector: named, locale: asked, publish: publishes, ...scope } = body
      const locale = requireTarget(request.site, asked)
      const ids = await entriesInScope(kernel, request.site, scope)
      return request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const connector = await requireConnector(transaction, site, named)
        const order = await orderTranslations(kernel, transaction, site, request, connector, { ids, locale, publishes })
        if (order) return { status: 201, body: orderView(order) }
        throw new WisteriaError('conflict', `None of these entries has texts to translate into ${locale}.`)
      })
    },
  }),
  route({
    method: 'GET',
    path: `${base}/orders/{order}`,
    summary: 'An order for translations, and how far it is.',
    permission: 'draft.read',
    handle: async ({ kernel, site, params }) => ({
      body: orderView(await requireOrder(kernel.database, site, params['order']!)),
    }),
  }),
  route({
    method: 'GET',
    path: `${base}/orders/{order}/entries`,
    summary: 'The entries of an order, each with its state, and why it failed, or the result for its texts.',
    permission: 'draft.read',
    query: z.object({ after: wholeNumber(0, 1_000_000_000).default(0) }),
    handle: async ({ kernel, site, params, query }) => {
      const order = await requireOrder(kernel.database, site, params['order']!)
      const items = await itemsOfTranslationOrder(kernel.database, order.id, query.after, maxItems)
      const next = query.after + items.length
      return { body: { entries: items.map(orderItemView), next: next < order.total ? next : null } }
    },
  }),
  route({
    method: 'POST',
    path: `${base}/orders/{order}/retry`,
    summary: 'Sends the entries of an order that failed once more.',
    permission: 'entry.translate',
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, caller, params } = request
        const site = await siteWithId(transaction, request.site.id)
        const order = await requireOrder(transaction, site, params['order']!)
        requireMay(caller, 'entry.translate', { locales: [order.locale] })
        if (order.state === 'stopped')
          throw new WisteriaError('conflict', 'The order was stopped. Order what is left anew.')
        if ((await retryTranslationOrder(transaction, order.id, kernel.at)) === 0)
          throw new WisteriaError('conflict', 'Nothing of this order has failed.')
        return { body: orderView((await translationOrderWithId(transaction, order.id))!) }
      }),
  }),
  route({
    method: 'POST',
    path: `${base}/orders/{order}/stop`,
    summary: 'Stops an order and tells its connector: translations that come back later are not taken.',
    permission: 'entry.translate',
    handle: async (request) => {
      const { kernel, caller, params } = request
      const open: string[] = []
      const answer = await request.write(async (transaction) => {
        const site = await siteWithId(transaction, request.site.id)
        const order = await requireOrder(transaction, site, params['order']!)
        requireMay(caller, 'entry.translate', { locales: [order.locale] })
        if (order.state !== 'running') throw new WisteriaError('conflict', 'The order has ended already.')
        const items = await itemsOfTranslationOrder<SentEntry>(transaction, order.id, 0, order.total)
        open.push(...items.flatMap(({ sent, state }) => (state === 'sent' && sent ? [sent.request] : [])))
        const act = new Act(transaction, site, request.actor, kernel.environment)
        await stopTranslationOrder(transaction, order.id, act.at)
        const stopped = (await translationOrderWithId(transaction, order.id))!
        await tellOrder(act, 'translation.orderEnded', (await connectorWithId(transaction, order.connector))!, stopped)
        return { body: orderView(stopped) }
      })
      const { connector: id } = answer.body as ReturnType<typeof orderView>
      const connector = await connectorWithId(kernel.database, id)
      const isStopped = (await requireOrder(kernel.database, request.site, params['order']!)).state === 'stopped'
      if (connector && isStopped) void withdrawRequests(kernel, connector, open)
      return answer
    },
  }),
  route({
    method: 'POST',
    path: `${base}/requests/{request}`,
    summary:
      'A connector says that a translation is there, or has failed: it is asked for at once. Signed with its secret, by the headers of Standard Webhooks, with an empty body.',
    permission: 'anyone',
    insteadOfDryRun: 'It changes no entry: it asks the connector sooner.',
    handle: async (request) => {
      const { kernel, headers, params } = request
      const item = await translationOrderItem(kernel.database, params['request']!)
      const order = item && (await translationOrderWithId(kernel.database, item.order))
      const connector = order && (await connectorWithId(kernel.database, order.connector))
      const isKnown = connector?.site === request.site.id
      if (!isKnown || !isSigned(connector.secret, headers, Math.floor(kernel.now / 1000), ''))
        throw new WisteriaError(
          request.caller.is === 'nobody' ? 'unauthenticated' : 'forbidden',
          'The call must be signed with the secret of the connector, by the headers of Standard Webhooks.',
        )
      return request.write(async (transaction) => {
        const now = (await translationOrderItem(transaction, item!.id))!
        await answerIsThere(kernel, transaction, now)
        return { status: 202, body: { request: now.id } }
      })
    },
  }),
]
