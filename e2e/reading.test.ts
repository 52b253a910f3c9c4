import type { WisteriaGraphqlError, WisteriaProblem } from '@wisteria/client'
import { Reader } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { refusal } from './support/models.js'
import { startDemo, type DemoWorld } from './support/running.js'

let demo: DemoWorld
let reader: Reader
const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)
const raw = (path: string, headers: Record<string, string> = {}) =>
  fetch(`${demo.service.baseUrl}/read/v1/marram${path}`, {
    headers: { Authorization: `Bearer ${demo.seeded.keys.published}`, ...headers },
  })
const titles = (page: { entries: readonly { values: Record<string, unknown> }[] }) =>
  page.entries.map((entry) => entry.values['title'])

beforeAll(async () => {
  demo = await startDemo()
  reader = demo.reader()
})
afterAll(() => demo.service.end())

describe('lists', () => {
  it('meet a condition, sorted', async () => {
    const page = await reader.entries('activity', {
      where: 'format = "walk" and starts >= 2031-05-01',
      sort: 'starts',
      count: true,
    })
    expect(titles(page)).toEqual(['Night Walk', 'Up the Tower with Children', 'Walk to the Foghorn'])
    expect([page.count, page.next]).toEqual([3, null])
  })
  it('reach through references and fold text', async () => {
    expect(
      (
        await reader.entries('activity', {
          where: 'museum.name contains "BOATYARD" and any speakers (name = "Idris Benhalima")',
        })
      ).entries,
    ).toHaveLength(1)
    expect(
      (await reader.entries('exhibition', { where: 'curators.name contains "take"', sort: '-title' })).entries.length,
    ).toBe(2)
  })
  it('come in the locale, after fallback', async () => {
    const dutch = await reader.entries('activity', { where: 'title contains "zout"', sort: 'title', locale: 'nl-BE' })
    expect(titles(dutch)).toEqual(['Veertien zouten, geblinddoekt', 'Zelf zout zieden'])
    expect(dutch.entries[0]).toMatchObject({ locale: 'nl-BE', path: '/nl-be/agenda/veertien-zouten-geblinddoekt' })
  })
  it('page through everything once', async () => {
    const seen: string[] = []
    for await (const entry of reader.allEntries('activity', { sort: '-starts', first: 4 })) seen.push(entry.id)
    expect(seen).toHaveLength(13)
    expect(new Set(seen).size).toBe(13)
  })
  it('refuse what cannot be meant, saying what is near', async () => {
    const cases: [string, Parameters<Reader['entries']>[1], RegExp][] = [
      ['activty', {}, /Did you mean `activity`\?/],
      ['activity', { where: 'startz > now' }, /column 1/],
      ['activity', { where: 'entry.state = "new"' }, /is not known in the published edition/],
      ['activity', { sort: 'titel' }, /Did you mean `title`\?/],
      ['activity', { sort: 'speakers' }, /cannot be sorted by: it is a list/],
      ['activity', { sort: 'museum' }, /cannot be sorted by: it is of kind entry/],
      ['activity', { first: 0 }, /`first` must be at least 1/],
      ['activity', { first: 101 }, /`first` must be at most 100/],
      ['activity', { first: 1.5 }, /whole number/],
      ['activity', { locale: 'fr' }, /`fr` is not a locale of this site/],
      ['activity', { after: 'xyz' }, /not a cursor/],
    ]
    for (const [type, options, message] of cases) {
      const error = await problem(() => reader.entries(type, options))
      expect([error.message, error.status === 400 || error.status === 404]).toEqual([
        expect.stringMatching(message),
        true,
      ])
    }
    expect(((await (await raw('/entries/activity?fist=3')).json()) as { detail: string }).detail).toMatch(
      /Did you mean `first`\?/,
    )
    expect((await raw('/entries/activity?first=3&first=4')).status).toBe(400)
  })
  it('refuse a cursor of another list', async () => {
    const { next } = await reader.entries('activity', { sort: 'starts', first: 2 })
    expect(
      (await problem(() => reader.entries('activity', { sort: 'title', first: 2, after: next! }))).message,
    ).toMatch(/belongs to another list/)
  })
})

describe('answers', () => {
  it('have a strong ETag, and are not sent again to those who have them', async () => {
    const first = await raw('/entries/museum?sort=name')
    const tag = first.headers.get('etag')!
    expect(tag).toMatch(/^"[\w-]{20,}(\.(br|gzip))?"$/)
    expect(first.headers.get('cache-control')).toBe('private, no-cache')
    const names = first.headers.get('cache-groups')!
    expect(names).toMatch(/"t\.museum@en", .*"all"$/)
    expect(names.match(/"e\.[0-9a-z]{20}@en"/g)).toHaveLength(3)
    const again = await raw('/entries/museum?sort=name', { 'If-None-Match': `"other", ${tag}` })
    expect([again.status, await again.text(), again.headers.get('etag')]).toEqual([304, '', tag])
  })
  it('are kept no longer than they hold when they depend on the time, and not at all when they are drafts', async () => {
    const timed = (await raw('/entries/activity?where=starts%20%3E%20now')).headers
    expect(timed.get('cache-control')).toBe('private, no-cache')
    expect(Date.parse(timed.get('expires')!)).toBeGreaterThan(Date.now())
    const draft = await raw('/entries/activity?edition=draft', { Authorization: `Bearer ${demo.seeded.keys.draft}` })
    expect([draft.headers.get('cache-control'), draft.headers.get('cache-groups')]).toEqual(['no-store', null])
  })
  it('to HEAD have the headers and no body', async () => {
    const response = await fetch(`${demo.service.baseUrl}/read/v1/marram/entries/museum`, {
      method: 'HEAD',
      headers: { Authorization: `Bearer ${demo.seeded.keys.published}` },
    })
    expect([response.status, await response.text()]).toEqual([200, ''])
    expect(Number(response.headers.get('content-length'))).toBeGreaterThan(1000)
  })
  it('collapse their groups when they depend on much', async () => {
    const response = await raw('/entries/activity?first=100&locales=every&follow=2')
    const names = response.headers.get('cache-groups')!.split(', ')
    expect(names).toEqual(expect.arrayContaining(['"t.activity.entry"', '"all"']))
    expect(names.length).toBeLessThanOrEqual(65)
  })
})

describe('one entry', () => {
  it('is found by id, and only under its type', async () => {
    const { entries } = await reader.entries('museum', { sort: 'opened', first: 1 })
    const museum = entries[0]!
    expect(await reader.entry('museum', museum.id)).toEqual(museum)
    expect(await reader.entry('museum', museum.id, { locale: 'ar' })).toMatchObject({
      values: { name: 'منارة رأس ساندرلينغ' },
    })
    expect(await reader.entry('person', museum.id)).toBeNull()
    for (const id of ['nope', '0'.repeat(20), "' or 1=1", '%']) expect(await reader.entry('museum', id)).toBeNull()
  })
  it('is found at its path, whose locale it then has', async () => {
    expect(await reader.at('/nl/agenda/nachtwandeling')).toMatchObject({
      entry: { locale: 'nl', values: { title: 'Nachtwandeling' } },
    })
    expect(await reader.at('/ar/museums/%D9%85%D9%86%D8%A7%D8%B1%D8%A9/')).toMatchObject({
      entry: { locale: 'ar', type: 'museum' },
    })
    expect(await reader.at('/')).toMatchObject({ entry: { type: 'page' } })
    expect(await reader.at('/nowhere')).toBeNull()
    expect((await raw('/at?path=nowhere')).status).toBe(400)
    expect((await raw('/at')).status).toBe(400)
  })
  it('depends on its path when nothing is there', async () => {
    const reader = demo.reader()
    expect(await reader.at('/nowhere')).toBeNull()
    expect(reader.groups).toEqual([expect.stringMatching(/^p\.[0-9a-f]{16}$/), 'all'])
    const gone = await raw('/at?path=/exhibitions/moving-sands')
    expect([gone.status, ((await gone.json()) as { detail: string }).detail]).toEqual([
      410,
      'The entry at /exhibitions/moving-sands is no longer public.',
    ])
  })
  it('that moved says where to, wherever it has moved since', async () => {
    const editor = await demo.as('ilse@marram.example')
    const { entries } = await editor.entries({ type: 'activity', where: 'title = "Draw a Sandbank"' })
    const id = entries[0]!.id
    for (const slug of ['draw-sand', 'sandbank-drawing']) {
      const now = await editor.entry(id)
      await editor.patch(id, now.version, { slug: { en: slug } })
      await editor.publish(id)
    }
    for (const old of ['/activities/draw-a-sandbank', '/activities/draw-sand'])
      expect(await reader.at(old)).toEqual({ moved: { path: '/activities/sandbank-drawing', permanent: true } })
    const other = await editor.create({
      type: 'activity',
      values: {
        title: { en: 'Another' },
        slug: { en: 'draw-sand' },
        summary: { en: 'x' },
        format: 'talk',
        museum: (await editor.entries({ type: 'museum' })).entries[0]!.id,
        starts: '2031-01-01T10:00:00Z',
      },
    })
    await editor.publish(other.id)
    expect(await reader.at('/activities/draw-sand')).toMatchObject({ entry: { id: other.id } })
    expect(await reader.at('/activities/draw-a-sandbank')).toMatchObject({
      moved: { path: '/activities/sandbank-drawing' },
    })
  })
})

describe('drafts', () => {
  it('are for those who may, who must say so', async () => {
    expect(
      (
        await problem(() =>
          new Reader({
            baseUrl: demo.service.baseUrl,
            site: 'marram',
            token: demo.seeded.keys.published,
            edition: 'draft',
          }).entries('activity'),
        )
      ).status,
    ).toBe(403)
    expect(
      (await demo.reader('draft').entries('activity', { where: 'entry.state = "new"' })).entries.length,
    ).toBeGreaterThan(0)
    const quiet = new Reader({ baseUrl: demo.service.baseUrl, site: 'marram', token: demo.seeded.keys.draft })
    expect((await quiet.entries('activity', { count: true })).count).toBe(
      (await reader.entries('activity', { count: true })).count,
    )
  })
  it('stand at the paths they would have', async () => {
    expect(await demo.reader('draft').at('/nl/agenda/brood-zonder-zout')).toMatchObject({
      entry: { type: 'activity', locale: 'nl', state: 'new' },
    })
    expect(await reader.at('/nl/agenda/brood-zonder-zout')).toBeNull()
  })
})

describe('GraphQL', () => {
  it('follows references and blocks in one request', async () => {
    const data = await reader.graphql<{ museum: Record<string, unknown> }>(`{
      museum(path: "/nl/musea/vuurtoren") {
        entryId locale path name paths { locale path }
        body { __typename ... on HeadingBlock { id itemId text } ... on QuoteBlock { by } ... on PictureBlock { file { alt } } }
      }
    }`)
    expect(data.museum).toMatchObject({
      locale: 'nl',
      name: 'De Vuurtoren op Sanderling Head',
      paths: [{ locale: 'en' }, { locale: 'nl' }, { locale: 'nl-BE' }, { locale: 'ar' }],
    })
    expect(data.museum['body']).toMatchObject([
      { __typename: 'HeadingBlock', itemId: 'climb', text: 'Tweehonderdveertien treden' },
      { __typename: 'TextBlock' },
      { file: { alt: 'Een tekening van een grote lens, ring in ring, met een kleine vlam in het midden.' } },
      { by: 'Uit het logboek van de wachters' },
    ])
    // Ids for client caches differ by entry, locale, edition and item, and are no ids of entries.
    const [heading] = data.museum['body'] as { id: string }[]
    const parts = Buffer.from(heading!.id, 'base64url').toString().split(' ')
    expect(parts).toEqual([data.museum['entryId'], 'nl', 'published', 'climb'])
    expect(await reader.graphql(`{ museum(id: "${heading!.id}") { name } }`)).toEqual({ museum: null })
  })
  it('lists by typed filters, which mean what conditions mean', async () => {
    const query = `query ($where: ActivityFilter) { activities(where: $where, sort: ["starts"], first: 50) { count nodes { title museum { town } speakers { name } } } }`
    const pairs: [Record<string, unknown>, string][] = [
      [{ format: { is: 'walk' } }, 'format = "walk"'],
      [{ format: { in: ['walk', 'talk'] }, price: { atMost: 5 } }, 'format in ["walk", "talk"] and price <= 5'],
      [
        { or: [{ title: { contains: 'SALT' } }, { minutes: { moreThan: 120 } }] },
        'title contains "salt" or minutes > 120',
      ],
      [{ not: { forFamilies: { is: true } } }, 'not forFamilies = true'],
      [{ museum: { any: { name: { startsWith: 'the boat' } } } }, 'museum.name starts with "the boat"'],
      [{ speakers: { any: { name: { is: 'Hanne Kwelder' } } } }, 'speakers.name = "Hanne Kwelder"'],
      [
        { starts: { atLeast: 'today + 1 day', lessThan: '2031-05-01' } },
        'starts >= today + 1 day and starts < 2031-05-01',
      ],
      [{ exhibition: { hasValue: false } }, 'exhibition has no value'],
      [{ price: { isNot: 4 } }, 'price != 4'],
      [{}, 'entry.type = "activity"'],
    ]
    for (const [where, text] of pairs) {
      const { activities } = await reader.graphql<{ activities: { count: number; nodes: { title: string }[] } }>(
        query,
        { where },
      )
      const page = await reader.entries('activity', { where: text, sort: 'starts', first: 50, count: true })
      expect([activities.count, activities.nodes.map((node) => node.title)], text).toEqual([page.count, titles(page)])
    }
  })
  it('pages by cursors', async () => {
    const query = `query ($after: String) { people(sort: ["name"], first: 4, after: $after) { edges { cursor node { name } } pageInfo { hasNextPage hasPreviousPage startCursor endCursor } } }`
    type Answer = {
      people: {
        edges: { cursor: string; node: { name: string } }[]
        pageInfo: { hasNextPage: boolean; hasPreviousPage: boolean; startCursor: string; endCursor: string }
      }
    }
    const names: string[] = []
    let after: string | null = null
    for (let page = 0; page < 5; page++) {
      const { people }: Answer = await reader.graphql<Answer>(query, { after })
      names.push(...people.edges.map((edge) => edge.node.name))
      expect([people.pageInfo.hasPreviousPage, people.pageInfo.startCursor]).toEqual([
        page > 0,
        people.edges[0]?.cursor,
      ])
      after = people.pageInfo.endCursor
      if (!people.pageInfo.hasNextPage) break
    }
    expect(names).toHaveLength(9)
    expect([...names].sort()).toEqual(names)
  })
  it('has opaque ids that find the entry again, in its locale', async () => {
    const { museum } = await reader.graphql<{ museum: { id: string; entryId: string } }>(
      '{ museum(path: "/nl/musea/werf") { id entryId } }',
    )
    expect(
      (await reader.graphql('query ($id: String) { museum(id: $id) { name } }', { id: museum.id }))['museum'],
    ).toEqual({ name: 'De Werf aan Oyster Creek' })
    expect(
      await reader.graphql('query ($id: String) { museum(id: $id, locale: "en") { name } person(id: $id) { name } }', {
        id: museum.entryId,
      }),
    ).toEqual({ museum: { name: 'The Boatyard at Oyster Creek' }, person: null })
  })
  it('answers null for what is not there, and errors for what cannot be', async () => {
    expect(await reader.graphql('{ museum(id: "nope") { name } at(path: "/nope") { path } }')).toEqual({
      museum: null,
      at: null,
    })
    const error = (query: string) => refusal<WisteriaGraphqlError | WisteriaProblem>(() => reader.graphql(query))
    expect((await error('{ museum { name } }')).message).toMatch(/by `id` or by `path`/)
    expect((await error('{ activities(first: 1000) { count } }')).message).toMatch(/from 0 to 100/)
    expect((await error('{ activities(sort: ["titel"]) { count } }')).message).toMatch(/Did you mean `title`\?/)
    expect((await error('{ activities(edition: DRAFT) { count } }')).message).toMatch(/does not include this/)
    expect((await error('{ activities(locale: "fr") { count } }')).message).toMatch(/not a locale/)
    const deep = 'inPage {'.repeat(20) + ' title ' + '}'.repeat(20)
    expect(
      await raw(`/graphql?query=${encodeURIComponent(`{ pages { nodes { ${deep} } } }`)}`).then((response) =>
        response.text(),
      ),
    ).toMatch(/more than 12 levels deep/)
    const wide = `{ ${Array.from({ length: 1600 }, (_, index) => `a${index}: __typename`).join(' ')} }`
    expect(
      await (
        await fetch(`${demo.service.baseUrl}/read/v1/marram/graphql`, {
          method: 'POST',
          headers: { Authorization: `Bearer ${demo.seeded.keys.published}`, 'Content-Type': 'application/json' },
          body: JSON.stringify({ query: wide }),
        })
      ).text(),
    ).toMatch(/more than 1500 fields/)
    const lists = `{ ${Array.from({ length: 30 }, (_, index) => `a${index}: activities(first: 1) { count }`).join(' ')} }`
    expect((await error(lists)).message).toMatch(/at most 25 lists/)
  })
  it('follows GraphQL over HTTP', async () => {
    const get = await raw(`/graphql?query=${encodeURIComponent('{ museums { count } }')}`, {
      Accept: 'application/graphql-response+json',
    })
    expect([get.status, get.headers.get('content-type'), await get.json()]).toEqual([
      200,
      'application/graphql-response+json; charset=utf-8',
      { data: { museums: { count: 3 } } },
    ])
    expect(get.headers.get('etag')).not.toBeNull()
    expect(
      (
        await raw(`/graphql?query=${encodeURIComponent('{ musea { count } }')}`, {
          Accept: 'application/graphql-response+json',
        })
      ).status,
    ).toBe(400)
    expect((await raw('/graphql')).status).toBe(400)
  })
  it('describes itself with words of the model', async () => {
    const { __type } = await reader.graphql<{
      __type: { description: string; fields: { name: string; description: string }[] }
    }>('{ __type(name: "Museum") { description fields { name description } } }')
    expect(__type.fields.find((field) => field.name === 'town')?.description).toBe(
      'The place it is in, as on a signpost. Required to publish.',
    )
  })
  it('notes what an answer depends on', async () => {
    const reader = demo.reader()
    await reader.graphql('{ museum(path: "/museums/boatyard") { name } }')
    expect(reader.groups).toEqual([expect.stringMatching(/^e\.[0-9a-z]{20}@en$/), 'all'])
    await reader.graphql('{ activities(where: { museum: { any: { town: { is: "Greyflats" } } } }) { count } }')
    expect(reader.groups).toEqual(
      expect.arrayContaining(['t.activity@en', 't.activity.museum@en', 'u.activity.museum.town@en']),
    )
  })
})

describe('an open site', () => {
  it('is read without a key, and its answers may be shared', async () => {
    const owner = await demo.as('maren@marram.example')
    await owner.setOpen(true)
    const response = await fetch(`${demo.service.baseUrl}/read/v1/marram/entries/museum`)
    expect([response.status, response.headers.get('cache-control')]).toEqual([200, 'public, no-cache'])
    expect((await fetch(`${demo.service.baseUrl}/read/v1/marram/entries/museum?edition=draft`)).status).toBe(401)
    await owner.setOpen(false)
    expect((await fetch(`${demo.service.baseUrl}/read/v1/marram/entries/museum`)).status).toBe(401)
  })
})
