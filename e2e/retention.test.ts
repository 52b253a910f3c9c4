import { join } from 'node:path'
import { Reader, Service, type Editor } from '@wisteria/client'
import { Database } from '@wisteria/store'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { refusal } from './support/models.js'
import { eventually, start, startReceiver, startSmall, type Running, type SmallSite } from './support/running.js'

const day = 86_400_000
let now = Date.now()
let small: SmallSite
let later: Running
let owner: Editor
const ids: string[] = []
let published: string

const bytes = async (editor: Editor, baseUrl: string, token: string) => {
  const reader = new Reader({ baseUrl, site: 'marram', token })
  const all = []
  for (const id of ids) all.push(await reader.entry('museum', id, { locale: 'nl' }))
  return JSON.stringify([
    all,
    (await editor.entries({ type: 'museum' })).entries.map((entry) => [entry.id, entry.states]),
  ])
}

beforeAll(async () => {
  small = await startSmall({}, () => now)
  const refusing = await startReceiver(() => 500)
  const accepting = await startReceiver()
  await small.owner.webhooks.create({ label: 'Refuses', address: refusing.address })
  const off = await small.owner.webhooks.create({ label: 'Off', address: refusing.address, events: ['entry.created'] })
  const hears = await small.owner.webhooks.create({ label: 'Hears', address: accepting.address })
  for (let number = 0; number < 4; number++) {
    const { id } = await small.owner.create({ type: 'museum', values: { name: { en: `Museum ${number}` } } })
    ids.push(id)
    await small.owner.publish(id)
  }
  await small.owner.webhooks.change(off.id, { enabled: false })
  await small.owner.edit(ids[0]!, 2, [{ do: 'set', at: ['town'], value: 'Tern Bay' }], 'kept-for-a-day')
  await small.owner.waitFor(await small.owner.bulk({ do: 'archive', ids: [ids[3]!] }))
  const at = new Date(now + 60_000).toISOString()
  await small.owner.cancelSchedule((await small.owner.schedule(ids[1]!, { does: 'withdraw', at })).id)
  await small.owner.compareModel((await small.owner.model()).files)
  await accepting.until(4)
  await eventually(
    () => small.owner.webhooks.deliveries(hears.id),
    ({ deliveries }) => deliveries.every((delivery) => delivery.status === 'delivered'),
  )
  published = await bytes(small.owner, small.service.baseUrl, small.token)
  await small.service.stop()
  await refusing.stop()
  await accepting.stop()
  // A session has ended by then: people sign in again.
  now += 100 * day
  later = await start({}, small.service.folder, () => now)
  const { token } = await new Service({ baseUrl: later.baseUrl }).signIn({
    email: 'maren@marram.example',
    password: 'wind-from-the-west',
    as: 'token',
  })
  owner = new Service({ baseUrl: later.baseUrl, token: token! }).site('marram')
  small = { ...small, token: token! }
})
afterAll(() => later?.end())

describe('after a hundred days', () => {
  it('nothing grows for ever', async () => {
    const database = await Database.open({ file: join(later.folder, 'wisteria.db') })
    const count = async (table: string, where = 'true') =>
      (await database.all<{ count: number }>(`select count(*) as count from ${table} where ${where}`))[0]!.count
    const waiting = await count('deliveries', "status in ('waiting', 'failed')")
    expect({
      saves: await count('saves'),
      jobs: await count('jobs'),
      items: await count('job_items'),
      schedules: await count('schedules'),
      proposals: await count('proposals'),
      idempotency: await count('idempotency'),
      sessions: await count('sessions'),
      delivered: await count('deliveries', "status = 'delivered'"),
      waitingForOff: await count('deliveries', "webhook in (select id from webhooks where label = 'Off')"),
    }).toEqual({
      saves: 0,
      jobs: 0,
      items: 0,
      schedules: 0,
      proposals: 0,
      idempotency: 0,
      sessions: 1,
      delivered: 0,
      waitingForOff: 0,
    })
    // A waiting delivery keeps its event; the newest event stays in any case.
    expect(waiting).toBeGreaterThan(0)
    expect(await count('events')).toBeLessThanOrEqual(waiting + 1)
    await database.close()
  })
  it('what is stored reads as before, and is rebuilt to the same bytes', async () => {
    expect(await bytes(owner, later.baseUrl, small.token)).toBe(published)
    await owner.rebuild()
    expect(await bytes(owner, later.baseUrl, small.token)).toBe(published)
  })
  it('edits on a version that is too old to merge with are refused, and newer ones merge', async () => {
    const { version } = await owner.entry(ids[0]!)
    const old = await refusal<{ code: string }>(() => owner.edit(ids[0]!, 1, [{ do: 'set', at: ['town'], value: 'x' }]))
    expect(old.code).toBe('stale')
    await owner.edit(ids[0]!, version, [{ do: 'set', at: ['name'], locale: 'nl', value: 'Vuurtoren' }])
    const merged = await owner.edit(ids[0]!, version, [{ do: 'set', at: ['town'], value: 'Oyster Creek' }])
    expect([merged.merged, merged.values['town']]).toEqual([true, 'Oyster Creek'])
  })
  it('readers who ask from then on are told to read anew', async () => {
    const reader = new Reader({ baseUrl: later.baseUrl, site: 'marram', token: small.token })
    expect((await refusal<{ status: number }>(() => reader.changes(0))).status).toBe(410)
    const { position } = await reader.changes()
    expect((await reader.changes(position)).changes).toEqual([])
  })
})
