import { Service, verifyWebhook, type Delivery, type Editor, type WisteriaProblem } from '@wisteria/client'
import { HTTP } from 'cloudevents'
import { Webhook as ReferenceWebhook } from 'standardwebhooks'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal, settings } from './support/models.js'
import { eventually, startReceiver, startSmall, type SmallSite } from './support/running.js'

const hour = 3_600_000

let small: SmallSite
let owner: Editor
let shift = 0
const stops: (() => Promise<void>)[] = []
const receive = async (...answer: Parameters<typeof startReceiver>) => {
  const receiver = await startReceiver(...answer)
  stops.push(receiver.stop)
  return receiver
}
type Body = Readonly<Record<string, unknown>> & {
  readonly type: string
  readonly data: { readonly events?: readonly Body[]; readonly fields?: readonly string[] }
}
const bodyOf = ({ body }: { body: string }): Body => JSON.parse(body) as Body
const bodies = (receiver: { received: readonly { body: string }[] }): Body[] => receiver.received.map(bodyOf)
const activity = async (title: string, more: object = {}) =>
  owner.create({
    type: 'activity',
    values: { title: { en: title }, slug: { en: title.toLowerCase().replaceAll(' ', '-') }, format: 'talk', ...more },
  })
const deliveriesOf = async (webhook: string): Promise<readonly Delivery[]> =>
  (await owner.webhooks.deliveries(webhook)).deliveries
const settled = (webhook: string) =>
  eventually(
    () => deliveriesOf(webhook),
    (all) => all.length > 0 && all.every(({ status }) => status === 'delivered'),
  )
const problemOf = (work: () => Promise<unknown>) => refusal<WisteriaProblem>(work)

beforeAll(async () => {
  small = await startSmall({ metrics: true }, () => Date.now() + shift)
  owner = small.owner
})
afterEach(async () => {
  for (const { id } of (await owner.webhooks.list()).webhooks) await owner.webhooks.remove(id)
  for (const stop of stops.splice(0)) await stop()
})
afterAll(() => small.service.end())

describe('a condition of a webhook', () => {
  it('sees the entry before and after a save, and what is public before and after a publish', async () => {
    const receiver = await receive()
    const hear = (label: string, events: string[], where: string) =>
      owner.webhooks.create({ label, address: `${receiver.address}?${label}`, events, where })
    const dearer = await hear('dearer', ['entry.saved'], 'after.price > before.price')
    const first = await hear('first', ['entry.published'], 'before.entry.state = "new" or before.title has no value')
    const renamed = await hear('renamed', ['entry.published'], 'before.title != after.title and entry.format = "talk"')
    const gone = await hear('gone', ['entry.withdrawn'], 'before.price >= 12 and after.price has no value')
    const { id } = await activity('Conditions', { price: 10 })
    await owner.edit(id, 1, [{ do: 'set', at: ['price'], value: 8 }])
    await owner.edit(id, 2, [{ do: 'set', at: ['price'], value: 12 }])
    await owner.publish(id)
    await owner.edit(id, 4, [{ do: 'set', at: ['title'], locale: 'en', value: 'Conditions, renamed' }])
    await owner.publish(id)
    await owner.withdraw(id)
    const typesOf = async ({ id }: { id: string }) => (await deliveriesOf(id)).map(({ type }) => type)
    expect(await typesOf(dearer)).toEqual(['entry.saved'])
    expect(await typesOf(first)).toEqual(['entry.published'])
    expect(await typesOf(renamed)).toEqual(['entry.published', 'entry.published'])
    expect(await typesOf(gone)).toEqual(['entry.withdrawn'])
  })

  it('is refused with its place, and told where a model no longer fits it', async () => {
    const address = 'https://site.example/hooks'
    const wrong = async (where: string) =>
      (await problemOf(() => owner.webhooks.create({ label: 'x', address, where }))).message
    expect(await wrong('title = "x"')).toMatch(/Did you mean `entry.title`\?.*column 1/)
    expect(await wrong('after.pric > 2')).toMatch(
      /`pric` is not a field of any type|`pric` is not a field of .*Did you mean `price`\?/,
    )
    expect(await wrong('after.museum.name = "x"')).toMatch(/leads to another entry/)
    expect(await wrong('after.price + 1')).toMatch(/Expected a condition/)
    expect((await problemOf(() => owner.webhooks.create({ label: 'x', address, where: ' ' }))).code).toBe('badRequest')
    const { id, where } = await owner.webhooks.create({ label: 'x', address, where: 'after.price > 2' })
    expect(where).toBe('after.price > 2')
    expect(await owner.webhooks.change(id, { where: null })).toMatchObject({ where: null, problem: null })
  })

  it('that a new model breaks is told of before, and lets everything through after', async () => {
    const receiver = await receive()
    const { address } = receiver
    const { id } = await owner.webhooks.create({
      label: 'Dear',
      address,
      events: ['entry.created'],
      where: 'entry.price > 90',
    })
    const before = (await owner.model()).version
    const cheaper = asFiles({ ...files, activity: files.activity.replace(/^ {2}price:.*\n/m, '') })
    const proposal = await owner.compareModel(cheaper)
    expect(proposal.consequences).toContainEqual({
      code: 'webhookBroken',
      weight: 'breaking',
      place: 'webhooks',
      message: expect.stringMatching(/^The condition of the webhook “Dear” would no longer fit, .*`price`/) as string,
    })
    await owner.adoptModel(proposal.id)
    try {
      expect((await owner.webhooks.list()).webhooks[0]!.problem).toMatch(/^The condition no longer fits the model/)
      await activity('Without a price')
      await receiver.until(1)
      expect((await owner.compareModel(cheaper)).consequences.map(({ code }) => code)).not.toContain('webhookBroken')
    } finally {
      await owner.adoptModel((await owner.compareModelVersion(before)).id)
    }
    await owner.webhooks.remove(id)
  })
})

describe('several events', () => {
  it('of one act arrive as one, in a body that names them all', async () => {
    const receiver = await receive()
    const { id: webhook, secret } = await owner.webhooks.create({
      label: 'Acts',
      address: receiver.address,
      merge: 'act',
    })
    const museum = await owner.create({ type: 'museum', values: { name: { en: 'Merged' } } })
    const [a, b] = [
      await activity('Merged one', { museum: museum.id }),
      await activity('Merged two', { museum: museum.id }),
    ]
    await owner.publish(museum.id)
    await receiver.until(1)
    await owner.publish(a.id, { together: [b.id] })
    await receiver.until(2)
    const [{ headers, body }] = receiver.received.slice(1) as [(typeof receiver.received)[number]]
    const event = (await verifyWebhook(secret, headers, body)) as unknown as Body & {
      data: { affected: { groups: string[] } }
    }
    expect(event.type).toBe('events.merged')
    expect(event.data.events!.map(({ type }) => type)).toEqual(['entry.published', 'entry.published'])
    expect(event.data.affected.groups).toEqual(expect.arrayContaining([`e.${a.id}`, `e.${b.id}`]))
    await settled(webhook)
    expect(receiver.received).toHaveLength(2)
  })

  it('of one entry that wait arrive as one, and saves that wait as their newest with all fields', async () => {
    let isOpen = false
    const receiver = await receive(() => (isOpen ? 204 : 503))
    const events = ['entry.created', 'entry.saved', 'entry.published']
    const merged = await owner.webhooks.create({
      label: 'Entries',
      address: `${receiver.address}?merged`,
      events,
      merge: 'entry',
    })
    const plain = await owner.webhooks.create({ label: 'Plain', address: `${receiver.address}?plain`, events })
    const { id } = await activity('Waiting')
    // The first of both queues has been tried, so that what follows waits behind it.
    await eventually(
      () => deliveriesOf(plain.id),
      ([first]) => (first?.attempts.length ?? 0) > 0,
    )
    await eventually(
      () => deliveriesOf(merged.id),
      ([first]) => (first?.attempts.length ?? 0) > 0,
    )
    await owner.edit(id, 1, [{ do: 'set', at: ['price'], value: 3 }])
    await owner.edit(id, 2, [{ do: 'set', at: ['day'], value: '2031-05-04' }])
    await owner.publish(id)
    const waiting = await deliveriesOf(merged.id)
    expect(waiting.map(({ events }) => events)).toEqual([3, 1])
    expect((await deliveriesOf(plain.id)).map(({ type, events }) => [type, events])).toEqual([
      ['entry.published', 1],
      ['entry.saved', 2],
      ['entry.created', 1],
    ])
    isOpen = true
    await settled(merged.id)
    await settled(plain.id)
    const accepted = (name: string) => receiver.received.filter(({ url }) => url.endsWith(name)).map(bodyOf)
    expect(
      accepted('merged')
        .at(-1)!
        .data.events!.map(({ type }) => type),
    ).toEqual(['entry.saved', 'entry.saved', 'entry.published'])
    const saved = accepted('plain').findLast(({ type }) => type === 'entry.saved')!
    expect(saved.data.fields).toEqual(['price', 'day'])
    expect(saved.data).toMatchObject({ version: 3 })
  })

  it('that join a delivery while it is sent are sent after it, and no event twice', async () => {
    const held: (() => void)[] = []
    const receiver = await receive((_, count) =>
      count === 1 ? new Promise((resolve) => held.push(() => resolve(204))) : 204,
    )
    const { id: webhook } = await owner.webhooks.create({
      label: 'Joining',
      address: receiver.address,
      events: ['entry.saved', 'entry.published'],
      merge: 'entry',
    })
    const { id } = await activity('Joined')
    await owner.edit(id, 1, [{ do: 'set', at: ['price'], value: 3 }])
    await eventually(
      () => held.length,
      (count) => count === 1,
    )
    await owner.edit(id, 2, [{ do: 'set', at: ['price'], value: 4 }])
    await owner.publish(id)
    held[0]!()
    await receiver.until(2)
    await settled(webhook)
    const sent = bodies(receiver).map(({ data }) => data.events!.map(({ type, id }) => [type, id] as const))
    expect(sent.map((events) => events.map(([type]) => type))).toEqual([
      ['entry.saved'],
      ['entry.saved', 'entry.published'],
    ])
    const ids = sent.flat().map(([, id]) => id)
    expect(new Set(ids).size).toBe(ids.length)
  })
})

describe('what is sent', () => {
  it('is read by the reference libraries of both standards, with each of several secrets', async () => {
    const receiver = await receive()
    const { id, secret } = await owner.webhooks.create({
      label: 'Standard',
      address: receiver.address,
      events: ['entry.created'],
    })
    const next = await owner.webhooks.addSecret(id)
    expect(next.secret).not.toBe(secret)
    expect(next.secrets.map(({ until }) => until === null)).toEqual([true, false])
    await activity('Standard')
    await receiver.until(1)
    const [{ headers, body }] = receiver.received as [(typeof receiver.received)[number]]
    for (const key of [secret, next.secret])
      expect(new ReferenceWebhook(key).verify(body, headers as Record<string, string>)).toMatchObject({
        type: 'entry.created',
      })
    const event = HTTP.toEvent({ headers, body })
    expect(event).toMatchObject({ specversion: '1.0', type: 'entry.created', source: '/sites/marram' })
    // The earlier one is ended; the newest cannot be.
    await owner.webhooks.endSecret(id, next.secrets[1]!.id)
    expect((await problemOf(() => owner.webhooks.endSecret(id, next.secrets[0]!.id))).code).toBe('conflict')
    expect((await problemOf(() => owner.webhooks.endSecret(id, 'nothing'))).code).toBe('notFound')
    await activity('Rotated')
    await receiver.until(2)
    const later = receiver.received[1]!
    expect(() => new ReferenceWebhook(secret).verify(later.body, later.headers as Record<string, string>)).toThrow()
    expect(new ReferenceWebhook(next.secret).verify(later.body, later.headers as Record<string, string>)).toBeTruthy()
  })

  it('stops being signed with an earlier secret when its time is over', async () => {
    const receiver = await receive()
    const { id, secret } = await owner.webhooks.create({
      label: 'Old key',
      address: receiver.address,
      events: ['entry.created'],
    })
    await owner.webhooks.addSecret(id, 2)
    try {
      shift += 3 * hour
      await activity('Much later')
      await receiver.until(1)
      const { headers } = receiver.received[0]!
      expect(String(headers['webhook-signature']).split(' ')).toHaveLength(1)
      expect((await owner.webhooks.list()).webhooks[0]!.secrets).toHaveLength(1)
      expect(secret).toMatch(/^whsec_/)
    } finally {
      shift -= 3 * hour
    }
  })

  it('has further headers, whose values are shown to nobody', async () => {
    const receiver = await receive()
    const headers = { Authorization: 'Bearer of-the-front-end', 'X-Museum': 'boatyard' }
    const made = await owner.webhooks.create({
      label: 'Headers',
      address: receiver.address,
      events: ['entry.created'],
      headers,
    })
    expect(made.headers).toEqual(['authorization', 'x-museum'])
    await activity('With headers')
    await receiver.until(1)
    expect(receiver.received[0]!.headers).toMatchObject({
      authorization: 'Bearer of-the-front-end',
      'x-museum': 'boatyard',
    })
    const [{ id: delivery }] = (await settled(made.id)) as [Delivery]
    const full = await owner.webhooks.delivery(made.id, delivery)
    expect(full.attempts[0]).toMatchObject({
      status: 204,
      headers: { authorization: '(hidden)', 'x-museum': '(hidden)', 'webhook-id': full.event },
      body: bodyOf(receiver.received[0]!),
    })
    expect(JSON.stringify([full, await owner.webhooks.list(), made])).not.toContain('of-the-front-end')
    expect((await owner.webhooks.change(made.id, { headers: { authorization: null, 'x-hall': 'b' } })).headers).toEqual(
      ['x-museum', 'x-hall'],
    )
    const wrong = async (headers: Record<string, string>) =>
      (await problemOf(() => owner.webhooks.change(made.id, { headers }))).problems[0]
    expect(await wrong({ 'bad name': 'x' })).toMatchObject({ pointer: '/headers/bad name' })
    expect(await wrong({ Host: 'x' })).toMatchObject({ code: 'badHeader' })
    expect(await wrong({ 'webhook-signature': 'x' })).toMatchObject({ code: 'badHeader' })
    expect(await wrong({ good: 'a\r\nb: c' })).toMatchObject({ code: 'badHeader' })
    expect(await wrong(Object.fromEntries(Array.from({ length: 21 }, (_, n) => [`h${n}`, 'x'])))).toMatchObject({
      code: 'badHeader',
    })
  })

  it('is previewed and tried before anything happens', async () => {
    const receiver = await receive(({ headers }) => (headers['webhook-id']?.toString().startsWith('test-') ? 202 : 204))
    const preview = await owner.webhooks.preview({ events: ['translation.orderEnded'] })
    expect(preview).toMatchObject({ real: false, body: { type: 'translation.orderEnded', test: true } })
    const { id: entry } = await activity('Sampled')
    await owner.publish(entry)
    expect(await owner.webhooks.preview()).toMatchObject({
      real: true,
      body: { subject: `entries/${entry}`, test: true },
    })
    expect(await owner.webhooks.preview({ merge: 'act' })).toMatchObject({ body: { type: 'events.merged' } })
    expect((await problemOf(() => owner.webhooks.preview({ events: ['entry.publishd'] }))).message).toMatch(
      /Did you mean/,
    )
    expect((await problemOf(() => owner.webhooks.preview({ where: 'x' }))).code).toBe('badCondition')
    const { id, secret } = await owner.webhooks.create({ label: 'Tried', address: receiver.address })
    const outcome = await owner.webhooks.test(id)
    expect(outcome).toMatchObject({ status: 202, answer: 'answered', error: null })
    await verifyWebhook(secret, receiver.received[0]!.headers, receiver.received[0]!.body)
    expect(await deliveriesOf(id)).toEqual([])
    await receiver.stop()
    expect(await owner.webhooks.test(id)).toMatchObject({ status: null })
  })

  it('is sent again for a span of time: all of it, or what was missed, in order', async () => {
    let status = 204
    const receiver = await receive(() => status)
    const from = new Date(Date.now() + shift).toISOString()
    const { id } = await owner.webhooks.create({
      label: 'Span',
      address: receiver.address,
      events: ['entry.created', 'entry.saved'],
    })
    const { id: entry } = await activity('Span one')
    await settled(id)
    await owner.webhooks.change(id, { enabled: false })
    await owner.edit(entry, 1, [{ do: 'set', at: ['price'], value: 1 }])
    await activity('Span two')
    await owner.webhooks.change(id, { enabled: true })
    expect(receiver.received).toHaveLength(1)
    expect(await owner.webhooks.resendSpan(id, { from, onlyMissed: true })).toEqual({ resent: 2 })
    await receiver.until(3)
    await settled(id)
    expect(await owner.webhooks.resendSpan(id, { from })).toEqual({ resent: 3 })
    await receiver.until(6)
    await settled(id)
    const ofEntry = bodies(receiver).filter(({ subject }) => subject === `entries/${entry}`)
    expect(ofEntry.map(({ type }) => type)).toEqual(['entry.created', 'entry.saved', 'entry.created', 'entry.saved'])
    expect(new Set(ofEntry.map(({ id }) => id)).size).toBe(2)
    status = 500
    const to = new Date(Date.parse(from) - 1000).toISOString()
    expect(
      await owner.webhooks.resendSpan(id, { from: new Date(0).toISOString(), to: new Date(1).toISOString() }),
    ).toEqual({ resent: 0 })
    expect((await problemOf(() => owner.webhooks.resendSpan(id, { from, to }))).message).toMatch(
      /ends before it begins/,
    )
  })
})

describe('an address that fails', () => {
  it('is given up event by event, and later ones say how many were missed', async () => {
    let refuses = true
    const receiver = await receive(() => (refuses ? 410 : 204))
    const { id: webhook } = await owner.webhooks.create({
      label: 'Missed',
      address: receiver.address,
      events: ['entry.created', 'entry.saved'],
    })
    // Another entry is accepted, so the webhook as a whole does not pause.
    const { id } = await activity('Missed')
    await receiver.until(1)
    const start = shift
    try {
      shift = start + 73 * hour
      await eventually(
        () => deliveriesOf(webhook),
        ([first]) => first?.status === 'failed',
      )
      refuses = false
      await owner.webhooks.change(webhook, { paused: false })
      await owner.edit(id, 1, [{ do: 'set', at: ['price'], value: 1 }])
      await settledBut(webhook)
      expect(bodies(receiver).at(-1)).toMatchObject({ type: 'entry.saved', missed: 1 })
      await owner.edit(id, 2, [{ do: 'set', at: ['price'], value: 2 }])
      await eventually(
        () => receiver.received.length,
        () => bodies(receiver).filter(({ type }) => type === 'entry.saved').length === 2,
      )
      expect(bodies(receiver).at(-1)).not.toHaveProperty('missed')
      expect((await owner.webhooks.list()).webhooks[0]).toMatchObject({ failed: 1 })
    } finally {
      shift = start
    }
  })

  it('pauses after a day with an event and its backlog, keeps what happens, and sends it once it is resumed', async () => {
    let status = 500
    const receiver = await receive(() => status)
    const { id } = await owner.webhooks.create({ label: 'Down', address: receiver.address, events: ['entry.created'] })
    await activity('Before the pause')
    await eventually(
      async () => (await owner.webhooks.list()).webhooks[0]!,
      ({ failingSince }) => failingSince !== null,
    )
    const start = shift
    try {
      shift = start + 25 * hour
      const paused = await eventually(
        async () => (await owner.webhooks.list()).webhooks[0]!,
        ({ pausedAt }) => pausedAt !== null,
      )
      expect(paused.failingSince).not.toBeNull()
      const { events } = await owner.events((await owner.events(0, 1)).sequence - 1, 10)
      expect(events.at(-1)).toMatchObject({
        type: 'webhook.paused',
        subject: `webhooks/${id}`,
        data: { webhook: { id, label: 'Down' } },
      })
      const tries = receiver.received.length
      await activity('During the pause')
      expect(await deliveriesOf(id)).toHaveLength(2)
      status = 204
      expect(receiver.received).toHaveLength(tries)
      expect(await owner.webhooks.list()).toMatchObject({ webhooks: [{ waiting: 2, enabled: true }] })
      const metrics = await (await fetch(`${small.service.baseUrl}/metrics`)).text()
      const gauge = (name: string) =>
        Number(
          new RegExp(`^wisteria_webhook_${name}\\{site="marram",webhook="${id}"\\} (\\S+)$`, 'm').exec(metrics)?.[1],
        )
      expect(gauge('deliveries_waiting')).toBe(2)
      expect(gauge('deliveries_failed')).toBe(0)
      expect(gauge('lag_seconds')).toBeGreaterThanOrEqual(24 * 3600)
      expect(await owner.webhooks.change(id, { paused: false })).toMatchObject({ pausedAt: null, failingSince: null })
      await settled(id)
      expect((await owner.webhooks.list()).webhooks[0]).toMatchObject({ waiting: 0, oldest: null, failingSince: null })
    } finally {
      shift = start
    }
  })

  it('does not hold up another, however many there are', async () => {
    const hung = await Promise.all(
      Array.from({ length: 20 }, () => receive(() => new Promise<number>(() => undefined))),
    )
    for (const [index, { address }] of hung.entries())
      await owner.webhooks.create({ label: `Hung ${index}`, address, events: ['entry.created'] })
    const receiver = await receive()
    await owner.webhooks.create({ label: 'Good', address: receiver.address, events: ['entry.created'] })
    for (let number = 0; number < 8; number++) await activity(`Held up ${number}`)
    await receiver.until(8)
    expect(hung.every(({ received }) => received.length <= 4)).toBe(true)
  })
})

/** Waits until nothing of a webhook waits: what was given up stays so. */
const settledBut = (webhook: string) =>
  eventually(
    () => deliveriesOf(webhook),
    (all) => all.every(({ status }) => status !== 'waiting'),
  )

describe('two sites', () => {
  it('hear only their own events, and see only their own webhooks', async () => {
    const receiver = await receive()
    const { id } = await owner.webhooks.create({ label: 'Mine', address: receiver.address, events: ['entry.created'] })
    const service = new Service({ baseUrl: small.service.baseUrl, token: small.token })
    await service.createSite({ name: 'second', ...settings })
    const other = service.site('second')
    await other.adoptModel((await other.compareModel(asFiles(files))).id)
    await other.create({ type: 'museum', values: { name: { en: 'Elsewhere' } } })
    expect((await problemOf(() => other.webhooks.test(id))).code).toBe('notFound')
    expect((await problemOf(() => other.webhooks.resendSpan(id, { from: new Date(0).toISOString() }))).code).toBe(
      'notFound',
    )
    expect((await other.webhooks.list()).webhooks).toEqual([])
    await activity('Here')
    await settled(id)
    expect(receiver.received.map((received) => bodyOf(received)['source'])).toEqual(['/sites/marram'])
  })
})
