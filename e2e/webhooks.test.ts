import {
  isAffected,
  Service,
  verifyWebhook,
  type Editor,
  type WebhookEvent,
  type WisteriaProblem,
} from '@wisteria/client'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal } from './support/models.js'
import { eventually, start, startReceiver, startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
const stops: (() => Promise<void>)[] = []
const receive = async (...answer: Parameters<typeof startReceiver>) => {
  const receiver = await startReceiver(...answer)
  stops.push(receiver.stop)
  return receiver
}
const make = async (name: string) => (await owner.create({ type: 'museum', values: { name: { en: name } } })).id
const eventOf = (body: string) => JSON.parse(body) as WebhookEvent

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
})
afterEach(async () => {
  for (const { id } of (await owner.webhooks.list()).webhooks) await owner.webhooks.remove(id)
  for (const stop of stops.splice(0)) await stop()
})
afterAll(() => small.service.end())

describe('a webhook', () => {
  it('is told of what changes something public, signed, with its generation and groups', async () => {
    const receiver = await receive()
    const { secret } = await owner.webhooks.create({ label: 'Site', address: receiver.address })
    expect(secret).toMatch(/^whsec_/)
    const id = await make('Lighthouse')
    await owner.publish(id)
    await receiver.until(1)
    const { headers, body } = receiver.received[0]!
    expect(headers['content-type']).toBe('application/cloudevents+json; charset=utf-8')
    const event = await verifyWebhook(secret, headers, body)
    // As the Fetch standard has headers, too.
    expect(await verifyWebhook(secret, new Headers(headers as Record<string, string>), body)).toEqual(event)
    expect(event).toMatchObject({
      specversion: '1.0',
      id: headers['webhook-id'],
      source: '/sites/marram',
      type: 'entry.published',
      subject: `entries/${id}`,
    })
    expect(event.data).toMatchObject({
      entry: { id, type: 'museum' },
      locales: ['en'],
      fields: ['name', 'slug'],
      affected: {
        paths: ['/ar/museums/lighthouse', '/museums/lighthouse', '/nl-be/musea/lighthouse', '/nl/musea/lighthouse'],
        groups: expect.arrayContaining([`e.${id}`, `e.${id}@en`, 't.museum', 't.museum@nl', 's']) as string[],
      },
    })
    expect(event.data.publicGeneration).toBe((await owner.settings()).publicGeneration)
    expect(isAffected([`e.${id}`], event)).toBe(true)
    expect(isAffected(['e.other', 't.person'], event)).toBe(false)
    // Saving and creating were no public change: nothing else came.
    await owner.withdraw(id)
    await receiver.until(2)
    expect(receiver.received.map((request) => eventOf(request.body).type)).toEqual([
      'entry.published',
      'entry.withdrawn',
    ])
  })

  it('is told nothing that was changed on the way', async () => {
    const receiver = await receive()
    const { secret } = await owner.webhooks.create({ label: 'Site', address: receiver.address })
    await owner.publish(await make('Signed'))
    await receiver.until(1)
    const { headers, body } = receiver.received[0]!
    const verify = (more: object, text = body, key = secret, now?: number) =>
      refusal(() => verifyWebhook(key, { ...headers, ...more }, text, now))
    expect((await verify({}, body.replace('Signed', 'Forged').replace('museum', 'person'))).message).toMatch(
      /signature does not fit/,
    )
    expect((await verify({ 'webhook-id': 'other' })).message).toMatch(/does not fit/)
    expect((await verify({}, body, 'whsec_' + Buffer.from('x'.repeat(32)).toString('base64'))).message).toMatch(
      /does not fit/,
    )
    expect((await verify({}, body, secret, Date.now() + 600_000)).message).toMatch(/too old/)
    expect((await verify({ 'webhook-signature': undefined })).message).toMatch(/webhook-signature is missing/)
    expect((await verify({ 'webhook-signature': 'v1,###' })).message).toMatch(/base64|does not fit/)
  })

  it('is tried again until it accepts, with every attempt kept', async () => {
    const receiver = await receive((_, count) => (count < 3 ? 503 : 200))
    const { id: webhook } = await owner.webhooks.create({ label: 'Slow', address: receiver.address })
    await owner.publish(await make('Again'))
    await receiver.until(3)
    const ids = receiver.received.map((request) => request.headers['webhook-id'])
    expect(new Set(ids).size).toBe(1)
    const { deliveries } = await eventually(
      () => owner.webhooks.deliveries(webhook),
      (answer) => answer.deliveries[0]?.status === 'delivered',
    )
    expect(deliveries[0]?.attempts.map((attempt) => [attempt.status, attempt.answer])).toEqual([
      [503, 'answered'],
      [503, 'answered'],
      [200, 'answered'],
    ])
    const [first, second, third] = deliveries[0]!.attempts.map((attempt) => Date.parse(attempt.at))
    expect(second! - first!).toBeGreaterThanOrEqual(1000)
    expect(third! - second!).toBeGreaterThanOrEqual(2000)
    await owner.webhooks.resend(webhook, deliveries[0]!.id)
    await receiver.until(4)
    expect(receiver.received[3]?.headers['webhook-id']).toBe(ids[0])
  })

  it('hears of one entry in order, while another does not wait', async () => {
    const [slow, fast] = [await make('Slow one'), await make('Fast one')]
    const receiver = await receive(({ body }, count) =>
      eventOf(body).data.entry?.id === slow && count < 3 ? 500 : 204,
    )
    await owner.webhooks.create({ label: 'Order', address: receiver.address })
    await owner.publish(slow)
    await owner.withdraw(slow)
    await owner.publish(fast)
    await eventually(
      () => receiver.received.map((request) => eventOf(request.body)),
      (events) => events.some((event) => event.type === 'entry.withdrawn'),
    )
    const events = receiver.received.map((request) => eventOf(request.body))
    const ofSlow = events.filter((event) => event.data.entry?.id === slow).map((event) => event.type)
    expect(ofSlow.at(-1)).toBe('entry.withdrawn')
    expect(ofSlow.slice(0, -1).every((type) => type === 'entry.published')).toBe(true)
    expect(events.findIndex((event) => event.data.entry?.id === fast)).toBeLessThan(
      events.findIndex((event) => event.type === 'entry.withdrawn'),
    )
  })

  it('hears of what it asked for', async () => {
    const receiver = await receive()
    await owner.webhooks.create({
      label: 'All',
      address: receiver.address,
      events: ['entry.created', 'entry.saved', 'entry.deleted'],
    })
    const id = await make('Watched')
    await owner.patch(id, 1, { town: 'x' })
    await owner.delete(id)
    await receiver.until(3)
    expect(receiver.received.map((request) => eventOf(request.body).type)).toEqual([
      'entry.created',
      'entry.saved',
      'entry.deleted',
    ])
    expect(eventOf(receiver.received[1]!.body).data).toMatchObject({ fields: ['town'], version: 2 })
    expect(eventOf(receiver.received[1]!.body).data).not.toHaveProperty('affected')
  })

  it('is changed, and switched off and on, with the same secret', async () => {
    const [first, second] = [await receive(), await receive()]
    const { id, secret } = await owner.webhooks.create({
      label: 'Moving',
      address: first.address,
      events: ['entry.created'],
    })
    await make('Before')
    await first.until(1)
    const changed = await owner.webhooks.change(id, { label: 'Moved', address: second.address })
    expect(changed).toMatchObject({
      id,
      label: 'Moved',
      address: second.address,
      events: ['entry.created'],
      enabled: true,
    })
    expect(changed).not.toHaveProperty('secret')
    await make('Seen')
    await second.until(1)
    const [{ headers, body }] = second.received as [(typeof second.received)[number]]
    expect((await verifyWebhook(secret, headers, body)).type).toBe('entry.created')
    await owner.webhooks.change(id, { enabled: false })
    await make('Unseen')
    await owner.webhooks.change(id, { enabled: true, events: null })
    const entry = await make('Public')
    await owner.publish(entry)
    await second.until(2)
    expect(second.received.map(({ body }) => eventOf(body).type)).toEqual(['entry.created', 'entry.published'])
    expect(first.received).toHaveLength(1)
    for (const wrong of [{ address: 'ftp://marram.example' }, { events: ['entry.publishd'] }])
      expect((await refusal<WisteriaProblem>(() => owner.webhooks.change(id, wrong))).code).toBe('invalid')
    expect((await refusal<WisteriaProblem>(() => owner.webhooks.change(id, { label: ' ' }))).code).toBe('badRequest')
    expect((await refusal<WisteriaProblem>(() => owner.webhooks.change('nothing', { label: 'x' }))).code).toBe(
      'notFound',
    )
    await owner.webhooks.remove(id)
  })

  it('hears of every public change, and of nothing else, where it names no events', async () => {
    const receiver = await receive()
    const { events } = await owner.webhooks.create({ label: 'All public', address: receiver.address })
    expect(events).toBeNull()
    const after = (await owner.events(0)).sequence
    const withPicture = { ...files, museum: files.museum + '  picture: { kind: asset }\n' }
    await owner.adoptModel((await owner.compareModel(asFiles(withPicture))).id)
    const file = new Blob(['<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>'])
    const asset = await owner.uploadAsset('mark.svg', file)
    const id = (await owner.create({ type: 'museum', values: { name: { en: 'Heard' }, picture: asset.id } })).id
    await owner.publish(id)
    await owner.changeAsset(asset.id, { alt: { en: 'A mark' } })
    await owner.archive(id)
    await owner.reactivate(id)
    await owner.publish(id)
    await owner.withdraw(id)
    await owner.changeAsset(asset.id, { alt: { en: 'The mark' } })
    await owner.delete(id)
    const { label, defaultLocale, locales } = await owner.settings()
    await owner.setLocales({ label, defaultLocale, locales, timeZone: 'Europe/Brussels' })
    const log = (await owner.events(after)).events as unknown as WebhookEvent[]
    const isPublic = (event: WebhookEvent) => event.data.publicGeneration !== undefined
    const wanted = log.filter(isPublic)
    expect(new Set(wanted.map((event) => event.type))).toEqual(
      new Set(['model.adopted', 'entry.published', 'asset.changed', 'entry.withdrawn', 'settings.changed']),
    )
    await receiver.until(wanted.length)
    const ids = (events: readonly WebhookEvent[]) => events.map((event) => event.id).sort()
    expect(ids(receiver.received.map((request) => eventOf(request.body)))).toEqual(ids(wanted))
  })

  it('is not kept waiting by other addresses that hang', async () => {
    const hung = await Promise.all(Array.from({ length: 8 }, () => receive(() => new Promise<number>(() => undefined))))
    for (const [index, { address }] of hung.entries()) await owner.webhooks.create({ label: `Hung ${index}`, address })
    const receiver = await receive()
    await owner.webhooks.create({ label: 'Ninth', address: receiver.address })
    for (let number = 0; number < 12; number++) await owner.publish(await make(`Ninth ${number}`))
    await receiver.until(12)
    expect(receiver.received.length).toBe(12)
    // Each of them has a few under way, and no more.
    expect(hung.map(({ received }) => received.length <= 4)).toEqual(hung.map(() => true))
  })

  it('is refused where it could not or should not be', async () => {
    const tries: [string, RegExp][] = [
      ['nowhere', /must be an address/],
      ['ftp://x.example', /must begin with https/],
      ['https://u:p@x.example/', /must not carry/],
    ]
    for (const [address, message] of tries)
      expect((await refusal(() => owner.webhooks.create({ label: 'x', address }))).message).toMatch(message)
    expect(
      (
        await refusal(() =>
          owner.webhooks.create({ label: 'x', address: 'https://x.example', events: ['entry.publishd'] }),
        )
      ).message,
    ).toMatch(/Did you mean `entry.published`\?/)
  })
})

describe('private networks', () => {
  it('are refused unless the operator allows them', async () => {
    const careful = await startSmall({ allowPrivateAddresses: false })
    try {
      for (const address of [
        'http://127.0.0.1:80/',
        'http://localhost/',
        'http://10.0.0.1/',
        'http://[::1]/',
        'http://192.168.1.1/',
        'http://169.254.169.254/',
        'http://[::ffff:127.0.0.1]/',
        'http://0.0.0.0/',
        'http://2130706433/',
      ])
        expect((await refusal(() => careful.owner.webhooks.create({ label: 'x', address }))).message, address).toMatch(
          /private network/,
        )
    } finally {
      await careful.service.end()
    }
  })
})

describe('a restart', () => {
  it('loses nothing that waits', async () => {
    const small = await startSmall()
    const refusing = await receive(() => 500)
    const { secret } = await small.owner.webhooks.create({ label: 'Later', address: refusing.address })
    const id = (await small.owner.create({ type: 'museum', values: { name: { en: 'Later' } } })).id
    await small.owner.publish(id)
    await refusing.until(1)
    await small.service.stop()
    await refusing.stop()
    const again = await start({}, small.service.folder)
    try {
      const editor = new Service({ baseUrl: again.baseUrl, token: small.token }).site('marram')
      const { webhooks } = await editor.webhooks.list()
      expect(webhooks[0]).toMatchObject({ waiting: 1 })
      // The receiver starts again at the same address.
      const accepting = await receive(undefined, refusing.port)
      await accepting.until(1)
      const { headers, body } = accepting.received[0]!
      expect(headers['webhook-id']).toBe(refusing.received[0]!.headers['webhook-id'])
      expect(await verifyWebhook(secret, headers, body)).toMatchObject({
        type: 'entry.published',
        subject: `entries/${id}`,
      })
      await eventually(
        () => editor.webhooks.list(),
        (answer) => answer.webhooks[0]!.waiting === 0,
      )
    } finally {
      await again.end()
    }
  })
})
