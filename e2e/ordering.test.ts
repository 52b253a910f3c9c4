import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { Service, type Editor, type WisteriaProblem } from '@wisteria/client'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { machinesOf } from './support/machines.js'
import { refusal } from './support/models.js'
import { eventually, signIn, startSmall, type SmallSite } from './support/running.js'
import { dutchUnits, nightWalk, shownUnits } from './support/translations.js'

let small: SmallSite
let owner: Editor
let museum: string
const machines = machinesOf(() => owner)
const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  museum = (await owner.create({ type: 'museum', values: { name: { en: 'The Lighthouse' } } })).id
})
afterAll(() => small.service.end())
afterEach(() => machines.end())

const walk = async (more = {}): Promise<string> => (await nightWalk(owner, { museum, ...more })).id

describe('an order', () => {
  it('comes back as drafts that are ready for review, in the name of the connector', async () => {
    const { connector } = await machines.start()
    const ids = [await walk(), await walk()]
    const order = await owner.ordering.order({ connector: 'Machine', locale: 'nl', ids })
    expect(order).toMatchObject({ connector: connector.id, state: 'running', total: 2, done: 0, publish: false })
    expect(await machines.ended(order)).toMatchObject({ state: 'done', done: 2, failed: 0, texts: 6, words: 20 })
    expect(shownUnits(await dutchUnits(owner, ids[0]!))).toMatchObject({
      'body/h1/text': 'Breng een zaklamp, current',
      // A word that it does not know.
      'body/q1/text': 'Donker is niet empty., current',
    })
    const { entries } = await owner.ordering.orderEntries(order.id)
    expect(entries.map(({ state, message }) => [state, message])).toEqual([
      ['done', '3 taken. Ready for review.'],
      ['done', '3 taken. Ready for review.'],
    ])
    const entry = await owner.entry(ids[0]!)
    expect(entry.states['nl']).toBe('new')
    expect(entry.values).toMatchObject({ slug: { nl: expect.stringMatching(/^nacht-wandeling-\d+$/) as string } })
    const { entries: ready } = await owner.translations.work({ locale: 'nl', ready: true })
    expect(ready.map(({ entry }) => entry)).toEqual(expect.arrayContaining(ids))
    expect((await owner.revisions(ids[0]!)).revisions[0]).toMatchObject({ author: `connector:${connector.id}` })
  })

  it('uses the terms of the glossary, and keeps inline codes', async () => {
    await machines.start()
    await owner.translations.setGlossary([{ term: 'torch', translations: { nl: { use: 'lantaarn' } } }])
    const id = await walk()
    await machines.ended(await owner.ordering.order({ connector: 'Machine', locale: 'nl', ids: [id] }))
    expect(shownUnits(await dutchUnits(owner, id))).toMatchObject({ 'body/h1/text': 'Breng een lantaarn, current' })
    await owner.translations.setGlossary([])
  })

  it('that fails twice is sent again, and its failures can be seen meanwhile', async () => {
    const { machine } = await machines.start({ failures: 2 })
    const id = await walk()
    const order = await owner.ordering.order({ connector: 'Machine', locale: 'nl', ids: [id] })
    const failing = await eventually(
      () => machines.itemOf(order),
      ({ attempts }) => attempts > 0,
    )
    expect(failing).toMatchObject({ state: 'waiting', message: 'Machine answered 503. Told to fail 2 times.' })
    expect(await machines.ended(order)).toMatchObject({ done: 1, failed: 0 })
    expect(machine.received).toBe(3)
  })

  it('that failed for good is sent once more on request, and a late answer is taken', async () => {
    const { connector, machine } = await machines.start({ seconds: 1 })
    const id = await walk()
    const order = await owner.ordering.order({ connector: 'Machine', locale: 'nl', ids: [id] })
    await machines.sent(order)
    // It forgets what it was told, and refuses who asks.
    machine.setSecret('whsec_AAAA')
    expect(await machines.ended(order)).toMatchObject({ state: 'done', done: 0, failed: 1 })
    expect((await machines.itemOf(order)).message).toBe('Machine answered 401. The signature is wrong.')
    machine.setSecret(connector.secret)
    expect(await owner.ordering.retryOrder(order.id)).toMatchObject({ state: 'running', failed: 0 })
    expect(await machines.ended(order)).toMatchObject({ done: 1, failed: 0 })
    expect((await problem(() => owner.ordering.retryOrder(order.id))).message).toBe('Nothing of this order has failed.')
  })

  it('that is sent again after its source changed is another request, and its answer is for the new source', async () => {
    const { connector, machine } = await machines.start({ seconds: 1 })
    const id = await walk()
    const order = await owner.ordering.order({ connector: 'Machine', locale: 'nl', ids: [id] })
    await machines.sent(order)
    machine.setSecret('whsec_AAAA')
    await machines.ended(order)
    machine.setSecret(connector.secret)
    const { version } = await owner.entry(id)
    await owner.edit(id, version, [{ do: 'set', at: ['body', 'h1', 'text'], locale: 'en', value: 'Bring a lamp' }])
    await owner.ordering.retryOrder(order.id)
    await machines.ended(order)
    expect(shownUnits(await dutchUnits(owner, id))).toMatchObject({ 'body/h1/text': 'Breng een lamp, current' })
    expect(machine.received).toBe(2)
  })

  it('has the rights of whoever ordered, as long as they have them', async () => {
    await machines.start({ seconds: 1 })
    const email = 'hanne@marram.example'
    const added = await owner.addMember({
      email,
      name: 'Hanne Kwelder',
      password: 'wind-from-the-west',
      role: 'editor',
    })
    const hanne = await signIn(small.service.baseUrl, email)
    const order = await hanne.ordering.order({ connector: 'Machine', locale: 'nl', ids: [await walk()] })
    await owner.removeMember(added.account)
    expect(await machines.ended(order)).toMatchObject({ failed: 1 })
    expect((await machines.itemOf(order)).message).toBe('Whoever ordered it may no longer do so.')
  })

  it('is called back for, also after it has failed', async () => {
    const { connector, machine } = await machines.start({ seconds: 1, callsBack: true })
    const id = await walk()
    const order = await owner.ordering.order({ connector: 'Machine', locale: 'nl', ids: [id] })
    const sent = await machines.sent(order)
    // It would be asked in an hour.
    expect(Date.parse(sent.nextAt!) - Date.now()).toBeGreaterThan(3_000_000)
    expect(await machines.ended(order)).toMatchObject({ done: 1 })
    expect(machine.received).toBe(1)
    const address = `${small.service.baseUrl}/edit/v1/sites/marram/translations/requests/`
    const unsigned = await fetch(address + '01hz0000000000000000', { method: 'POST' })
    expect(unsigned.status).toBe(401)
    expect(connector.secret).toMatch(/^whsec_/)
  })

  it('marks what was translated from an earlier source, and leaves newer translations alone', async () => {
    await machines.start({ seconds: 1 })
    const id = await walk()
    const order = await owner.ordering.order({ connector: 'Machine', locale: 'nl', ids: [id] })
    await machines.sent(order)
    const { version } = await owner.entry(id)
    await owner.edit(id, version, [
      { do: 'set', at: ['body', 'h1', 'text'], locale: 'en', value: 'Bring a lamp' },
      { do: 'set', at: ['body', 'q1', 'text'], locale: 'nl', value: 'Donker is vol.' },
    ])
    await machines.ended(order)
    expect(await machines.itemOf(order)).toMatchObject({
      state: 'done',
      outcomes: { taken: 1, takenOutdated: 1, newer: 1 },
      message: '1 taken; 1 taken as outdated; 1 not taken: changed since. Ready for review.',
    })
    expect(shownUnits(await dutchUnits(owner, id))).toMatchObject({
      'body/h1/text': 'Breng een zaklamp, outdated',
      'body/q1/text': 'Donker is vol., current',
    })
  })

  it('can be stopped: later translations are not taken', async () => {
    await machines.start({ seconds: 1 })
    const id = await walk()
    const order = await owner.ordering.order({ connector: 'Machine', locale: 'nl', ids: [id] })
    await machines.sent(order)
    expect(await owner.ordering.stopOrder(order.id)).toMatchObject({ state: 'stopped' })
    await new Promise((resolve) => setTimeout(resolve, 1500))
    expect((await machines.itemOf(order)).state).toBe('stopped')
    expect(shownUnits(await dutchUnits(owner, id))).toMatchObject({ title: '–, missing' })
    expect((await problem(() => owner.ordering.stopOrder(order.id))).message).toBe('The order has ended already.')
  })

  it('of an entry that another order has out waits for that one, and then sends what is left', async () => {
    const { machine } = await machines.start({ seconds: 1 })
    const id = await walk()
    const first = await owner.ordering.order({ connector: 'Machine', locale: 'nl', ids: [id] })
    const second = await owner.ordering.order({ connector: 'Machine', locale: 'nl', ids: [id] })
    await machines.ended(first)
    expect(await machines.ended(second)).toMatchObject({ done: 1, texts: 0 })
    expect((await machines.itemOf(second)).message).toBe('There is nothing left to translate.')
    expect(machine.received).toBe(1)
  })

  it('tells how far it is, by events', async () => {
    await machines.start()
    const order = await owner.ordering.order({ connector: 'Machine', locale: 'nl', ids: [await walk(), await walk()] })
    await machines.ended(order)
    const { events } = await owner.events((await owner.events(0)).sequence - 30)
    const told = events.flatMap(({ type, data }) => {
      const { order: note } = data as { order?: { id: string; done: number; state: string; connector: string } }
      return note?.id === order.id ? [`${String(type)} ${note.done} ${note.state} ${note.connector}`] : []
    })
    expect(told).toEqual([
      'translation.ordered 0 running Machine',
      'translation.orderProgressed 1 running Machine',
      'translation.orderEnded 2 done Machine',
    ])
  })

  it.each([
    ['an unknown connector', { connector: 'Machinne' }, 'notFound', /Did you mean `Machine`\?/],
    [
      'a locale that it does not translate into',
      { locale: 'ar' },
      'conflict',
      /does not translate into ar, but into nl/,
    ],
    ['the default locale', { locale: 'en' }, 'badRequest', /is the default locale/],
    ['an entry that is not there', { ids: ['01hz0000000000000000'] }, 'notFound', /01hz/],
    ['a condition that is wrong', { ids: undefined, where: 'titel = "x"', type: 'activity' }, 'badCondition', /title/],
    ['nothing to translate', { ids: undefined, type: 'activity', where: 'price = 12345' }, 'conflict', /None of these/],
  ])('is refused for %s', async (_, more, code, message) => {
    await machines.start({}, ['nl'])
    const id = await walk()
    const refused = await problem(() =>
      owner.ordering.order({ connector: 'Machine', locale: 'nl', ids: [id], ...more }),
    )
    expect(refused).toMatchObject({ code })
    expect(refused.message).toMatch(message)
  })

  it('needs the right to translate into the locale, and to publish where it publishes', async () => {
    await machines.start()
    await owner.addMember({
      email: 'samira@marram.example',
      name: 'Samira Nour',
      password: 'wind-from-the-west',
      role: 'translator',
      locales: ['ar'],
    })
    const samira = await signIn(small.service.baseUrl, 'samira@marram.example')
    const ids = [await walk()]
    const order =
      (locale: string, publish = false) =>
      () =>
        samira.ordering.order({ connector: 'Machine', locale, ids, publish })
    expect(await problem(order('nl'))).toMatchObject({ code: 'forbidden' })
    expect(await problem(order('ar', true))).toMatchObject({ code: 'forbidden' })
    expect(await machines.ended(await order('ar')())).toMatchObject({ done: 1 })
    expect(
      await problem(() => samira.ordering.addConnector({ label: 'x', address: 'https://x.example' })),
    ).toMatchObject({ code: 'forbidden' })
  })
})

describe('a machine that answers nonsense', () => {
  const answering = async (status: number, body: string) => {
    const server = createServer((request, response) => {
      request.resume()
      response.writeHead(status, { 'content-type': 'application/json' })
      response.end(body)
    })
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
    const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`
    await owner.ordering.addConnector({ label: 'Nonsense', address })
    return server
  }
  it.each([
    [400, '{"state":"failed","message":"Too long."}', 'failed', 'Nonsense answered 400. Too long.'],
    [200, 'hello', 'waiting', 'Nonsense answered 200. Its answer is not JSON.'],
    [200, '{"state":"done"}', 'waiting', /^Nonsense answered 200. Its answer is not as expected, at `\/texts`/],
    [200, '{"state":"failed","message":"No."}', 'failed', 'Nonsense could not translate it: No.'],
    [200, '{"state":"done","texts":[]}', 'done', '3 not translated.'],
    [
      200,
      JSON.stringify({
        state: 'done',
        texts: [
          { id: 'unknown', text: 'x' },
          { id: '', text: '<1>' },
        ],
      }),
      'done',
      '3 not translated.',
    ],
  ])('with %s %s changes nothing, and says so', async (status, body, state, message) => {
    const server = await answering(status, body)
    try {
      const id = await walk()
      const order = await owner.ordering.order({ connector: 'Nonsense', locale: 'nl', ids: [id] })
      const item = await eventually(
        () => machines.itemOf(order),
        (item) => item.message !== '',
      )
      expect(item.state).toBe(state)
      expect(item.message).toMatch(message)
      expect(shownUnits(await dutchUnits(owner, id))).toMatchObject({ title: '–, missing' })
    } finally {
      server.close()
    }
  })
  it('or is not there says that it cannot be reached', async () => {
    await owner.ordering.addConnector({ label: 'Gone', address: 'http://127.0.0.1:1/' })
    const order = await owner.ordering.order({ connector: 'Gone', locale: 'nl', ids: [await walk()] })
    const item = await eventually(
      () => machines.itemOf(order),
      ({ attempts }) => attempts > 0,
    )
    expect(item.message).toMatch(/^Gone cannot be reached: .*ECONNREFUSED/)
  })
})

it('two sites see nothing of each other', async () => {
  const { connector } = await machines.start()
  const order = await owner.ordering.order({ connector: 'Machine', locale: 'nl', ids: [await walk()] })
  const service = new Service({ baseUrl: small.service.baseUrl, token: small.token })
  await service.createSite({
    name: 'other',
    label: 'Other',
    defaultLocale: 'en',
    locales: [{ tag: 'en', label: 'English', fallback: [] }],
    timeZone: 'UTC',
  })
  const other = service.site('other')
  expect((await other.ordering.connectors()).connectors).toEqual([])
  expect(await problem(() => other.ordering.orderWith(order.id))).toMatchObject({ code: 'notFound' })
  expect(await problem(() => other.ordering.changeConnector(connector.id, { enabled: false }))).toMatchObject({
    code: 'notFound',
  })
  expect(await problem(() => other.ordering.stopOrder(order.id))).toMatchObject({ code: 'notFound' })
})
