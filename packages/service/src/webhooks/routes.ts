import { makeId, merges, toCloudEvent, WisteriaError } from '@wisteria/core'
import {
  Act,
  changeWebhook,
  deleteWebhook,
  deliveriesOf,
  deliveryOf,
  eventsAfter,
  insertWebhook,
  resendDelivery,
  resendSpan,
  webhookOnSite,
  webhooksOf,
  type Reader,
  type Site,
  type Webhook,
} from '@wisteria/store'
import { z } from 'zod'
import { makeWebhookSecret } from '../outgoing/signing.js'
import { route, type Route } from '../kernel/route.js'
import {
  address,
  changedHeaders,
  events,
  headers,
  label,
  requireAddress,
  requireCondition,
  requireEvents,
  where,
} from './inputs.js'
import { sampleBody } from './samples.js'
import { sendBody, validSecrets } from './sending.js'
import { backlogView, bodySent, deliveryView, secretId, webhookView } from './views.js'

const base = '/edit/v1/sites/{site}/webhooks'

/** The most secrets that a webhook has at once. */
const mostSecrets = 3
/** The most events of a span that one request sends again. */
const spanAtOnce = 5000

const merge = z
  .enum(merges)
  .describe(
    '`none`: each event by itself. `entry`: those of an entry that wait together as one. `act`: those of one act as one.',
  )
const whereSaid =
  'A condition over the entry that an event is about: `before`, `after`, `entry`. Other events are not asked.'

async function requireWebhook(reader: Reader, site: Site, id: string): Promise<Webhook> {
  const webhook = await webhookOnSite(reader, site.id, id)
  if (!webhook) throw new WisteriaError('notFound', `There is no webhook \`${id.slice(0, 60)}\`.`)
  return webhook
}

const noDelivery = (id: string): WisteriaError =>
  new WisteriaError('notFound', `There is no delivery \`${id.slice(0, 60)}\`.`)

export const webhookRoutes: readonly Route[] = [
  route({
    method: 'GET',
    path: base,
    summary: 'The webhooks of a site, how many events wait for each, and since when the oldest does.',
    permission: 'integration.manage',
    handle: async ({ kernel, site }) => ({
      body: {
        webhooks: (await webhooksOf(kernel.database, site.id)).map((webhook) => ({
          ...webhookView(webhook, site.model, kernel.at),
          ...backlogView(webhook),
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
      address,
      events: events.optional(),
      where: where.optional().describe(whereSaid),
      merge: merge.optional(),
      headers: z
        .record(z.string(), z.string())
        .optional()
        .describe('Further headers. Their values are never shown again.'),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, body, site } = request
        requireAddress(kernel, body.address)
        requireEvents(body.events ?? [])
        requireCondition(body.where, site.model)
        const secret = makeWebhookSecret(kernel.environment.random)
        const webhook: Webhook = {
          id: makeId(kernel.environment),
          site: site.id,
          label: body.label,
          address: body.address,
          secrets: [{ secret, createdAt: kernel.at, until: null }],
          headers: changedHeaders({}, body.headers ?? {}),
          events: [...new Set(body.events)],
          condition: body.where ?? null,
          merge: body.merge ?? 'none',
          isEnabled: true,
          failingSince: null,
          pausedAt: null,
          createdAt: kernel.at,
          createdBy: request.actor,
        }
        await insertWebhook(transaction, webhook)
        return { status: 201, body: { ...webhookView(webhook, site.model, kernel.at), secret } }
      }),
  }),
  route({
    method: 'POST',
    path: `${base}/preview`,
    summary: 'What a webhook with these events would get: the newest event of them, or a made-up one. Nothing is sent.',
    permission: 'integration.manage',
    insteadOfDryRun: 'It changes nothing.',
    body: z.strictObject({
      events: events.optional(),
      where: where.optional().describe(whereSaid),
      merge: merge.optional(),
    }),
    handle: async ({ kernel, site, body }) => {
      requireEvents(body.events ?? [])
      requireCondition(body.where, site.model)
      const sample = await sampleBody(kernel, site, body.events ?? [], body.merge ?? 'none')
      return { body: { body: sample.body, real: sample.isReal } }
    },
  }),
  route({
    method: 'PATCH',
    path: `${base}/{webhook}`,
    summary:
      'Changes a webhook, switches it off and on, or resumes it where it is paused. What waits for it goes to the new address; while it is off, nothing is sent and nothing is added; while it is paused, events wait.',
    permission: 'integration.manage',
    body: z.strictObject({
      label: label.optional(),
      address: address.optional(),
      events: events.nullable().optional().describe('null: every event that changes what published readers see.'),
      where: where.nullable().optional().describe(whereSaid),
      merge: merge.optional(),
      headers: headers.optional().describe('Those to set; null removes one. Others stay.'),
      enabled: z.boolean().optional(),
      paused: z.literal(false).optional().describe('false: sends again, at once.'),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, body, params, site } = request
        const before = await requireWebhook(transaction, site, params['webhook']!)
        if (body.address !== undefined) requireAddress(kernel, body.address)
        requireEvents(body.events ?? [])
        requireCondition(body.where, site.model)
        const resumes = body.paused === false && before.pausedAt !== null
        const webhook: Webhook = {
          ...before,
          label: body.label ?? before.label,
          address: body.address ?? before.address,
          events: body.events === undefined ? before.events : [...new Set(body.events)],
          condition: body.where === undefined ? before.condition : body.where,
          merge: body.merge ?? before.merge,
          headers: changedHeaders(before.headers, body.headers ?? {}),
          isEnabled: body.enabled ?? before.isEnabled,
          ...(resumes ? { pausedAt: null, failingSince: null } : {}),
        }
        await changeWebhook(transaction, webhook)
        if (resumes) {
          const act = new Act(transaction, site, request.actor, kernel.environment)
          await act.tell('webhook.resumed', { webhook: { id: webhook.id, label: webhook.label } })
        }
        return { body: webhookView(webhook, site.model, kernel.at) }
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
    method: 'POST',
    path: `${base}/{webhook}/secrets`,
    summary:
      'Adds a signing secret, which only this answer contains. Deliveries are signed with the earlier ones too, until they end.',
    permission: 'integration.manage',
    body: z.strictObject({
      keepHours: z.number().int().min(0).max(720).default(24).describe('How long earlier secrets stay valid.'),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, site, params, body } = request
        const before = await requireWebhook(transaction, site, params['webhook']!)
        const until = new Date(kernel.now + body.keepHours * 3_600_000).toISOString()
        const earlier = validSecrets(before.secrets, kernel.at).map((secret) => ({
          ...secret,
          until: secret.until !== null && secret.until < until ? secret.until : until,
        }))
        if (earlier.length >= mostSecrets)
          throw new WisteriaError('conflict', `A webhook has at most ${mostSecrets} secrets at once: end one first.`)
        const secret = makeWebhookSecret(kernel.environment.random)
        const webhook = { ...before, secrets: [{ secret, createdAt: kernel.at, until: null }, ...earlier] }
        await changeWebhook(transaction, webhook)
        return { status: 201, body: { ...webhookView(webhook, site.model, kernel.at), secret } }
      }),
  }),
  route({
    method: 'DELETE',
    path: `${base}/{webhook}/secrets/{secret}`,
    summary: 'Ends an earlier secret now. The newest one cannot be ended: add another first.',
    permission: 'integration.manage',
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, site, params } = request
        const before = await requireWebhook(transaction, site, params['webhook']!)
        const id = params['secret']!
        const ended = validSecrets(before.secrets, kernel.at).find(({ secret }) => secretId(secret) === id)
        if (!ended) throw new WisteriaError('notFound', `The webhook has no secret \`${id.slice(0, 60)}\`.`)
        if (ended.until === null)
          throw new WisteriaError('conflict', 'This is the newest secret, which deliveries need. Add another first.')
        const secrets = before.secrets.filter(({ secret }) => secret !== ended.secret)
        await changeWebhook(transaction, { ...before, secrets })
        return { status: 204 }
      }),
  }),
  route({
    method: 'POST',
    path: `${base}/{webhook}/test`,
    summary:
      'Sends a sample now, signed as deliveries are, and answers with the result. Its body says `test`. It is not kept, and not sent again.',
    permission: 'integration.manage',
    insteadOfDryRun: 'It changes nothing. `POST …/webhooks/preview` shows the body without sending it.',
    handle: async ({ kernel, site, params }) => {
      const webhook = await requireWebhook(kernel.database, site, params['webhook']!)
      const { body } = await sampleBody(kernel, site, webhook.events, webhook.merge)
      return { body: { body, at: kernel.at, ...(await sendBody(kernel, webhook, body)) } }
    },
  }),
  route({
    method: 'GET',
    path: `${base}/{webhook}/deliveries`,
    summary:
      'The deliveries of a webhook, newest first, with every attempt: when, status, time taken, the beginning of the answer.',
    permission: 'integration.manage',
    query: z.object({
      status: z.enum(['waiting', 'delivered', 'failed']).optional(),
      before: z.coerce.number('must be a number').int().min(1).optional().describe('The `next` of an earlier answer.'),
      first: z.coerce.number('must be a number').int().min(1).max(500).default(100),
    }),
    handle: async ({ kernel, site, params, query }) => {
      const { id } = await requireWebhook(kernel.database, site, params['webhook']!)
      const { first, ...filter } = query
      const deliveries = await deliveriesOf(kernel.database, id, filter, first + 1)
      const shown = deliveries.slice(0, first)
      const next = deliveries.length > first ? shown.at(-1)!.sequence : null
      return { body: { deliveries: shown.map(deliveryView), next } }
    },
  }),
  route({
    method: 'GET',
    path: `${base}/{webhook}/deliveries/{delivery}`,
    summary: 'One delivery, with what each attempt sent: headers and body.',
    permission: 'integration.manage',
    handle: async ({ kernel, site, params }) => {
      const { database } = kernel
      const webhook = await requireWebhook(database, site, params['webhook']!)
      const delivery = await deliveryOf(database, webhook.id, params['delivery']!)
      if (!delivery) throw noDelivery(params['delivery']!)
      const { attempts, site: _, sequences, ...shown } = delivery
      const bodies = await Promise.all(attempts.map(({ id }) => bodySent(database, webhook, id)))
      return {
        body: {
          ...deliveryView({ ...shown, attempts: [] }),
          sequences,
          attempts: attempts.map((attempt, index) => ({ ...attempt, body: bodies[index] })),
        },
      }
    },
  }),
  route({
    method: 'POST',
    path: `${base}/{webhook}/deliveries/{delivery}/resend`,
    summary: 'Sends a delivery again, now, whether it was accepted or not.',
    permission: 'integration.manage',
    handle: async (request) => {
      const { kernel, site, params } = request
      const { id } = await requireWebhook(kernel.database, site, params['webhook']!)
      return request.write(async (transaction) => {
        if (!(await resendDelivery(transaction, id, params['delivery']!, kernel.at)))
          throw noDelivery(params['delivery']!)
        return { status: 202, body: { id: params['delivery'] } }
      })
    },
  }),
  route({
    method: 'POST',
    path: `${base}/{webhook}/resend`,
    summary: `Sends the events of a span of time again, in their order; also those that the webhook never got because it was off or not there. At most ${spanAtOnce} events at once: \`next\` says where to go on.`,
    permission: 'integration.manage',
    body: z.strictObject({
      from: z.iso.datetime({ offset: true }),
      to: z.iso.datetime({ offset: true }).optional().describe('Now, when left out.'),
      onlyMissed: z.boolean().default(false).describe('Leaves out what was accepted.'),
      after: z.number().int().min(0).default(0).describe('The `next` of the answer before.'),
    }),
    handle: (request) =>
      request.write(async (transaction) => {
        const { kernel, site, params, body } = request
        const webhook = await requireWebhook(transaction, site, params['webhook']!)
        const [from, to] = [body.from, body.to ?? kernel.at].map((text) => new Date(text).toISOString())
        if (from! > to!) throw new WisteriaError('invalid', 'The span ends before it begins: `to` is before `from`.')
        const { onlyMissed, after } = body
        const span = { from: from!, to: to!, onlyMissed, after }
        const { resent, next } = await resendSpan(transaction, webhook, span, spanAtOnce, kernel.environment)
        return { status: 202, body: { resent, next: next ?? null } }
      }),
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
