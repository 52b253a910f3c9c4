import { Service, type AutomationRunView } from '@wisteria/client'
import type { Automation } from '@wisteria/core'
import { Webhook as ReferenceWebhook } from 'standardwebhooks'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { eventually, startSmall, type SmallSite } from './support/running.js'
import { problemOf } from './support/webhooks.js'

let small: SmallSite
let shift = 0
beforeAll(async () => {
  small = await startSmall({}, () => Date.now() + shift)
})
afterEach(async () => {
  const { automations } = await small.owner.automations.list()
  for (const { name } of automations) await small.owner.automations.remove(name)
})
afterAll(() => small?.service.end())

const ended = (name: string, count = 1): Promise<readonly AutomationRunView[]> =>
  eventually(
    async () => (await small.owner.automations.runs(name)).runs,
    (runs) => runs.length >= count && runs.every(({ state }) => state !== 'running'),
  )
const museum = (name: string) => small.owner.create({ type: 'museum', values: { name: { en: name } } })

describe('an address', () => {
  const messages: Automation = {
    automation: 'messages',
    label: 'Messages',
    starts: { by: 'address', where: 'trigger.body.left = 0', key: 'trigger.body.id' },
    steps: [{ do: 'create', type: 'museum', values: { name: { en: '"Sold out: " & trigger.body.title' } } }],
  }
  let secret: string
  const post = (body: string, headers: Record<string, string> = { authorization: `Bearer ${secret}` }) =>
    fetch(`${small.service.baseUrl}/edit/v1/sites/marram/inbound/messages`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...headers },
      body,
    })
  const told = async (answer: Promise<Response>) => {
    const response = await answer
    return [response.status, await response.json()] as [
      number,
      { run?: string | null; message?: string; detail?: string },
    ]
  }
  const open = async (automation: Automation = messages) => {
    await small.owner.automations.set(automation)
    secret = (await small.owner.automations.makeSecret('messages')).secret
  }

  it('takes JSON and forms, and starts one run for each key', async () => {
    await open()
    const message = JSON.stringify({ id: 7, left: 0, title: 'Walk' })
    const [status, first] = await told(post(message))
    expect(status).toBe(202)
    const [, again] = await told(post(message))
    expect(again).toEqual({ run: first.run, message: 'This message came before: nothing is started again.' })
    const [, other] = await told(post(JSON.stringify({ id: 8, left: 3, title: 'Walk' })))
    expect(other.run).toBeNull()
    const [, form] = await told(
      post('left=0&id=9&title=Concert', {
        authorization: `Bearer ${secret}`,
        'content-type': 'application/x-www-form-urlencoded',
      }),
    )
    // In a form everything is a text.
    expect(form.run).toBeNull()
    const runs = await ended('messages')
    expect(runs).toHaveLength(1)
    expect(runs[0]).toMatchObject({ id: first.run, state: 'done', startedBy: 'address', trigger: { body: { id: 7 } } })
  })

  it('takes a signature by Standard Webhooks instead, once for each message', async () => {
    await open({ ...messages, starts: { by: 'address' } })
    const body = JSON.stringify({ title: 'Signed' })
    const signed = (at: Date) => ({
      'webhook-id': 'msg_1',
      'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
      'webhook-signature': new ReferenceWebhook(secret).sign('msg_1', at, body),
    })
    const [status, first] = await told(post(body, signed(new Date())))
    expect(status).toBe(202)
    const [, replayed] = await told(post(body, signed(new Date())))
    expect(replayed.run).toBe(first.run)
    expect((await told(post(body, signed(new Date(Date.now() - 3_600_000)))))[0]).toBe(401)
    expect((await told(post(`${body} `, signed(new Date()))))[0]).toBe(401)
  })

  it('refuses what is wrong, too large, too deep or no JSON, each with its reason', async () => {
    await open()
    const refused = async (body: string, headers?: Record<string, string>) => {
      const [status, { detail }] = await told(post(body, headers))
      return `${status} ${detail}`
    }
    const own = { authorization: `Bearer ${secret}` }
    expect(await refused('{}', {})).toMatch(/^401 Send the secret/)
    expect(await refused('{}', { authorization: 'Bearer whsec_wrong' })).toMatch(/^401/)
    expect(await refused('{"left":', own)).toMatch(/^400 The body is not JSON/)
    expect(await refused('['.repeat(5000), own)).toMatch(/^400 Lists and objects nest at most 100 deep/)
    expect(await refused(`"${'x'.repeat(1_100_000)}"`, own)).toMatch(/^413 A message has at most 1,000,000 bytes/)
    expect(await refused(`"${'x'.repeat(50_000_000)}"`, own)).toMatch(/^413 A message has at most 1,000,000 bytes/)
    expect(await refused('<a/>', { ...own, 'content-type': 'text/xml' })).toMatch(/^415 Send application\/json or/)
    await small.owner.automations.enable('messages', false)
    expect(await refused('{"left":0}', own)).toMatch(/^409 This automation is switched off/)
    const statuses = await Promise.all(Array.from({ length: 320 }, async () => (await post('{}')).status))
    expect(statuses.filter((status) => status === 429).length).toBeGreaterThan(0)
  })
})

describe('a timetable', () => {
  it('starts an automation at its times, and once for what it missed', async () => {
    await small.owner.automations.set({
      automation: 'nightly',
      label: 'Nightly',
      starts: { by: 'timetable', every: 'day', at: '03:30' },
      steps: [{ do: 'compute', name: 'at', values: 'trigger.at' }],
    })
    const { nextAt } = await small.owner.automations.get('nightly')
    expect(nextAt).toMatch(/T0[12]:30:00\.000Z$/)
    // Three nights later.
    shift = Date.parse(nextAt!) - Date.now() + 3 * 86_400_000
    const runs = await ended('nightly')
    expect(runs).toHaveLength(1)
    expect(runs[0]!.results['at']).toBe(nextAt)
    const { nextAt: then } = await small.owner.automations.get('nightly')
    expect(Date.parse(then!)).toBeGreaterThan(Date.now() + shift)
    shift = 0
  })
})

describe('by hand', () => {
  it('is for one entry, for several together, or for the site, as it says', async () => {
    const [mill, quay] = [await museum('Mill'), await museum('Quay')]
    const steps = (entry: string): Automation['steps'] => [{ do: 'set', values: { town: `${entry}.name & "!"` } }]
    const define = (on: 'entry' | 'list' | 'site', all: Automation['steps']) =>
      small.owner.automations.set({
        automation: `of-${on}`,
        label: on,
        starts: { by: 'hand', on, ...(on === 'site' ? {} : { types: ['museum'] }) },
        steps: all,
      })
    await define('entry', steps('entry'))
    await define('list', [{ do: 'each', in: 'trigger.entries', steps: steps('item') as never }])
    await define('site', [{ do: 'compute', name: 'at', values: 'today' }])
    const { runs } = await small.owner.automations.run('of-entry', [mill.id, quay.id, mill.id])
    expect(runs).toHaveLength(2)
    await ended('of-entry', 2)
    expect((await small.owner.entry(quay.id)).values['town']).toBe('Quay!')
    await small.owner.patch(mill.id, (await small.owner.entry(mill.id)).version, { town: '' })
    expect((await small.owner.automations.run('of-list', [mill.id, quay.id])).runs).toHaveLength(1)
    expect((await ended('of-list'))[0]).toMatchObject({ state: 'done', total: 2, done: 2 })
    expect((await small.owner.entry(mill.id)).values['town']).toBe('Mill!')
    await small.owner.automations.run('of-site')
    await ended('of-site')
    const message = async (name: string, entries?: string[]) =>
      (await problemOf(() => small.owner.automations.run(name, entries))).message
    expect(await message('of-site', [mill.id])).toMatch(/started for the site/)
    expect(await message('of-list')).toMatch(/say which/)
    const walk = await small.owner.create({
      type: 'activity',
      values: { title: { en: 'Walk' }, slug: { en: 'walk' }, format: 'walk' },
    })
    expect(await message('of-entry', [walk.id])).toMatch(/is for entries of museum/)
  })
})

describe('two sites', () => {
  it('start only their own automations', async () => {
    const service = new Service({ baseUrl: small.service.baseUrl, token: small.token })
    await service.createSite({
      name: 'second',
      label: 'Second',
      defaultLocale: 'en',
      timeZone: 'UTC',
      locales: [{ tag: 'en', label: 'English', fallback: [] }],
    })
    await small.owner.automations.set({
      automation: 'first-only',
      label: 'First only',
      starts: { by: 'hand', on: 'site' },
      steps: [{ do: 'wait', until: 'now + 1 hour' }],
    })
    const [run] = (await small.owner.automations.run('first-only')).runs
    const second = service.site('second')
    expect((await second.automations.list()).automations).toEqual([])
    expect((await problemOf(() => second.automations.getRun(run!))).code).toBe('notFound')
    expect((await problemOf(() => second.automations.run('first-only'))).code).toBe('notFound')
  })
})
