import { eventTypes, isEventType, makeId, didYouMean, toCloudEvent, WisteriaError } from '@wisteria/core'
import {
  deleteWebhook,
  deliveriesOf,
  eventsAfter,
  insertWebhook,
  resendDelivery,
  webhookOnSite,
  webhooksOf,
  type Site,
  type Webhook,
} from '@wisteria/store'
import { z } from 'zod'
import { refuseAddress } from './addresses.js'
import { makeWebhookSecret } from './signing.js'
import type { Kernel } from '../kernel/kernel.js'
import { route, type Route } from '../kernel/route.js'

const base = '/edit/v1/sites/{site}/webhooks'

/** The deliveries of a webhook that are shown. */
const maxShown = 100

const webhookView = ({ id, label, address, events, isEnabled, createdAt, createdBy }: Webhook) => ({
  id,
  label,
  address,
  events: events.length === 0 ? null : events,
  enabled: isEnabled,
  createdAt,
  createdBy,
})

async function requireWebhook(kernel: Kernel, site: Site, id: string): Promise<Webhook> {
  const webhook = await webhookOnSite(kernel.database, site.id, id)
  if (!webhook) throw new WisteriaError('notFound', `There is no webhook \`${id.slice(0, 60)}\`.`)
  return webhook
}

export const webhookRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The webhooks of a site, and how many events wait for each.',
    permission: 'integration.manage',
    handle: async ({ kernel, site }) => ({
      body: {
        webhooks: (await webhooksOf(kernel.database, site.id)).map((webhook) => ({
          ...webhookView(webhook),
          waiting: webhook.waiting,
          failed: webhook.failed,
        })),
      },
    }),
  }),
  route({
    method: 'POST',
    path: base,
    summary:
      'Subscribes an address. Only this answer contains its signing `secret`. Without `events`, it receives every event that changes what published readers see.',
    permission: 'integration.manage',
    body: z.strictObject({
      label: z.string().trim().min(1, 'must not be empty').max(120),
      address: z.string().max(2000),
      events: z.array(z.string()).min(1).optional(),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { label, address, events = [] } = request.body
        const refused = refuseAddress(address, request.kernel.options.allowPrivateAddresses)
        if (refused)
          throw new WisteriaError('invalid', `The address ${refused}.`, {
            problems: [{ code: 'badAddress', pointer: '/address', message: `The address ${refused}.` }],
          })
        const unknown = events.find((event) => !isEventType(event))
        if (unknown !== undefined)
          throw new WisteriaError(
            'invalid',
            `\`${unknown}\` is not an event.${didYouMean(unknown, Object.keys(eventTypes))} There are ${Object.keys(eventTypes).join(', ')}.`,
          )
        const webhook: Webhook = {
          id: makeId(request.kernel.environment),
          site: request.site.id,
          label,
          address,
          secret: makeWebhookSecret(request.kernel.environment.random),
          events: [...new Set(events)],
          isEnabled: true,
          createdAt: request.kernel.at,
          createdBy: request.actor,
        }
        await insertWebhook(transaction, webhook)
        return { status: 201, body: { ...webhookView(webhook), secret: webhook.secret } }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{webhook}`,
    summary: 'Removes a webhook; deliveries that wait are dropped.',
    permission: 'integration.manage',
    handle: async (request) => {
      const { id } = await requireWebhook(request.kernel, request.site, request.params['webhook']!)
      return request.write(async (transaction) => {
        await deleteWebhook(transaction, id)
        return { status: 204 }
      })
    },
  }),
  route({
    method: 'GET',
    path: `${base}/{webhook}/deliveries`,
    summary: 'The newest deliveries of a webhook, with every attempt: status, time taken, the beginning of the answer.',
    permission: 'integration.manage',
    handle: async ({ kernel, site, params }) => {
      const { id } = await requireWebhook(kernel, site, params['webhook']!)
      const deliveries = await deliveriesOf(kernel.database, id, maxShown)
      return {
        body: {
          deliveries: deliveries.map(({ nextAt, ...delivery }) => ({
            ...delivery,
            nextAt: delivery.status === 'waiting' ? nextAt : null,
          })),
        },
      }
    },
  }),
  route({
    method: 'POST',
    path: `${base}/{webhook}/deliveries/{delivery}/resend`,
    summary: 'Sends an event again, now, whether it was delivered or not.',
    permission: 'integration.manage',
    handle: async (request) => {
      const { kernel, site, params } = request
      const { id } = await requireWebhook(kernel, site, params['webhook']!)
      return request.write(async (transaction) => {
        if (!(await resendDelivery(transaction, id, params['delivery']!, kernel.at)))
          throw new WisteriaError('notFound', `There is no delivery \`${params['delivery']!.slice(0, 60)}\`.`)
        return { status: 202, body: { id: params['delivery'] } }
      })
    },
  }),
  route({
    method: 'GET',
    path: '/edit/v1/sites/{site}/events',
    summary: 'The event log, oldest first, after a sequence number: as CloudEvents.',
    permission: 'integration.manage',
    query: z.object({
      after: z.coerce.number('must be a number').int().min(0).default(0),
      first: z.coerce.number('must be a number').int().min(1).max(500).default(100),
    }),
    handle: async ({ kernel, site, query }) => {
      const events = (await eventsAfter(kernel.database, site.id, query.after, query.first)).map((event) =>
        toCloudEvent({ ...event, site: site.name }),
      )
      return { body: { events, sequence: site.sequence } }
    },
  }),
]
