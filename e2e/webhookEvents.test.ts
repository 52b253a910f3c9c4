import { verifyWebhook } from '@wisteria/client'
import { describe, expect, it } from 'vitest'
import { asFiles, files } from './support/models.js'
import { eventually } from './support/running.js'
import { bodies, bodyOf, problemOf, type Body, useWebhookSite } from './support/webhooks.js'

const world = useWebhookSite()

describe('a condition of a webhook', () => {
  it('sees the entry before and after a save, and what is public before and after a publish', async () => {
    const receiver = await world.receive()
    const hear = (label: string, events: string[], where: string) =>
      world.owner.webhooks.create({ label, address: `${receiver.address}?${label}`, events, where })
    const dearer = await hear('dearer', ['entry.saved'], 'after.price > before.price')
    const first = await hear('first', ['entry.published'], 'before.entry.state = "new" or before.title has no value')
    const renamed = await hear('renamed', ['entry.published'], 'before.title != after.title and entry.format = "talk"')
    const gone = await hear('gone', ['entry.withdrawn'], 'before.price >= 12 and after.price has no value')
    const { id } = await world.activity('Conditions', { price: 10 })
    await world.owner.edit(id, 1, [{ do: 'set', at: ['price'], value: 8 }])
    await world.owner.edit(id, 2, [{ do: 'set', at: ['price'], value: 12 }])
    await world.owner.publish(id)
    await world.owner.edit(id, 4, [{ do: 'set', at: ['title'], locale: 'en', value: 'Conditions, renamed' }])
    await world.owner.publish(id)
    await world.owner.withdraw(id)
    const typesOf = async ({ id }: { id: string }) => (await world.deliveriesOf(id)).map(({ type }) => type)
    expect(await typesOf(dearer)).toEqual(['entry.saved'])
    expect(await typesOf(first)).toEqual(['entry.published'])
    expect(await typesOf(renamed)).toEqual(['entry.published', 'entry.published'])
    expect(await typesOf(gone)).toEqual(['entry.withdrawn'])
  })

  it('is refused with its place, and told where a model no longer fits it', async () => {
    const address = 'https://site.example/hooks'
    const wrong = async (where: string) =>
      (await problemOf(() => world.owner.webhooks.create({ label: 'x', address, where }))).message
    expect(await wrong('title = "x"')).toMatch(/Did you mean `entry.title`\?.*column 1/)
    expect(await wrong('after.pric > 2')).toMatch(
      /`pric` is not a field of any type|`pric` is not a field of .*Did you mean `price`\?/,
    )
    expect(await wrong('after.museum.name = "x"')).toMatch(/leads to another entry/)
    expect(await wrong('after.price + 1')).toMatch(/Expected a condition/)
    expect((await problemOf(() => world.owner.webhooks.create({ label: 'x', address, where: ' ' }))).code).toBe(
      'badRequest',
    )
    const { id, where } = await world.owner.webhooks.create({ label: 'x', address, where: 'after.price > 2' })
    expect(where).toBe('after.price > 2')
    expect(await world.owner.webhooks.change(id, { where: null })).toMatchObject({ where: null, problem: null })
  })

  it('that a new model breaks is told of before, and lets everything through after', async () => {
    const receiver = await world.receive()
    const { address } = receiver
    const { id } = await world.owner.webhooks.create({
      label: 'Dear',
      address,
      events: ['entry.created'],
      where: 'entry.price > 90',
    })
    const before = (await world.owner.model()).version
    const cheaper = asFiles({ ...files, activity: files.activity.replace(/^ {2}price:.*\n/m, '') })
    const proposal = await world.owner.compareModel(cheaper)
    expect(proposal.consequences).toContainEqual({
      code: 'webhookBroken',
      weight: 'breaking',
      place: 'webhooks',
      message: expect.stringMatching(/^The condition of the webhook “Dear” would no longer fit, .*`price`/) as string,
    })
    await world.owner.adoptModel(proposal.id)
    try {
      expect((await world.owner.webhooks.list()).webhooks[0]!.problem).toMatch(
        /^The condition no longer fits the model/,
      )
      await world.activity('Without a price')
      await receiver.until(1)
      expect((await world.owner.compareModel(cheaper)).consequences.map(({ code }) => code)).not.toContain(
        'webhookBroken',
      )
    } finally {
      await world.owner.adoptModel((await world.owner.compareModelVersion(before)).id)
    }
    await world.owner.webhooks.remove(id)
  })
})

describe('several events', () => {
  it('of one act arrive as one, in a body that names them all', async () => {
    const receiver = await world.receive()
    const { id: webhook, secret } = await world.owner.webhooks.create({
      label: 'Acts',
      address: receiver.address,
      merge: 'act',
    })
    const museum = await world.owner.create({ type: 'museum', values: { name: { en: 'Merged' } } })
    const [a, b] = [
      await world.activity('Merged one', { museum: museum.id }),
      await world.activity('Merged two', { museum: museum.id }),
    ]
    await world.owner.publish(museum.id)
    await receiver.until(1)
    await world.owner.publish(a.id, { together: [b.id] })
    await receiver.until(2)
    const [{ headers, body }] = receiver.received.slice(1) as [(typeof receiver.received)[number]]
    const event = (await verifyWebhook(secret, headers, body)) as unknown as Body & {
      data: { affected: { groups: string[] } }
    }
    expect(event.type).toBe('events.merged')
    expect(event.data.events!.map(({ type }) => type)).toEqual(['entry.published', 'entry.published'])
    expect(event.data.affected.groups).toEqual(expect.arrayContaining([`e.${a.id}`, `e.${b.id}`]))
    await world.settled(webhook)
    expect(receiver.received).toHaveLength(2)
  })

  it('of one entry that wait arrive as one, and saves that wait as their newest with all fields', async () => {
    let isOpen = false
    const receiver = await world.receive(() => (isOpen ? 204 : 503))
    const events = ['entry.created', 'entry.saved', 'entry.published']
    const merged = await world.owner.webhooks.create({
      label: 'Entries',
      address: `${receiver.address}?merged`,
      events,
      merge: 'entry',
    })
    const plain = await world.owner.webhooks.create({ label: 'Plain', address: `${receiver.address}?plain`, events })
    const { id } = await world.activity('Waiting')
    // The first of both queues has been tried, so that what follows waits behind it.
    await eventually(
      () => world.deliveriesOf(plain.id),
      ([first]) => (first?.attempts.length ?? 0) > 0,
    )
    await eventually(
      () => world.deliveriesOf(merged.id),
      ([first]) => (first?.attempts.length ?? 0) > 0,
    )
    await world.owner.edit(id, 1, [{ do: 'set', at: ['price'], value: 3 }])
    await world.owner.edit(id, 2, [{ do: 'set', at: ['day'], value: '2031-05-04' }])
    await world.owner.publish(id)
    const waiting = await world.deliveriesOf(merged.id)
    expect(waiting.map(({ events }) => events)).toEqual([3, 1])
    expect((await world.deliveriesOf(plain.id)).map(({ type, events }) => [type, events])).toEqual([
      ['entry.published', 1],
      ['entry.saved', 2],
      ['entry.created', 1],
    ])
    isOpen = true
    await world.settled(merged.id)
    await world.settled(plain.id)
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
    const receiver = await world.receive((_, count) =>
      count === 1 ? new Promise((resolve) => held.push(() => resolve(204))) : 204,
    )
    const { id: webhook } = await world.owner.webhooks.create({
      label: 'Joining',
      address: receiver.address,
      events: ['entry.saved', 'entry.published'],
      merge: 'entry',
    })
    const { id } = await world.activity('Joined')
    await world.owner.edit(id, 1, [{ do: 'set', at: ['price'], value: 3 }])
    await eventually(
      () => held.length,
      (count) => count === 1,
    )
    await world.owner.edit(id, 2, [{ do: 'set', at: ['price'], value: 4 }])
    await world.owner.publish(id)
    held[0]!()
    await receiver.until(2)
    await world.settled(webhook)
    const sent = bodies(receiver).map(({ data }) => data.events!.map(({ type, id }) => [type, id] as const))
    expect(sent.map((events) => events.map(([type]) => type))).toEqual([
      ['entry.saved'],
      ['entry.saved', 'entry.published'],
    ])
    const ids = sent.flat().map(([, id]) => id)
    expect(new Set(ids).size).toBe(ids.length)
  })
})
