import type { Editor, WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { refusal } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let museum: string

const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)
const raw = async (path: string, body?: unknown) => {
  const response = await fetch(`${small.service.baseUrl}/edit/v1/sites/marram${path}`, {
    ...(body === undefined ? {} : { method: 'POST', body: JSON.stringify(body) }),
    headers: { Authorization: `Bearer ${small.token}`, 'Content-Type': 'application/json' },
  })
  return {
    status: response.status,
    body: (await response.json()) as { detail: string; problems?: { pointer: string }[] },
  }
}

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  museum = (await owner.create({ type: 'museum', values: { name: { en: 'The Lighthouse' } } })).id
  await owner.publish(museum)
})
afterAll(() => small.service.end())

let walks = 0

/** Published, and changed in four places since: revision 1 is public, 2 is open. */
async function walked() {
  walks++
  const created = await owner.create({
    type: 'activity',
    values: {
      title: { en: 'Night Walk', nl: 'Nachtwandeling' },
      slug: { en: `night-walk-${walks}`, nl: `nachtwandeling-${walks}` },
      format: 'walk',
      museum,
      price: 9,
      body: [
        { id: 'h1', block: 'heading', values: { text: { en: 'Bring a torch', nl: 'Neem een zaklamp mee' } } },
        { id: 'q1', block: 'quote', values: { text: { en: 'Dark is not empty.', nl: 'Donker is niet leeg.' } } },
      ],
    },
  })
  const { version } = await owner.publish(created.id)
  await owner.edit(created.id, version, [
    { do: 'set', at: ['title'], locale: 'en', value: 'Dawn Walk' },
    { do: 'move', at: ['body', 'q1'], after: null },
    { do: 'set', at: ['body', 'h1', 'text'], locale: 'en', value: 'Bring a lamp' },
    { do: 'clear', at: ['price'] },
  ])
  return created.id
}
const told = async (id: string, points?: Parameters<Editor['compare']>[1]) =>
  (await owner.compare(id, points)).differences.map(({ how, at }) => `${how} ${at.join('/')}`)

describe('comparing', () => {
  it('says what differs from what is public, word by word and block by block', async () => {
    const id = await walked()
    const { from, to, differences } = await owner.compare(id)
    expect([from, to]).toEqual(['public', 'working'])
    expect(differences.map(({ how, at, locale }) => [how, at.join('/'), locale])).toEqual([
      ['changed', 'title', 'en'],
      ['removed', 'price', null],
      ['moved', 'body/q1', null],
      ['changed', 'body/h1/text', 'en'],
    ])
    expect(differences[3]!.words).toEqual([
      { is: 'same', text: 'Bring a ' },
      { is: 'removed', text: 'torch' },
      { is: 'added', text: 'lamp' },
    ])
  })
  it('compares any two revisions, either way round, also over a model that has changed', async () => {
    const id = await walked()
    expect(await told(id, { from: 2, to: 1 })).toContain('added price')
    expect(await told(id, { from: 1, to: 1 })).toEqual([])
    expect(await told(id, { from: 'working', to: 2 })).toEqual([])
    const first = await owner.revision(id, 1)
    expect(first).toMatchObject({
      number: 1,
      publicIn: ['en', 'nl'],
      values: { price: 9, title: { en: 'Night Walk' } },
    })
  })
  it('sees the whole entry as new while nothing is public', async () => {
    const { id } = await owner.create({ type: 'activity', values: { title: { en: 'First' }, format: 'talk' } })
    expect(await told(id)).toEqual(['added title', 'added slug', 'added format'])
  })
  it('shows the public edition as readers get it, each locale from its own revision', async () => {
    const id = await walked()
    await owner.publish(id, { locales: ['en'] })
    const { version } = await owner.entry(id)
    await owner.edit(id, version, [{ do: 'set', at: ['title'], locale: 'nl', value: 'Ochtendwandeling' }])
    expect(await told(id)).toEqual(['changed title'])
  })
  it.each([
    ['from=0', 400, /from/],
    ['from=soon', 400, /a number of a revision, `public` or `working`/],
    ['from=1&to=99', 404, /It has 1 to 2|it has 1 to 2/],
    ['until=2', 400, /until/],
  ])('refuses ?%s', async (query, status, message) => {
    const answer = await raw(`/entries/${await walked()}/compare?${query}`)
    expect([answer.status, answer.body.detail]).toEqual([status, expect.stringMatching(message)])
  })
})

describe('restoring', () => {
  it.each(['public', 1] as const)('brings a translation back as fresh as it was: from %s', async (from) => {
    const id = await walked()
    const { version } = await owner.entry(id)
    const both = await owner.edit(id, version, [
      { do: 'set', at: ['title'], locale: 'nl', value: 'Ochtendwandeling' },
      { do: 'set', at: ['body', 'h1', 'text'], locale: 'nl', value: 'Neem een lamp mee' },
    ])
    expect(both.freshness['nl']).toBe('current')
    // The earlier Dutch title was made from the earlier English one.
    const restored = await owner.restore(id, { from, places: [{ at: ['title'], locale: 'nl' }] })
    expect([restored.values['title'], restored.freshness['nl']]).toEqual([
      { en: 'Dawn Walk', nl: 'Nachtwandeling' },
      'outdated',
    ])
    expect((await owner.restore(id, { from })).freshness['nl']).toBe('current')
  })

  it('puts everything back in one save, and keeps what was there as a revision', async () => {
    const id = await walked()
    const before = await owner.entry(id)
    const restored = await owner.restore(id, { from: 1, version: before.version })
    expect(restored.changed).toBeGreaterThan(3)
    expect(restored.version).toBe(before.version + 1)
    expect(await told(id)).toEqual([])
    expect(restored.state).toBe('public')
    expect((await owner.restore(id, { from: 1 })).version).toBe(restored.version)
    // Also within one sitting: the state until now can be restored too.
    await owner.restore(id, { from: before.revision })
    expect((await owner.entry(id)).values).toEqual(before.values)
  })
  it('puts one field back, in one locale or inside a block, and leaves the rest', async () => {
    const id = await walked()
    await owner.restore(id, { from: 'public', places: [{ at: ['title'], locale: 'en' }] })
    expect(await told(id)).toEqual(['removed price', 'moved body/q1', 'changed body/h1/text'])
    await owner.restore(id, { from: 1, places: [{ at: ['body', 'h1', 'text'] }, { at: ['price'] }] })
    expect(await told(id)).toEqual(['moved body/q1'])
    await owner.restore(id, { from: 1, places: [{ at: ['body'] }] })
    expect(await told(id)).toEqual([])
  })
  it('refuses to bring back a reference to an entry that is gone, and says where', async () => {
    const other = await owner.create({ type: 'museum', values: { name: { en: 'Gone' } } })
    const { id } = await owner.create({ type: 'activity', values: { title: { en: 'Refers' }, museum: other.id } })
    await raw(`/entries/${id}/revisions`, {})
    await owner.edit(id, 1, [{ do: 'set', at: ['museum'], value: museum }])
    await owner.delete(other.id)
    const { version } = await owner.entry(id)
    const answer = await raw(`/entries/${id}/restore`, { from: 1 })
    expect([answer.status, answer.body.problems]).toEqual([
      422,
      [expect.objectContaining({ code: 'unknownEntry', pointer: '/values/museum' })],
    ])
    expect((await owner.entry(id)).version).toBe(version)
  })
  it.each([
    [{ from: 'working' }, 400, /must be a number of a revision, or `public`/],
    [{ from: 7 }, 404, /no revision 7/],
    [{ from: 1, places: [] }, 400, /places/],
    [{ from: 1, places: [{ at: ['body', 'h1'] }] }, 400, /must name a field/],
    [{}, 400, /from/],
  ])('refuses %j', async (body, status, message) => {
    const id = await walked()
    const { version } = await owner.entry(id)
    const answer = await raw(`/entries/${id}/restore`, body)
    expect([answer.status, JSON.stringify(answer.body)]).toEqual([status, expect.stringMatching(message)])
    expect((await owner.entry(id)).version).toBe(version)
  })
  it('has nothing to restore from while nothing is public, and only restores what was seen', async () => {
    const { id } = await owner.create({ type: 'activity', values: { title: { en: 'New' } } })
    expect((await problem(() => owner.restore(id, { from: 'public' }))).message).toMatch(/The entry is not public/)
    expect((await problem(() => owner.restore(id, { from: 1, version: 9 }))).status).toBe(412)
  })
})
