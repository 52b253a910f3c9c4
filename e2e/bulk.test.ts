import { Service, type BulkOrder, type Editor, type Job, type WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { refusal } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor

const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)
let people = 0
const person = async (name = `Person ${++people}`) => (await owner.create({ type: 'person', values: { name } })).id
const some = async (count: number) => {
  const ids: string[] = []
  for (let number = 0; number < count; number++) ids.push(await person())
  return ids
}
const run = async (order: BulkOrder): Promise<Job> => owner.waitFor(await owner.bulk(order))
const undoJob = async (job: Job): Promise<Job> => owner.waitFor(await owner.undoJob(job.id))
const statesOf = (ids: readonly string[]) => Promise.all(ids.map(async (id) => (await owner.entry(id)).state))

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
})
afterAll(() => small.service.end())

describe('many at once', () => {
  it('are published in a job, those that cannot be are refused each with its reason, and all of it can be undone', async () => {
    const ids = await some(5)
    await owner.edit(ids[2]!, 1, [{ do: 'clear', at: ['name'] }])
    const job = await run({ do: 'publish', ids })
    expect([job.state, job.done, job.total, job.message]).toEqual(['done', 5, 5, '4 done, 1 refused.'])
    expect([job.does, job.undoes]).toEqual(['publish', null])
    const { items } = await owner.bulkItems(job.id)
    expect(items.map(({ state }) => state)).toEqual(['done', 'done', 'refused', 'done', 'done'])
    expect(items[2]!.message).toMatch(/Name is empty/)
    expect((await owner.bulkItems(job.id, { refused: true })).items).toEqual([items[2]])
    // One of them is changed again: that one is not undone.
    const { version } = await owner.entry(ids[0]!)
    await owner.edit(ids[0]!, version, [{ do: 'set', at: ['name'], value: 'Changed since' }])
    const back = await undoJob(job)
    expect(back.message).toBe('3 done, 1 refused.')
    const { jobs } = await owner.jobs()
    expect(jobs.find(({ id }) => id === back.id)).toMatchObject({ does: 'publish', undoes: job.id })
    expect(await statesOf(ids)).toEqual(['edited', 'withdrawn', 'new', 'withdrawn', 'withdrawn'])
    const [refused] = (await owner.bulkItems(back.id, { refused: true })).items
    expect(refused).toMatchObject({ entry: ids[0], message: 'Somebody changed it since. It stays as it is.' })
    expect((await problem(() => owner.undoJob(back.id))).status).toBe(409)
  })
  it('are undone to exactly what was public before', async () => {
    const [id] = await some(1)
    await owner.publish(id!)
    const { version } = await owner.entry(id!)
    await owner.edit(id!, version, [{ do: 'set', at: ['name'], value: 'Another name' }])
    const job = await run({ do: 'publish', ids: [id!] })
    expect((await owner.compare(id!)).differences).toEqual([])
    await undoJob(job)
    const { differences } = await owner.compare(id!)
    expect(differences.map(({ before, after }) => [before, after])).toEqual([[`Person ${people}`, 'Another name']])
  })
  it('get a value, and get the old one back', async () => {
    const ids = await some(3)
    const job = await run({ do: 'edit', ids, edits: [{ do: 'set', at: ['born'], value: '1901-02-03' }] })
    const bornOf = (all: readonly string[]) =>
      Promise.all(all.map(async (id) => (await owner.entry(id)).values['born']))
    expect(await bornOf(ids)).toEqual(['1901-02-03', '1901-02-03', '1901-02-03'])
    const again = await run({ do: 'edit', ids, edits: [{ do: 'set', at: ['born'], value: '1901-02-03' }] })
    expect(again.message).toBe('0 done, 3 refused.')
    await undoJob(job)
    expect(await bornOf(ids)).toEqual([undefined, undefined, undefined])
  })
  it('are archived, deleted and duplicated, and undone', async () => {
    const ids = await some(2)
    await owner.publish(ids[0]!)
    const archived = await run({ do: 'archive', ids })
    expect(await statesOf(ids)).toEqual(['archived', 'archived'])
    await undoJob(archived)
    expect(await statesOf(ids)).toEqual(['public', 'new'])
    const copied = await run({ do: 'duplicate', ids })
    const named = async () =>
      (await owner.entries({ type: 'person', where: `name = "Person ${people}"` })).entries.length
    expect(await named()).toBe(2)
    await undoJob(copied)
    expect(await named()).toBe(1)
    const deleted = await run({ do: 'delete', ids })
    expect(deleted.message).toBe('1 done, 1 refused.')
    expect((await problem(() => owner.entry(ids[1]!))).status).toBe(404)
    await undoJob(deleted)
    expect(await statesOf(ids)).toEqual(['public', 'new'])
    await owner.withdraw(ids[0]!)
    expect((await run({ do: 'delete', ids })).message).toBe('2 done.')
  })
  it('may hang on each other: parents are published first, and withdrawn last', async () => {
    const make = async (title: string, inPage?: string) =>
      (await owner.create({ type: 'page', values: { title: { en: title }, ...(inPage ? { inPage } : {}) } })).id
    const above = await make('Above')
    const below = await make('Below', above)
    const order = [below, above]
    expect((await run({ do: 'publish', ids: order })).message).toBe('2 done.')
    expect((await run({ do: 'withdraw', ids: [above, below] })).message).toBe('2 done.')
    expect((await run({ do: 'delete', ids: [above, below] })).message).toBe('2 done.')
  })
  it('are all that a condition finds, frozen when the job begins', async () => {
    for (const name of ['Zeger', 'Zita', 'Zoltan']) await person(name)
    const job = await run({ do: 'publish', type: 'person', where: 'name starts with "Z"' })
    expect([job.total, job.message]).toEqual([3, '3 done.'])
    expect((await problem(() => owner.bulk({ do: 'publish' }))).message).toMatch(/Say which entries/)
    expect((await problem(() => owner.bulk({ do: 'publish', ids: ['x'], all: true }))).status).toBe(400)
    expect((await problem(() => owner.bulk({ do: 'publish', type: 'person', where: 'nam = "Z"' }))).message).toMatch(
      /Did you mean `name`/,
    )
  })
  it('are tried first without changing anything', async () => {
    const [good, bad] = await some(2)
    await owner.edit(bad!, 1, [{ do: 'clear', at: ['name'] }])
    const { events: before } = await owner.events(0, 500)
    const trial = await owner.tryBulk({ do: 'publish', ids: [good!, bad!] })
    expect([trial.total, trial.tried, trial.items.map(({ state }) => state)]).toEqual([2, 2, ['done', 'refused']])
    expect(await statesOf([good!, bad!])).toEqual(['new', 'new'])
    expect((await owner.events(0, 500)).events).toEqual(before)
  })
  it.each([
    [{ do: 'edit' }, /`edits` must say what to change/],
    [{ do: 'publish', edits: [{ do: 'clear', at: ['name'] }] }, /Only `do: edit` takes `edits`/],
    [{ do: 'delete', locales: ['en'] }, /Only `publish` and `withdraw` take `locales`/],
    [{ do: 'publish', locales: ['xx'] }, /`xx` is not a locale/],
    [{ do: 'burn' }, /must be one of publish/],
  ])('refuse %j', async (order, message) => {
    const ids = [await person()]
    const refusal = await problem(() => owner.bulk({ ids, ...order } as never))
    expect(JSON.stringify([refusal.message, refusal.problems])).toMatch(message)
  })
  it('are stopped on the way, and what is done stays done', async () => {
    const ids = await some(40)
    const job = await owner.bulk({ do: 'publish', ids })
    const stopped = await owner.stopJob(job.id)
    expect(stopped.state).toBe('stopped')
    const states = await statesOf(ids)
    const done = states.filter((state) => state === 'public').length
    expect(stopped.message).toMatch(new RegExp(`^It was stopped. ${done} done`))
    await undoJob(stopped)
    expect(new Set(await statesOf(ids.slice(0, done)))).toEqual(done > 0 ? new Set(['withdrawn']) : new Set())
  })
  it('are changed with the rights that somebody has at each of them', async () => {
    await owner.addMember({
      email: 'tess@marram.example',
      name: 'Tess',
      password: 'lanterns-at-low-tide',
      role: 'editor',
      locales: ['nl'],
    })
    const service = new Service({ baseUrl: small.service.baseUrl })
    const { token } = await service.signIn({
      email: 'tess@marram.example',
      password: 'lanterns-at-low-tide',
      as: 'token',
    })
    const tess = new Service({ baseUrl: small.service.baseUrl, token: token! }).site('marram')
    const ids = await some(2)
    const job = await tess.waitFor(await tess.bulk({ do: 'publish', ids }))
    expect(job.message).toBe('0 done, 2 refused.')
    expect((await tess.bulkItems(job.id)).items[0]!.message).toMatch(/limited to nl/)
  })
})

describe('publishing together', () => {
  it('publishes an entry with what it needs, all or nothing', async () => {
    const make = async (title: string, inPage?: string) =>
      (await owner.create({ type: 'page', values: { title: { en: title }, ...(inPage ? { inPage } : {}) } })).id
    const above = await make('Visit')
    const below = await make('By boat', above)
    const alone = await owner.consequences(below)
    expect(alone.problems.map(({ code }) => code)).toContain('parentNotPublic')
    const both = await owner.consequences(below, undefined, [above])
    expect([both.problems, both.together]).toEqual([
      [],
      [expect.objectContaining({ id: above, title: 'Visit', problems: [] })],
    ])
    await owner.edit(above, 1, [{ do: 'clear', at: ['title'], locale: 'en' }])
    const refused = await problem(() => owner.publish(below, { together: [above] }))
    expect([refused.status, await statesOf([above, below])]).toEqual([422, ['new', 'new']])
    await owner.edit(above, 2, [{ do: 'set', at: ['title'], locale: 'en', value: 'Visit us' }])
    await owner.publish(below, { together: [above] })
    expect(await statesOf([above, below])).toEqual(['public', 'public'])
    const { events } = await owner.events(0, 500)
    const acts = events
      .filter((event) => event['type'] === 'entry.published')
      .slice(-2)
      .map((event) => (event['data'] as { action: string }).action)
    expect(new Set(acts).size).toBe(1)
  })
})

describe('saved views', () => {
  it('are kept for oneself or for everybody, and are ones that can be asked for', async () => {
    const mine = await owner.saveView({
      name: 'Zs',
      asks: { type: 'person', where: 'name starts with "Z"', columns: ['born'] },
    })
    await owner.saveView({ name: 'Edited', shared: true, asks: { where: 'entry.state = "edited"' } })
    expect((await owner.views()).views.map(({ name, shared, own: mine }) => [name, shared, mine])).toEqual([
      ['Zs', false, true],
      ['Edited', true, true],
    ])
    const changed = await owner.changeView(mine.id, { name: 'All Zs', asks: mine.asks })
    expect(changed.name).toBe('All Zs')
    await owner.deleteView(mine.id)
    expect((await owner.views()).views.map(({ name }) => name)).toEqual(['Edited'])
    expect((await problem(() => owner.deleteView(mine.id))).status).toBe(404)
    const bad = { name: 'Bad', asks: { type: 'person', where: 'nam = "Z"' } }
    expect((await problem(() => owner.saveView(bad))).message).toMatch(/Did you mean `name`/)
    expect((await problem(() => owner.saveView({ name: '  ', asks: {} }))).status).toBe(400)
    // In a locale: by freshness, and by who changed an entry.
    const asks = { where: 'entry.freshness = "outdated" and entry.updatedBy has value', locale: 'nl' }
    expect((await owner.saveView({ name: 'To translate', asks })).asks).toEqual(asks)
    const elsewhere = { name: 'Elsewhere', asks: { locale: 'xx' } }
    expect((await problem(() => owner.saveView(elsewhere))).message).toMatch(/`xx` is not a locale/)
  })
})

describe('who else has an entry open', () => {
  it('is told to everybody who has, until they leave', async () => {
    const service = new Service({ baseUrl: small.service.baseUrl })
    const { token, account } = await service.signIn({
      email: 'tess@marram.example',
      password: 'lanterns-at-low-tide',
      as: 'token',
    })
    const tess = new Service({ baseUrl: small.service.baseUrl, token: token! }).site('marram')
    const id = await person()
    expect((await owner.presence(id)).others).toEqual([])
    expect((await tess.presence(id, { at: '/values/name' })).others.length).toBe(1)
    const { others, version } = await owner.presence(id)
    expect([others.map(({ actor, at }) => [actor, at]), version]).toEqual([
      [[`account:${account.id}`, '/values/name']],
      1,
    ])
    await tess.presence(id, { left: true })
    expect((await owner.presence(id)).others).toEqual([])
  })
})
