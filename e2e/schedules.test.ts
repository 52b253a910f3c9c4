import { Service, type Editor, type WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { refusal } from './support/models.js'
import { eventually, ownerOf, start, startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let now = Date.parse('2031-03-12T09:00:00Z')
const minute = 60_000

const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)
const at = (minutes: number) => new Date(now + minutes * minute).toISOString()

let museums = 0
const museum = async (values: Record<string, unknown> = {}) => {
  museums++
  return owner.create({
    type: 'museum',
    values: { name: { en: `House ${museums}`, nl: `Huis ${museums}` }, ...values },
  })
}
/** The clock goes on; any save wakes the service, as its own timer would. */
async function pass(minutes: number) {
  now += minutes * minute
  await museum()
}
const stateOf = async (id: string) => (await owner.entry(id)).state
const became = (id: string, state: string) =>
  eventually(
    () => stateOf(id),
    (is) => is === state,
  )

beforeAll(async () => {
  small = await startSmall({}, () => now)
  owner = small.owner
})
afterAll(() => small.service.end())

describe('a schedule', () => {
  it('publishes the working copy as it stands at its time, and tells when it is done', async () => {
    const { id } = await museum()
    const plan = await owner.schedule(id, { does: 'publish', at: at(30), locales: ['en'] })
    expect(plan).toMatchObject({ entry: id, does: 'publish', at: at(30), zone: 'Europe/Amsterdam', state: 'scheduled' })
    await owner.edit(id, 1, [{ do: 'set', at: ['name'], locale: 'en', value: 'The Lighthouse' }])
    await pass(29)
    expect(await stateOf(id)).toBe('new')
    await pass(1)
    await became(id, 'public')
    const entry = await owner.entry(id)
    expect([entry.title, entry.states['nl']]).toEqual(['The Lighthouse', 'new'])
    expect((await owner.schedules({ entry: id })).schedules).toEqual([])
    expect((await owner.schedules({ entry: id, ended: true })).schedules).toMatchObject([
      { id: plan.id, state: 'done' },
    ])
  })
  it('takes an entry down at its time', async () => {
    const { id } = await museum()
    await owner.publish(id)
    await owner.schedule(id, { does: 'withdraw', at: at(5) })
    await pass(5)
    await became(id, 'withdrawn')
  })
  it('that has become invalid does nothing, and says why', async () => {
    const { id } = await museum()
    await owner.schedule(id, { does: 'publish', at: at(5) })
    await owner.edit(id, 1, [
      { do: 'clear', at: ['name'], locale: 'en' },
      { do: 'clear', at: ['name'], locale: 'nl' },
      { do: 'set', at: ['slug'], locale: 'en', value: 'x' },
    ])
    await pass(5)
    const [ended] = await eventually(
      async () => (await owner.schedules({ entry: id, ended: true })).schedules,
      (all) => all.length === 1,
    )
    expect(ended).toMatchObject({ state: 'failed', message: expect.stringMatching(/Name is empty/) as string })
    expect(await stateOf(id)).toBe('new')
    const { events } = await owner.events(0, 500)
    const told = events.filter((event) => event['subject'] === `entries/${id}`).map((event) => event['type'])
    expect(told).toEqual(['entry.created', 'entry.scheduled', 'entry.saved', 'entry.scheduleFailed'])
  })
  it('is changed and cancelled, and then nothing happens', async () => {
    const { id } = await museum()
    const plan = await owner.schedule(id, { does: 'publish', at: at(10), zone: 'Asia/Tokyo' })
    const moved = await owner.reschedule(plan.id, { at: at(20), zone: 'Asia/Tokyo' })
    expect([moved.at, moved.zone]).toEqual([at(20), 'Asia/Tokyo'])
    await pass(10)
    expect(await stateOf(id)).toBe('new')
    await owner.cancelSchedule(plan.id)
    await pass(10)
    expect(await stateOf(id)).toBe('new')
    expect((await problem(() => owner.cancelSchedule(plan.id))).message).toBe('This schedule is cancelled already.')
    expect((await problem(() => owner.reschedule(plan.id, { at: at(5) }))).status).toBe(409)
  })
  it('may be said as what the clocks somewhere show', async () => {
    const { id } = await museum()
    const summer = await owner.schedule(id, { does: 'publish', at: '2031-07-01T09:00' })
    expect([summer.at, summer.zone]).toEqual(['2031-07-01T07:00:00.000Z', 'Europe/Amsterdam'])
    const tokyo = await owner.reschedule(summer.id, { at: '2031-07-01 09:00', zone: 'Asia/Tokyo' })
    expect(tokyo.at).toBe('2031-07-01T00:00:00.000Z')
    await owner.cancelSchedule(tokyo.id)
  })
  it('goes with its entry when that is deleted', async () => {
    const { id } = await museum()
    await owner.schedule(id, { does: 'publish', at: at(3) })
    await owner.delete(id)
    await pass(4)
    await owner.restoreFromBin(id)
    expect(await stateOf(id)).toBe('new')
  })
  it('does what was due while the service was down', async () => {
    const { id } = await museum()
    await owner.schedule(id, { does: 'publish', at: at(60) })
    await small.service.stop()
    now += 90 * minute
    const service = await start({}, small.service.folder, () => now)
    const { email, password } = ownerOf
    const { token } = await new Service({ baseUrl: service.baseUrl }).signIn({ email, password, as: 'token' })
    owner = new Service({ baseUrl: service.baseUrl, token: token! }).site('marram')
    small = { service, owner, token: token! }
    await became(id, 'public')
  })
  it('is not carried out for somebody who may no longer do it', async () => {
    await owner.addMember({
      email: 'ilse@marram.example',
      name: 'Ilse',
      password: 'dunes-and-samphire',
      role: 'editor',
    })
    const service = new Service({ baseUrl: small.service.baseUrl })
    const { token, account } = await service.signIn({
      email: 'ilse@marram.example',
      password: 'dunes-and-samphire',
      as: 'token',
    })
    const ilse = new Service({ baseUrl: small.service.baseUrl, token: token! }).site('marram')
    const { id } = await museum()
    await ilse.schedule(id, { does: 'publish', at: at(5) })
    await owner.changeMember(account.id, { role: 'viewer' })
    await pass(5)
    const [ended] = await eventually(
      async () => (await owner.schedules({ entry: id, ended: true })).schedules,
      (all) => all.length === 1,
    )
    expect(ended).toMatchObject({
      state: 'failed',
      message: expect.stringMatching(/no longer has the right/) as string,
    })
    expect(await stateOf(id)).toBe('new')
  })
  it.each([
    [{ at: '2031-01-01T00:00:00Z' }, /has passed/],
    [{ at: '2099-01-01T00:00:00Z' }, /within 10 years/],
    [{ at: '2031-12-01T00:00:00Z', zone: 'Mars/Olympus' }, /`Mars\/Olympus` is not a time zone/],
    [{ at: '2031-12-01T00:00:00Z', locales: ['xx'] }, /`xx` is not a locale/],
    [{ at: '2031-02-30T09:00' }, /is not a time/],
    [{ at: '2031-03-30T02:30' }, /does not exist in Europe\/Amsterdam: the clocks go forward/],
    [
      { at: '2031-10-26T02:30' },
      /comes twice in Europe\/Amsterdam. Add `\+02:00` for the first time or `\+01:00` for the second/,
    ],
    [{ at: 'tomorrow' }, /must be an instant/],
  ])('is refused for %j', async (plan, message) => {
    const { id } = await museum()
    expect((await problem(() => owner.schedule(id, { does: 'publish', ...plan }))).message).toMatch(message)
    expect((await owner.schedules({ entry: id })).schedules).toEqual([])
  })
})
