import { Service, verifyWebhook, type Delivery } from '@wisteria/client'
import { HTTP } from 'cloudevents'
import { Webhook as ReferenceWebhook } from 'standardwebhooks'
import { describe, expect, it } from 'vitest'
import { asFiles, files, settings } from './support/models.js'
import { eventually } from './support/running.js'
import { bodies, bodyOf, hour, problemOf, useWebhookSite } from './support/webhooks.js'

const world = useWebhookSite()

describe('what is sent', () => {
  it('is read by the reference libraries of both standards, with each of several secrets', async () => {
    const receiver = await world.receive()
    const { id, secret } = await world.owner.webhooks.create({
      label: 'Standard',
      address: receiver.address,
      events: ['entry.created'],
    })
    const next = await world.owner.webhooks.addSecret(id)
    expect(next.secret).not.toBe(secret)
    expect(next.secrets.map(({ until }) => until === null)).toEqual([true, false])
    await world.activity('Standard')
    await receiver.until(1)
    const [{ headers, body }] = receiver.received as [(typeof receiver.received)[number]]
    for (const key of [secret, next.secret])
      expect(new ReferenceWebhook(key).verify(body, headers as Record<string, string>)).toMatchObject({
        type: 'entry.created',
      })
    const event = HTTP.toEvent({ headers, body })
    expect(event).toMatchObject({ specversion: '1.0', type: 'entry.created', source: '/sites/marram' })
    // The earlier one is ended; the newest cannot be.
    await world.owner.webhooks.endSecret(id, next.secrets[1]!.id)
    expect((await problemOf(() => world.owner.webhooks.endSecret(id, next.secrets[0]!.id))).code).toBe('conflict')
    expect((await problemOf(() => world.owner.webhooks.endSecret(id, 'nothing'))).code).toBe('notFound')
    await world.activity('Rotated')
    await receiver.until(2)
    const later = receiver.received[1]!
    expect(() => new ReferenceWebhook(secret).verify(later.body, later.headers as Record<string, string>)).toThrow()
    expect(new ReferenceWebhook(next.secret).verify(later.body, later.headers as Record<string, string>)).toBeTruthy()
  })

  it('stops being signed with an earlier secret when its time is over', async () => {
    const receiver = await world.receive()
    const { id, secret } = await world.owner.webhooks.create({
      label: 'Old key',
      address: receiver.address,
      events: ['entry.created'],
    })
    await world.owner.webhooks.addSecret(id, 2)
    try {
      world.shift += 3 * hour
      await world.activity('Much later')
      await receiver.until(1)
      const { headers } = receiver.received[0]!
      expect(String(headers['webhook-signature']).split(' ')).toHaveLength(1)
      expect((await world.owner.webhooks.list()).webhooks[0]!.secrets).toHaveLength(1)
      expect(secret).toMatch(/^whsec_/)
    } finally {
      world.shift -= 3 * hour
    }
  })

  it('has further headers, whose values are shown to nobody', async () => {
    const receiver = await world.receive()
    const headers = { Authorization: 'Bearer of-the-front-end', 'X-Museum': 'boatyard' }
    const made = await world.owner.webhooks.create({
      label: 'Headers',
      address: receiver.address,
      events: ['entry.created'],
      headers,
    })
    expect(made.headers).toEqual(['authorization', 'x-museum'])
    await world.activity('With headers')
    await receiver.until(1)
    expect(receiver.received[0]!.headers).toMatchObject({
      authorization: 'Bearer of-the-front-end',
      'x-museum': 'boatyard',
    })
    const [{ id: delivery }] = (await world.settled(made.id)) as [Delivery]
    const full = await world.owner.webhooks.delivery(made.id, delivery)
    expect(full.attempts[0]).toMatchObject({
      status: 204,
      headers: { authorization: '(hidden)', 'x-museum': '(hidden)', 'webhook-id': full.event },
      body: bodyOf(receiver.received[0]!),
    })
    expect(JSON.stringify([full, await world.owner.webhooks.list(), made])).not.toContain('of-the-front-end')
    expect(
      (await world.owner.webhooks.change(made.id, { headers: { authorization: null, 'x-hall': 'b' } })).headers,
    ).toEqual(['x-museum', 'x-hall'])
    const wrong = async (headers: Record<string, string>) =>
      (await problemOf(() => world.owner.webhooks.change(made.id, { headers }))).problems[0]
    expect(await wrong({ 'bad name': 'x' })).toMatchObject({ pointer: '/headers/bad name' })
    expect(await wrong({ Host: 'x' })).toMatchObject({ code: 'badHeader' })
    expect(await wrong({ 'webhook-signature': 'x' })).toMatchObject({ code: 'badHeader' })
    expect(await wrong({ good: 'a\r\nb: c' })).toMatchObject({ code: 'badHeader' })
    expect(await wrong(Object.fromEntries(Array.from({ length: 21 }, (_, n) => [`h${n}`, 'x'])))).toMatchObject({
      code: 'badHeader',
    })
  })

  it('is previewed and tried before anything happens', async () => {
    const receiver = await world.receive(({ headers }) =>
      headers['webhook-id']?.toString().startsWith('test-') ? 202 : 204,
    )
    const preview = await world.owner.webhooks.preview({ events: ['translation.orderEnded'] })
    expect(preview).toMatchObject({ real: false, body: { type: 'translation.orderEnded', test: true } })
    const { id: entry } = await world.activity('Sampled')
    await world.owner.publish(entry)
    expect(await world.owner.webhooks.preview()).toMatchObject({
      real: true,
      body: { subject: `entries/${entry}`, test: true },
    })
    expect(await world.owner.webhooks.preview({ merge: 'act' })).toMatchObject({ body: { type: 'events.merged' } })
    expect((await problemOf(() => world.owner.webhooks.preview({ events: ['entry.publishd'] }))).message).toMatch(
      /Did you mean/,
    )
    expect((await problemOf(() => world.owner.webhooks.preview({ where: 'x' }))).code).toBe('badCondition')
    const { id, secret } = await world.owner.webhooks.create({ label: 'Tried', address: receiver.address })
    const outcome = await world.owner.webhooks.test(id)
    expect(outcome).toMatchObject({ status: 202, answer: 'answered', error: null })
    await verifyWebhook(secret, receiver.received[0]!.headers, receiver.received[0]!.body)
    expect(await world.deliveriesOf(id)).toEqual([])
    await receiver.stop()
    expect(await world.owner.webhooks.test(id)).toMatchObject({ status: null })
  })

  it('is sent again for a span of time: all of it, or what was missed, in order', async () => {
    let status = 204
    const receiver = await world.receive(() => status)
    const from = new Date(Date.now() + world.shift).toISOString()
    const { id } = await world.owner.webhooks.create({
      label: 'Span',
      address: receiver.address,
      events: ['entry.created', 'entry.saved'],
    })
    const { id: entry } = await world.activity('Span one')
    await world.settled(id)
    await world.owner.webhooks.change(id, { enabled: false })
    await world.owner.edit(entry, 1, [{ do: 'set', at: ['price'], value: 1 }])
    await world.activity('Span two')
    await world.owner.webhooks.change(id, { enabled: true })
    expect(receiver.received).toHaveLength(1)
    expect(await world.owner.webhooks.resendSpan(id, { from, onlyMissed: true })).toEqual({ resent: 2 })
    await receiver.until(3)
    await world.settled(id)
    expect(await world.owner.webhooks.resendSpan(id, { from })).toEqual({ resent: 3 })
    await receiver.until(6)
    await world.settled(id)
    const ofEntry = bodies(receiver).filter(({ subject }) => subject === `entries/${entry}`)
    expect(ofEntry.map(({ type }) => type)).toEqual(['entry.created', 'entry.saved', 'entry.created', 'entry.saved'])
    expect(new Set(ofEntry.map(({ id }) => id)).size).toBe(2)
    status = 500
    const to = new Date(Date.parse(from) - 1000).toISOString()
    expect(
      await world.owner.webhooks.resendSpan(id, { from: new Date(0).toISOString(), to: new Date(1).toISOString() }),
    ).toEqual({ resent: 0 })
    expect((await problemOf(() => world.owner.webhooks.resendSpan(id, { from, to }))).message).toMatch(
      /ends before it begins/,
    )
  })
})

describe('an address that fails', () => {
  it('is given up event by event, and later ones say how many were missed', async () => {
    let refuses = true
    const receiver = await world.receive(() => (refuses ? 410 : 204))
    const { id: webhook } = await world.owner.webhooks.create({
      label: 'Missed',
      address: receiver.address,
      events: ['entry.created', 'entry.saved'],
    })
    // Another entry is accepted, so the webhook as a whole does not pause.
    const { id } = await world.activity('Missed')
    await receiver.until(1)
    const start = world.shift
    try {
      world.shift = start + 73 * hour
      await eventually(
        () => world.deliveriesOf(webhook),
        ([first]) => first?.status === 'failed',
      )
      refuses = false
      await world.owner.webhooks.change(webhook, { paused: false })
      await world.owner.edit(id, 1, [{ do: 'set', at: ['price'], value: 1 }])
      await world.settledBut(webhook)
      expect(bodies(receiver).at(-1)).toMatchObject({ type: 'entry.saved', missed: 1 })
      await world.owner.edit(id, 2, [{ do: 'set', at: ['price'], value: 2 }])
      await eventually(
        () => receiver.received.length,
        () => bodies(receiver).filter(({ type }) => type === 'entry.saved').length === 2,
      )
      expect(bodies(receiver).at(-1)).not.toHaveProperty('missed')
      expect((await world.owner.webhooks.list()).webhooks[0]).toMatchObject({ failed: 1 })
    } finally {
      world.shift = start
    }
  })

  it('pauses after a day with an event and its backlog, keeps what happens, and sends it once it is resumed', async () => {
    let status = 500
    const receiver = await world.receive(() => status)
    const { id } = await world.owner.webhooks.create({
      label: 'Down',
      address: receiver.address,
      events: ['entry.created'],
    })
    await world.activity('Before the pause')
    await eventually(
      async () => (await world.owner.webhooks.list()).webhooks[0]!,
      ({ failingSince }) => failingSince !== null,
    )
    const start = world.shift
    try {
      world.shift = start + 25 * hour
      const paused = await eventually(
        async () => (await world.owner.webhooks.list()).webhooks[0]!,
        ({ pausedAt }) => pausedAt !== null,
      )
      expect(paused.failingSince).not.toBeNull()
      const { events } = await world.owner.events((await world.owner.events(0, 1)).sequence - 1, 10)
      expect(events.at(-1)).toMatchObject({
        type: 'webhook.paused',
        subject: `webhooks/${id}`,
        data: { webhook: { id, label: 'Down' } },
      })
      const tries = receiver.received.length
      await world.activity('During the pause')
      expect(await world.deliveriesOf(id)).toHaveLength(2)
      status = 204
      expect(receiver.received).toHaveLength(tries)
      expect(await world.owner.webhooks.list()).toMatchObject({ webhooks: [{ waiting: 2, enabled: true }] })
      const metrics = await (await fetch(`${world.small.service.baseUrl}/metrics`)).text()
      const gauge = (name: string) =>
        Number(
          new RegExp(`^wisteria_webhook_${name}\\{site="marram",webhook="${id}"\\} (\\S+)$`, 'm').exec(metrics)?.[1],
        )
      expect(gauge('deliveries_waiting')).toBe(2)
      expect(gauge('deliveries_failed')).toBe(0)
      expect(gauge('lag_seconds')).toBeGreaterThanOrEqual(24 * 3600)
      expect(await world.owner.webhooks.change(id, { paused: false })).toMatchObject({
        pausedAt: null,
        failingSince: null,
      })
      await world.settled(id)
      expect((await world.owner.webhooks.list()).webhooks[0]).toMatchObject({
        waiting: 0,
        oldest: null,
        failingSince: null,
      })
    } finally {
      world.shift = start
    }
  })

  it('does not hold up another, however many there are', async () => {
    const hung = await Promise.all(
      Array.from({ length: 20 }, () => world.receive(() => new Promise<number>(() => undefined))),
    )
    for (const [index, { address }] of hung.entries())
      await world.owner.webhooks.create({ label: `Hung ${index}`, address, events: ['entry.created'] })
    const receiver = await world.receive()
    await world.owner.webhooks.create({ label: 'Good', address: receiver.address, events: ['entry.created'] })
    for (let number = 0; number < 8; number++) await world.activity(`Held up ${number}`)
    await receiver.until(8)
    expect(hung.every(({ received }) => received.length <= 4)).toBe(true)
  })
})

describe('two sites', () => {
  it('hear only their own events, and see only their own webhooks', async () => {
    const receiver = await world.receive()
    const { id } = await world.owner.webhooks.create({
      label: 'Mine',
      address: receiver.address,
      events: ['entry.created'],
    })
    const service = new Service({ baseUrl: world.small.service.baseUrl, token: world.small.token })
    await service.createSite({ name: 'second', ...settings })
    const other = service.site('second')
    await other.adoptModel((await other.compareModel(asFiles(files))).id)
    await other.create({ type: 'museum', values: { name: { en: 'Elsewhere' } } })
    expect((await problemOf(() => other.webhooks.test(id))).code).toBe('notFound')
    expect((await problemOf(() => other.webhooks.resendSpan(id, { from: new Date(0).toISOString() }))).code).toBe(
      'notFound',
    )
    expect((await other.webhooks.list()).webhooks).toEqual([])
    await world.activity('Here')
    await world.settled(id)
    expect(receiver.received.map((received) => bodyOf(received)['source'])).toEqual(['/sites/marram'])
  })
})
