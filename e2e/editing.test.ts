import type { WisteriaProblem } from '@wisteria/client'
import { type Editor } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { refusal } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let museum: string

const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)
const raw = (path: string, init: RequestInit & { headers?: Record<string, string> } = {}) =>
  fetch(`${small.service.baseUrl}/edit/v1/sites/marram${path}`, {
    ...init,
    headers: {
      Authorization: `Bearer ${small.token}`,
      ...(init.body ? { 'Content-Type': 'application/json' } : {}),
      ...init.headers,
    },
  })
const make = (title: string, more: object = {}) =>
  owner.create({ type: 'activity', values: { title: { en: title }, format: 'walk', museum, ...more } })

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  museum = (
    await owner.publish(
      (
        await owner.create({
          type: 'museum',
          values: { name: { en: 'The Lighthouse', nl: 'De Vuurtoren' }, town: 'Sanderling Head' },
        })
      ).id,
    )
  ).id
})
afterAll(() => small.service.end())

describe('creating', () => {
  it('makes slugs, ids and states, and says where the entry is', async () => {
    const response = await raw('/entries', {
      method: 'POST',
      body: JSON.stringify({
        type: 'activity',
        values: { title: { en: 'Night Walk', nl: 'Nachtwandeling' }, tags: ['dark'] },
      }),
    })
    expect(response.status).toBe(201)
    const entry = (await response.json()) as Record<string, never>
    expect(response.headers.get('location')).toBe(`/edit/v1/sites/marram/entries/${String(entry['id'])}`)
    expect(response.headers.get('etag')).toBe('"v1"')
    expect(entry).toMatchObject({
      version: 1,
      revision: 1,
      state: 'new',
      title: 'Night Walk',
      paths: { en: '/activities/night-walk', nl: '/nl/agenda/nachtwandeling' },
    })
    expect(entry['values']).toMatchObject({
      slug: { en: 'night-walk', nl: 'nachtwandeling' },
      tags: [{ id: expect.stringMatching(/^[0-9a-z]{8}$/) as string, value: 'dark' }],
    })
  })
  it('refuses what does not fit, with the places, and stores nothing', async () => {
    const before = (await owner.entries({ type: 'activity', count: true })).count
    const error = await problem(() =>
      owner.create({ type: 'activity', values: { titel: 1, price: 'x', museum: '0'.repeat(20) } }),
    )
    expect(error.status).toBe(422)
    expect(error.problems.map((problem) => problem.pointer)).toEqual(['/values/titel', '/values/price'])
    expect((await problem(() => make('x', { museum: '0'.repeat(20) }))).problems[0]?.pointer).toBe('/values/museum')
    const person = await owner.create({ type: 'person', values: { name: 'Anna' } })
    expect((await problem(() => make('x', { museum: person.id }))).message).toMatch(
      /Museum takes museum, and .* is of type person/,
    )
    expect((await problem(() => owner.create({ type: 'activty', values: {} }))).message).toMatch(
      /Did you mean `activity`\?/,
    )
    expect((await owner.entries({ type: 'activity', count: true })).count).toBe(before)
  })
  it('does it once for an idempotency key, also when sent twice at once', async () => {
    const entry = { type: 'person', values: { name: 'Once' } }
    const [first, two] = await Promise.all([owner.create(entry, 'key-1'), owner.create(entry, 'key-1')])
    expect(two.id).toBe(first.id)
    expect((await owner.entries({ type: 'person', where: 'name = "Once"', count: true })).count).toBe(1)
    const error = await problem(() => owner.create({ ...entry, values: { name: 'Other' } }, 'key-1'))
    expect([error.status, error.code]).toEqual([422, 'keyReused'])
    const replayed = await raw('/entries', {
      method: 'POST',
      body: JSON.stringify(entry),
      headers: { 'Idempotency-Key': 'key-1' },
    })
    expect([replayed.status, replayed.headers.get('idempotency-replayed')]).toEqual([201, 'true'])
  })
  it('forgets a key whose request failed', async () => {
    await problem(() => owner.create({ type: 'person', values: { name: 3 } }, 'key-2'))
    expect((await owner.create({ type: 'person', values: { name: 'Now' } }, 'key-2')).title).toBe('Now')
  })
  it('takes an id of one’s own once', async () => {
    const id = '01hzabcdefghjkmnpqrs'
    expect((await owner.create({ type: 'person', id, values: { name: 'Own' } })).id).toBe(id)
    expect((await problem(() => owner.create({ type: 'person', id, values: { name: 'Own' } }))).status).toBe(409)
  })
})

describe('changing by edits', () => {
  it('merges what does not touch, from the same version', async () => {
    const entry = await make('Merge', {
      body: [
        { id: 'h1', block: 'heading', values: { text: { en: 'One' } } },
        { id: 'q1', block: 'quote', values: { text: { en: 'Two' } } },
      ],
    })
    const moved = await owner.edit(entry.id, 1, [{ do: 'move', at: ['body', 'q1'], after: null }])
    expect([moved.version, moved.merged]).toEqual([2, false])
    const written = await owner.edit(entry.id, 1, [
      { do: 'set', at: ['body', 'q1', 'text'], locale: 'en', value: 'Two, better' },
    ])
    expect([written.version, written.merged]).toEqual([3, true])
    expect(written.values['body']).toEqual([
      { id: 'q1', block: 'quote', values: { text: { en: 'Two, better' } } },
      { id: 'h1', block: 'heading', values: { text: { en: 'One' } } },
    ])
  })
  it('asks about the same place, showing both', async () => {
    const entry = await make('Conflict')
    await owner.edit(entry.id, 1, [{ do: 'set', at: ['title'], locale: 'en', value: 'Theirs' }])
    const error = await problem(() =>
      owner.edit(entry.id, 1, [{ do: 'set', at: ['title'], locale: 'en', value: 'Mine' }]),
    )
    expect([error.status, error.code]).toEqual([409, 'editConflict'])
    expect(error.message).toMatch(/Somebody changed Title in version 2/)
    expect(error.details['conflicts']).toEqual([
      {
        place: ['title'],
        locale: 'en',
        yours: { do: 'set', value: 'Mine' },
        theirs: { do: 'set', place: ['title'], value: 'Theirs' },
        by: expect.stringMatching(/^account:/) as string,
      },
    ])
    expect((await owner.entry(entry.id)).title).toBe('Theirs')
  })
  it('tells of a block that somebody removed meanwhile', async () => {
    const entry = await make('Gone', { body: [{ id: 'h1', block: 'heading', values: {} }] })
    await owner.edit(entry.id, 1, [{ do: 'remove', at: ['body', 'h1'] }])
    const error = await problem(() =>
      owner.edit(entry.id, 1, [{ do: 'set', at: ['body', 'h1', 'text'], locale: 'en', value: 'x' }]),
    )
    expect([error.status, error.code]).toEqual([409, 'editConflict'])
  })
  it('does not ask about a block that both removed, and keeps what else was changed', async () => {
    const entry = await make('Twice', { body: [{ id: 'h1', block: 'heading', values: {} }] })
    const remove = { do: 'remove', at: ['body', 'h1'] } as const
    await owner.edit(entry.id, 1, [remove])
    const saved = await owner.edit(entry.id, 1, [remove, { do: 'set', at: ['price'], value: 4 }])
    expect([saved.version, saved.merged, saved.values['body'], saved.values['price']]).toEqual([3, true, [], 4])
  })
  it('refuses a version that has not been, and edits that do not fit, as a whole', async () => {
    const entry = await make('Whole')
    expect((await problem(() => owner.edit(entry.id, 9, []))).message).toMatch(/There is no version 9 yet/)
    const error = await problem(() =>
      owner.edit(entry.id, 1, [
        { do: 'set', at: ['price'], value: 3 },
        { do: 'set', at: ['pryce'], value: 3 },
      ]),
    )
    expect(error.problems[0]).toMatchObject({
      pointer: '/edits/1/at',
      message: expect.stringMatching(/Did you mean `price`/) as string,
    })
    expect((await owner.entry(entry.id)).values['price']).toBeUndefined()
  })
  it('keeps both of many at once, when they write in different places', async () => {
    const entry = await make('Many')
    await Promise.all(
      ['en', 'nl', 'nl-BE', 'ar'].map((locale) =>
        owner.edit(entry.id, 1, [{ do: 'set', at: ['summary'], locale, value: `In ${locale}` }]),
      ),
    )
    expect((await owner.entry(entry.id)).values['summary']).toEqual({
      en: 'In en',
      nl: 'In nl',
      'nl-BE': 'In nl-BE',
      ar: 'In ar',
    })
  })
})

describe('changing by merge patch', () => {
  it('needs to know what was read', async () => {
    const entry = await make('Patch')
    const bare = await raw(`/entries/${entry.id}`, { method: 'PATCH', body: '{"values":{"price":3}}' })
    expect([bare.status, ((await bare.json()) as { detail: string }).detail]).toEqual([
      428,
      'Send `If-Match` with the ETag that you read; it is "v1" now.',
    ])
    expect((await owner.patch(entry.id, 1, { price: 3, title: { nl: 'Erbij' } })).values).toMatchObject({
      price: 3,
      title: { en: 'Patch', nl: 'Erbij' },
    })
    const error = await problem(() => owner.patch(entry.id, 1, { price: 4 }))
    expect([error.status, error.details['version']]).toEqual([412, 2])
  })
  it('makes missing with null', async () => {
    const entry = await make('Null', { price: 3 })
    expect((await owner.patch(entry.id, 1, { price: null, title: { nl: null } })).values).not.toHaveProperty('price')
  })
  it('merges its edits with others', async () => {
    const entry = await make('Both')
    await owner.patch(entry.id, 1, { price: 3 })
    expect((await owner.edit(entry.id, 1, [{ do: 'set', at: ['day'], value: '2031-05-04' }])).values).toMatchObject({
      price: 3,
      day: '2031-05-04',
    })
    expect((await problem(() => owner.edit(entry.id, 1, [{ do: 'set', at: ['price'], value: 4 }]))).status).toBe(409)
  })
})

describe('publishing', () => {
  it('makes public what is asked, and says what it did', async () => {
    const entry = await make('Publish', { title: { en: 'Publish me', nl: 'Maak openbaar' } })
    const seen = await owner.consequences(entry.id)
    expect(seen).toMatchObject({
      locales: ['en', 'nl'],
      problems: [],
      paths: { en: { from: null, to: '/activities/publish-me' }, nl: { from: null, to: '/nl/agenda/maak-openbaar' } },
    })
    expect((await owner.publish(entry.id, { locales: ['en'], version: 1 })).states).toEqual({
      en: 'public',
      nl: 'new',
      'nl-BE': 'new',
      ar: 'new',
    })
    const edited = await owner.patch(entry.id, 2, { title: { en: 'Published' } })
    expect(edited.states).toMatchObject({ en: 'edited', nl: 'new' })
    expect((await owner.consequences(entry.id, ['en'])).changes).toMatchObject([
      {
        pointer: '/values/title/en',
        field: 'title',
        label: 'Title',
        kind: 'text',
        locale: 'en',
        before: 'Publish me',
        after: 'Published',
      },
    ])
    expect((await owner.publish(entry.id)).states).toMatchObject({ en: 'public', nl: 'public' })
  })
  it('names everything missing or wrong, and publishes nothing', async () => {
    const entry = await owner.create({
      type: 'activity',
      values: { title: { nl: 'Alleen Nederlands' }, price: -1, body: [{ block: 'heading', values: {} }] },
    })
    const error = await problem(() => owner.publish(entry.id, { locales: ['en', 'nl'] }))
    expect(error.status).toBe(422)
    expect(error.problems.map((problem) => problem.pointer)).toEqual([
      '/values/title/en',
      '/values/format',
      '/values/price',
      '/values/body/0/values/text/en',
      '/values/body/0/values/text/nl',
      '/values/slug/en',
    ])
    expect((await owner.entry(entry.id)).version).toBe(1)
  })
  it('refuses a path that somebody has, naming them', async () => {
    await owner.publish((await make('Same Path')).id)
    const second = await make('Same Path')
    const error = await problem(() => owner.publish(second.id))
    expect(error.problems[0]).toMatchObject({
      code: 'pathTaken',
      pointer: '/values/slug/en',
      message: '/activities/same-path belongs to “Same Path”. Choose another slug.',
    })
  })
  it('publishes only what was seen', async () => {
    const entry = await make('Seen')
    await owner.patch(entry.id, 1, { price: 2 })
    expect((await problem(() => owner.publish(entry.id, { version: 1 }))).status).toBe(412)
  })
  it('seals the revision: the next save begins another', async () => {
    const entry = await make('Sealed')
    await owner.patch(entry.id, 1, { price: 1 })
    expect((await owner.revisions(entry.id)).revisions).toHaveLength(1)
    await owner.publish(entry.id)
    await owner.patch(entry.id, 3, { price: 2 })
    const { revisions } = await owner.revisions(entry.id)
    expect(revisions.map((revision) => [revision.number, revision.sealedAt !== null, revision.publicIn])).toEqual([
      [2, false, []],
      [1, true, ['en']],
    ])
  })
  it('withdraws one locale or all, and remembers that it was public', async () => {
    const entry = await make('Down', { title: { en: 'Down', nl: 'Neer' } })
    await owner.publish(entry.id)
    expect((await owner.withdraw(entry.id, { locales: ['nl'] })).states).toMatchObject({
      en: 'public',
      nl: 'withdrawn',
    })
    expect((await owner.withdraw(entry.id)).state).toBe('withdrawn')
    expect((await problem(() => owner.withdraw(entry.id))).message).toBe('Nothing of the entry is public.')
  })
  it('does not withdraw the locale that others fall back to', async () => {
    const entry = await make('Leaning')
    await owner.patch(entry.id, 1, { summary: { nl: 'Nederlands' } })
    await owner.publish(entry.id, { locales: ['en', 'nl'] })
    expect((await problem(() => owner.withdraw(entry.id, { locales: ['en'] }))).message).toMatch(
      /Title is empty in nl.*What stays public would be invalid/,
    )
  })
  it('publishes a type without localized fields under the default locale', async () => {
    const person = await owner.create({ type: 'person', values: { name: 'Joris' } })
    expect((await owner.publish(person.id)).states).toMatchObject({ en: 'public', nl: 'new' })
    expect((await problem(() => owner.publish(person.id, { locales: ['nl'] }))).message).toMatch(
      /published under en, for all locales/,
    )
  })
  it('warns of references that readers cannot follow', async () => {
    const hidden = await owner.create({ type: 'person', values: { name: 'Hidden' } })
    const entry = await make('Refers', { speakers: [hidden.id] })
    expect((await owner.consequences(entry.id)).hiddenReferences).toEqual([
      { id: hidden.id, type: 'person', title: 'Hidden' },
    ])
    expect((await owner.consequences(museum)).affects.length).toBeGreaterThan(0)
  })
})

describe('a tree of pages', () => {
  it('takes its paths from public parents, and moves with them', async () => {
    const page = (title: string, more: object = {}) =>
      owner.create({ type: 'page', values: { title: { en: title }, ...more } })
    const visit = await page('Visit')
    const tickets = await page('Tickets', { inPage: visit.id })
    const groups = await page('Groups', { inPage: tickets.id })
    expect((await owner.entry(groups.id)).paths['en']).toBe('/visit/tickets/groups')
    expect((await problem(() => owner.publish(tickets.id))).problems.map((problem) => problem.code)).toEqual([
      'parentNotPublic',
    ])
    for (const page of [visit, tickets, groups]) await owner.publish(page.id)
    await owner.patch(visit.id, 2, { slug: { en: 'plan' } })
    expect((await owner.consequences(visit.id)).affects.map((page) => [page.title, page.because])).toEqual([
      ['Tickets', 'below'],
      ['Groups', 'below'],
    ])
    await owner.publish(visit.id)
    expect((await owner.entry(groups.id)).paths['en']).toBe('/plan/tickets/groups')
    const error = await problem(() => owner.withdraw(visit.id))
    expect([error.status, error.message]).toEqual([
      409,
      'Public entries are below this one: “Tickets”. Withdraw them too: `withChildren`.',
    ])
    await owner.withdraw(visit.id, { withChildren: true })
    expect((await owner.entry(groups.id)).state).toBe('withdrawn')
  })
  it('has no circles', async () => {
    const page = await owner.create({ type: 'page', values: { title: { en: 'One' } } })
    const two = await owner.create({ type: 'page', values: { title: { en: 'Two' }, inPage: page.id } })
    expect((await problem(() => owner.patch(page.id, 1, { inPage: two.id }))).message).toMatch(
      /would put the entry below itself/,
    )
    expect((await problem(() => owner.patch(page.id, 1, { inPage: page.id }))).status).toBe(422)
  })
  it('has a home, whose slug is empty on purpose', async () => {
    const home = await owner.create({
      type: 'page',
      values: { title: { en: 'Home', nl: 'Thuis' }, slug: { en: null, nl: null } },
    })
    expect((await owner.publish(home.id)).paths).toEqual({ en: '/', nl: '/nl' })
  })
})

describe('deleting', () => {
  it('takes what is not public and not referred to', async () => {
    const person = await owner.create({ type: 'person', values: { name: 'Wout' } })
    const entry = await make('Holds', { speakers: [person.id] })
    expect((await problem(() => owner.delete(person.id))).message).toMatch(/Other entries refer to it: “Holds”/)
    await owner.publish(entry.id)
    expect((await problem(() => owner.delete(entry.id))).message).toBe('The entry is public. Withdraw it first.')
    await owner.withdraw(entry.id)
    await owner.delete(entry.id)
    await owner.delete(person.id)
    expect((await problem(() => owner.entry(person.id))).status).toBe(404)
  })
})

describe('requests that are not well formed', () => {
  it.each([
    ['malformed JSON', { method: 'POST', body: '{"type":\n "activity",}' }, 400, /not JSON: line 2, column/],
    ['no body', { method: 'POST' }, 400, /needs a body/],
    [
      'another type',
      { method: 'POST', body: 'x', headers: { 'Content-Type': 'text/plain' } },
      415,
      /application\/json/,
    ],
    [
      'an unknown member',
      { method: 'POST', body: '{"type":"activity","value":{}}' },
      400,
      /`value` does not belong here. Did you mean `values`\?/,
    ],
    ['a missing member', { method: 'POST', body: '{"values":{}}' }, 400, /`\/type` is missing/],
    ['the wrong type', { method: 'POST', body: '{"type":3}' }, 400, /`\/type` must be a text/],
    ['a list', { method: 'POST', body: '[]' }, 400, /must be an object/],
    [
      'a bad key',
      { method: 'POST', body: '{"type":"person"}', headers: { 'Idempotency-Key': 'a b' } },
      400,
      /Idempotency-Key/,
    ],
    ['a method that is not there', { method: 'PUT', body: '{}' }, 405, /PUT is not allowed here. Allowed: GET, POST/],
  ] as [string, RequestInit & { headers?: Record<string, string> }, number, RegExp][])(
    'are told so: %s',
    async (_, init, status, message) => {
      const response = await raw('/entries', init)
      const body = (await response.json()) as { detail: string; requestId: string; type: string }
      expect([response.status, response.headers.get('content-type')]).toEqual([
        status,
        'application/problem+json; charset=utf-8',
      ])
      expect(body.detail).toMatch(message)
      expect(body.requestId).toBe(response.headers.get('request-id'))
    },
  )
  it('are told so when they are too large', async () => {
    const response = await raw('/entries', {
      method: 'POST',
      body: JSON.stringify({ type: 'activity', values: { summary: { en: 'x'.repeat(11_000_000) } } }),
    })
    expect([response.status, ((await response.json()) as { detail: string }).detail]).toEqual([
      413,
      'The body of this request has at most 10 MB.',
    ])
  })
  it('find nothing under ids that are none', async () => {
    for (const id of ['nope', '0'.repeat(20), '%00', "'; drop table entries", 'x'.repeat(3000)]) {
      const response = await raw(`/entries/${encodeURIComponent(id)}`)
      expect(response.status, id).toBe(404)
    }
  })
})
