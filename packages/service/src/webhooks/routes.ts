import {
  eventTypes,
  isEventType,
  makeId,
  didYouMean,
  toCloudEvent,
  WisteriaError,
  type EventData,
  type EventType,
} from '@wisteria/core'
import type { AttemptRow, DeliveryRow, EventRow, Site, WebhookRow } from '@wisteria/store'
import { z } from 'zod'
import { refuseAddress } from './addresses.js'
import { makeWebhookSecret } from './signing.js'
import type { Kernel } from '../kernel/kernel.js'
import { route, type Route } from '../kernel/route.js'

const base = '/edit/v1/sites/{site}/webhooks'

const webhookView = (row: WebhookRow) => ({
  id: row.id, label: row.label, address: row.address, events: row.events === '[]' ? null : (JSON.parse(row.events) as string[]), enabled: row.enabled === 1, createdAt: row.created_at, createdBy: row.created_by,
}) // prettier-ignore

async function requireWebhook(kernel: Kernel, site: Site, id: string): Promise<WebhookRow> {
  const [row] = await kernel.database.all<WebhookRow>('select * from webhooks where id = ? and site = ?', [id, site.id])
  if (!row) throw new WisteriaError('notFound', `There is no webhook \`${id.slice(0, 60)}\`.`)
  return row
}

export const webhookRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The webhooks of a site, and how many events wait for each.',
    permission: 'integration.manage',
    handle: async ({ kernel, site }) => {
      const rows = await kernel.database.all<WebhookRow & { waiting: number; set_aside: number }>(
        `select w.*, (select count(*) from deliveries d where d.webhook = w.id and d.status = 'waiting') as waiting,
           (select count(*) from deliveries d where d.webhook = w.id and d.status = 'setAside') as set_aside
         from webhooks w where w.site = ? order by w.created_at, w.id`,
        [site.id],
      )
      return {
        body: { webhooks: rows.map((row) => ({ ...webhookView(row), waiting: row.waiting, setAside: row.set_aside })) },
      }
    },
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
      request.write(async ({ tables }) => {
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
        const row: WebhookRow = {
          id: makeId(request.kernel.environment), site: request.site.id, label, address, secret: makeWebhookSecret(request.kernel.environment.random),
          events: JSON.stringify([...new Set(events)]), enabled: 1, created_at: request.kernel.at, created_by: request.actor,
        } // prettier-ignore
        await tables.webhooks.create(row)
        return { status: 201, body: { ...webhookView(row), secret: row.secret } }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{webhook}`,
    summary: 'Ends a subscription; what waits for it is dropped.',
    permission: 'integration.manage',
    handle: async (request) => {
      const row = await requireWebhook(request.kernel, request.site, request.params['webhook']!)
      return request.write(async (transaction) => {
        await transaction.run('delete from webhooks where id = ?', [row.id])
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
      const row = await requireWebhook(kernel, site, params['webhook']!)
      const deliveries = await kernel.database.all<DeliveryRow & Pick<EventRow, 'type' | 'id'> & { event: string }>(
        'select d.*, e.type, e.id as event from deliveries d join events e on e.site = d.site and e.sequence = d.sequence where d.webhook = ? order by d.sequence desc limit 100',
        [row.id],
      )
      const attempts = await kernel.database.all<AttemptRow>(
        'select * from attempts where delivery in (select value from json_each(?)) order by at',
        [JSON.stringify(deliveries.map(({ id }) => id))],
      )
      return {
        body: {
          deliveries: deliveries.map((one) => ({
            id: one.id, sequence: one.sequence, event: one.event, type: one.type, status: one.status, nextAt: one.status === 'waiting' ? one.next_at : null,
            attempts: attempts.filter(({ delivery }) => delivery === one.id).map(({ at, status, took, answer, error }) => ({ at, status, took, answer, error })),
          })), // prettier-ignore
        },
      }
    },
  }),
  route({
    method: 'POST',
    path: `${base}/{webhook}/deliveries/{delivery}/again`,
    summary: 'Sends an event again, now, whatever became of it.',
    permission: 'integration.manage',
    handle: async (request) => {
      const { kernel, site, params } = request
      const row = await requireWebhook(kernel, site, params['webhook']!)
      return request.write(async (transaction) => {
        const found = await transaction.all('select 1 from deliveries where id = ? and webhook = ?', [
          params['delivery']!,
          row.id,
        ])
        if (found.length === 0)
          throw new WisteriaError('notFound', `There is no delivery \`${params['delivery']!.slice(0, 60)}\`.`)
        await transaction.run("update deliveries set status = 'waiting', head = 1, next_at = ? where id = ?", [
          kernel.at,
          params['delivery']!,
        ])
        transaction.touch('deliveries')
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
      limit: z.coerce.number('must be a number').int().min(1).max(500).default(100),
    }),
    handle: async ({ kernel, site, query }) => {
      const rows = await kernel.database.all<EventRow>(
        'select * from events where site = ? and sequence > ? order by sequence limit ?',
        [site.id, query.after, query.limit],
      )
      const events = rows.map((row) =>
        toCloudEvent({ ...row, site: site.name, type: row.type as EventType, data: JSON.parse(row.data) as EventData }),
      )
      return { body: { events, sequence: site.sequence } }
    },
  }),
]
