import { eventTypes, isEventType, makeId, didYouMean, toCloudEvent, WisteriaError } from '@wisteria/core'
import {
  changeWebhook,
  deleteWebhook,
  deliveriesOf,
  eventsAfter,
  insertWebhook,
  resendDelivery,
  webhookOnSite,
  webhooksOf,
  type Reader,
  type Site,
  type Webhook,
} from '@wisteria/store'
import { z } from 'zod'
import { refuseAddress } from '../outgoing/addresses.js'
import { makeWebhookSecret } from '../outgoing/signing.js'
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

const label = z.string().trim().min(1, 'must not be empty').max(120)
const events = z.array(z.string()).min(1)

/** @throws WisteriaError where nothing may be sent to an address. */
function requireAddress(kernel: Kernel, address: string): void {
  const refused = refuseAddress(address, kernel.options.allowPrivateAddresses)
  if (refused)
    throw new WisteriaError('invalid', `The address ${refused}.`, {
      problems: [{ code: 'badAddress', pointer: '/address', message: `The address ${refused}.` }],
    })
}

/** @throws WisteriaError that suggests the nearest event. */
function requireEvents(asked: readonly string[]): void {
  const unknown = asked.find((event) => !isEventType(event))
  if (unknown === undefined) return
  const all = Object.keys(eventTypes)
  throw new WisteriaError(
    'invalid',
    `\`${unknown}\` is not an event.${didYouMean(unknown, all)} There are ${all.join(', ')}.`,
  )
}

async function requireWebhook(reader: Reader, site: Site, id: string): Promise<Webhook> {
  const webhook = await webhookOnSite(reader, site.id, id)
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
      label,
      address: z.string().max(2000),
      events: events.optional(),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { label, address, events = [] } = request.body
        requireAddress(request.kernel, address)
        requireEvents(events)
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
    method: 'PATCH',
    path: `${base}/{webhook}`,
    summary:
      'Changes the label, the address or the events of a webhook, or switches it off and on. Its secret stays. What waits for it goes to the new address; while it is off, nothing is sent and nothing is added.',
    permission: 'integration.manage',
    body: z.strictObject({
      label: label.optional(),
      address: z.string().max(2000).optional(),
      events: events.nullable().optional().describe('null: every event that changes what published readers see.'),
      enabled: z.boolean().optional(),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, body, params } = request
        const before = await requireWebhook(transaction, request.site, params['webhook']!)
        if (body.address !== undefined) requireAddress(kernel, body.address)
        requireEvents(body.events ?? [])
        const webhook: Webhook = {
          ...before,
          label: body.label ?? before.label,
          address: body.address ?? before.address,
          events: body.events === undefined ? before.events : [...new Set(body.events)],
          isEnabled: body.enabled ?? before.isEnabled,
        }
        await changeWebhook(transaction, webhook)
        return { body: webhookView(webhook) }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{webhook}`,
    summary: 'Removes a webhook; deliveries that wait are dropped.',
    permission: 'integration.manage',
    handle: async (request) => {
      const { id } = await requireWebhook(request.kernel.database, request.site, request.params['webhook']!)
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
      const { id } = await requireWebhook(kernel.database, site, params['webhook']!)
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
      const { id } = await requireWebhook(kernel.database, site, params['webhook']!)
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
