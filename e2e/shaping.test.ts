import { Reader, type Editor, type Job, type WisteriaProblem } from '@wisteria/client'
import { sampleEntries, type Consequence } from '@wisteria/core'
import { Database, projectionsWithRows } from '@wisteria/store'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, refusal, richText, settings } from './support/models.js'
import { eventually, start, startSmall, type SmallSite } from './support/running.js'
import { shapedFiles, shapedModel } from './support/shaped.js'

let site: SmallSite
let owner: Editor
let published: string
beforeAll(async () => {
  site = await startSmall()
  owner = site.owner
  published = (await owner.createKey({ label: 'Website', scope: 'published' })).secret
})
afterAll(() => site.service.end())

/** Adopts the shaped model with some changed files; returns its consequences. */
async function adopt(changes: Readonly<Record<string, string>> = {}, editor = owner): Promise<readonly Consequence[]> {
  const proposal = await editor.compareModel(asFiles({ ...shapedFiles, ...changes }))
  await editor.adoptModel(proposal.id)
  return proposal.consequences
}
const change = (from: string, to: string): Record<string, string> => {
  expect(shapedFiles.tour).toContain(from)
  return { tour: shapedFiles.tour.replace(from, to) }
}
const get = async (path: string, token = published) => {
  const response = await fetch(`${site.service.baseUrl}/read/v1/marram${path}`, {
    headers: { Authorization: `Bearer ${token}` },
  })
  return {
    status: response.status,
    headers: response.headers,
    body: (await response.json()) as Record<string, never> & { values: Record<string, unknown> },
  }
}
const graphql = async (query: string): Promise<{ data: Record<string, never>; errors?: { message: string }[] }> =>
  (await (
    await fetch(`${site.service.baseUrl}/read/v1/marram/graphql`, {
      method: 'POST',
      headers: { Authorization: `Bearer ${published}`, 'Content-Type': 'application/json' },
      body: JSON.stringify({ query }),
    })
  ).json()) as never
const rich = (value: string, entry?: string, filled: { url: string; title?: string } = { url: '' }) => ({
  type: 'root',
  children: [
    {
      type: 'paragraph',
      data: { id: 'b1' },
      children: [
        { type: 'text', value },
        ...(entry ? [{ type: 'link', ...filled, data: { entry }, children: [{ type: 'text', value: 'Anna' }] }] : []),
      ],
    },
  ],
})

describe('shaped content', () => {
  let guide: string
  let tour: string
  let picture: string
  beforeAll(async () => {
    // The small model is removed: it has no entries.
    await adopt()
    guide = (await owner.create({ type: 'guide', values: { name: 'Anna', speaks: ['en'] } })).id
    await owner.publish(guide)
    const pixel = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=='
    picture = (await owner.addAsset({ name: 'lamp.png', content: pixel, alt: { en: 'A lamp' } })).id
    tour = (
      await owner.create({
        type: 'tour',
        values: {
          title: { en: 'Night walk', nl: 'Nachtwandeling' },
          code: 'SH-1',
          format: 'walk',
          takes: 'PT90M',
          place: { latitude: 52, longitude: 4 },
          story: { en: rich('See ', guide) },
          lead: guide,
          cover: picture,
          venue: { room: { en: 'Lamp room' }, seats: 12, door: { code: 'A1', keeper: guide } },
          sessions: [
            { values: { weekday: 'friday', from: '20:00', seats: 9, note: { en: 'Bring a lamp' }, host: guide } },
          ],
          body: [{ block: 'words', values: { text: { en: 'Hello' } } }],
          lead2: [{ block: 'words', values: { text: { en: 'First' } } }],
          site: 'https://a.example',
        },
      })
    ).id
    await owner.publish(tour, { locales: ['en'] })
  })

  it('begins with what the model says', async () => {
    const created = await owner.create({ type: 'tour', values: { title: { en: 'x' }, price: 0 } })
    expect(created.values).toMatchObject({
      format: 'walk',
      forAll: true,
      day: expect.stringMatching(/^\d{4}-/) as string,
      slug: { en: 'x' },
    })
    await owner.delete(created.id)
  })
  it('is read over REST in the form that its kinds say', async () => {
    const { body } = await get(`/entries/tour/${tour}`)
    expect(body.values).toMatchObject({
      takes: 'PT90M',
      place: { latitude: 52, longitude: 4 },
      cover: { id: picture, mediaType: 'image/png', width: 1, height: 1, alt: 'A lamp' },
      gallery: [],
      venue: { room: 'Lamp room', seats: 12, door: { code: 'A1', keeper: { id: guide, type: 'guide' } } },
      sessions: [{ values: { weekday: 'friday', note: 'Bring a lamp', host: { id: guide }, stops: [] } }],
      lead2: { block: 'words', values: { text: 'First' } },
      meta: { title: 'Night walk', image: { id: picture }, hidden: false },
      price: null,
    })
    const file = await fetch((body.values['cover'] as { address: string }).address)
    expect([file.status, file.headers.get('content-type'), file.headers.get('x-content-type-options')]).toEqual([
      200,
      'image/png',
      'nosniff',
    ])
  })
  it('prints rich text in each of its forms', async () => {
    const story = async (form: string) => (await get(`/entries/tour/${tour}?richText=${form}`)).body.values['story']
    expect(await story('html')).toBe('<p>See Anna</p>')
    expect(await story('text')).toBe('See Anna')
    expect(await story('markdown')).toBe('See Anna')
    expect(await story('document')).toEqual(rich('See ', guide, { url: '', title: 'Anna' }))
    expect((await get(`/entries/tour/${tour}?richText=word`)).status).toBe(400)
  })
  it('takes what two people write in different paragraphs of a rich text', async () => {
    const written = (value: string) => ({ type: 'paragraph', children: [{ type: 'text', value }] })
    const entry = await owner.create({ type: 'tour', values: { story: { en: richText('one', 'two') } } })
    const place = (id: string) => ({ at: ['story', id], locale: 'en' })
    await owner.edit(entry.id, 1, [{ do: 'set', ...place('b1'), value: written('ONE') }])
    const both = await owner.edit(entry.id, 1, [{ do: 'set', ...place('b2'), value: written('TWO') }])
    expect([both.merged, both.values['story']]).toEqual([true, { en: richText('ONE', 'TWO') }])
    const same = await refusal<WisteriaProblem>(() =>
      owner.edit(entry.id, 1, [{ do: 'set', ...place('b1'), value: written('Eins') }]),
    )
    expect([same.status, same.code]).toEqual([409, 'editConflict'])
    expect((same.details['conflicts'] as { place: string[] }[])[0]!.place).toEqual(['story', 'b1'])
    const gone = await owner.edit(entry.id, both.version, [{ do: 'remove', ...place('b1') }])
    const late = await refusal<WisteriaProblem>(() =>
      owner.edit(entry.id, both.version, [{ do: 'set', ...place('b1'), value: written('x') }]),
    )
    expect([late.code, gone.values['story']]).toEqual(['editConflict', expect.anything()])
  })
  it('is read over GraphQL: groups, kinds with members, rich text with what it refers to', async () => {
    const { data, errors } = await graphql(`{ tour(id: "${tour}") {
      takes place { latitude } cover { alt width } venue { room door { keeper { name } } } sessions { weekday host { name } stops { name } }
      story { html text document entries { entryId } } lead2 { text } body { ... on WordsBlock { text } } meta { title image { alt } } extra } }`)
    expect(errors).toBeUndefined()
    expect(data['tour']).toEqual({
      takes: 'PT90M',
      place: { latitude: 52 },
      cover: { alt: 'A lamp', width: 1 },
      venue: { room: 'Lamp room', door: { keeper: { name: 'Anna' } } },
      sessions: [{ weekday: 'friday', host: { name: 'Anna' }, stops: [] }],
      story: {
        html: '<p>See Anna</p>',
        text: 'See Anna',
        document: rich('See ', guide, { url: '', title: 'Anna' }),
        entries: [{ entryId: guide }],
      },
      lead2: { text: 'First' },
      body: [{ text: 'Hello' }],
      meta: { title: 'Night walk', image: { alt: 'A lamp' } },
      extra: null,
    })
  })
  it('is found through groups, the same in both APIs', async () => {
    const where =
      'venue.seats > 10 and any sessions (weekday = "friday" and host.name = "Anna") and takes <= "PT2H" and place has value'
    expect(
      (await get(`/entries/tour?where=${encodeURIComponent(where)}&sort=-venue.seats`)).body['entries'],
    ).toHaveLength(1)
    const filter =
      '{ venue: { seats: { moreThan: 10 } }, sessions: { any: { weekday: { is: friday }, host: { any: { name: { is: "Anna" } } } } }, takes: { atMost: "PT2H" }, place: { hasValue: true } }'
    const { data, errors } = await graphql(`{ tours(where: ${filter}, sort: ["-venue.seats"]) { nodes { entryId } } }`)
    expect([errors, data['tours']]).toEqual([undefined, { nodes: [{ entryId: tour }] }])
    expect((await get('/entries/tour?sort=sessions.seats')).status).toBe(400)
  })
  it('hides what its rules hide, and keeps it for whoever writes', async () => {
    const now = await owner.entry(tour)
    await owner.edit(tour, now.version, [{ do: 'set', at: ['format'], value: 'talk' }])
    await owner.publish(tour, { locales: ['en'] })
    expect((await get(`/entries/tour/${tour}`)).body.values['place']).toBeNull()
    expect((await get('/entries/tour?where=place%20has%20value')).body['entries']).toEqual([])
    const kept = await owner.entry(tour)
    expect(kept.values['place']).toEqual({ latitude: 52, longitude: 4 })
    await owner.edit(tour, kept.version, [
      { do: 'set', at: ['format'], value: 'walk' },
      { do: 'clear', at: ['place'] },
    ])
    const refused = await refusal<WisteriaProblem>(() => owner.publish(tour))
    expect(refused.problems).toMatchObject([{ code: 'required', pointer: '/values/place' }])
    await owner.edit(tour, (await owner.entry(tour)).version, [
      { do: 'set', at: ['place'], value: { latitude: 1, longitude: 1 } },
    ])
    await owner.publish(tour, { locales: ['en'] })
  })
  it('keeps what is locked, whoever asks and however', async () => {
    const now = await owner.entry(tour)
    const edit = await refusal<WisteriaProblem>(() =>
      owner.edit(tour, now.version, [{ do: 'set', at: ['code'], value: 'SH-2' }]),
    )
    expect(edit.problems).toMatchObject([{ code: 'locked', pointer: '/edits/0' }])
    expect(
      (await refusal<WisteriaProblem>(() => owner.patch(tour, now.version, { code: 'SH-2' }))).problems[0]?.code,
    ).toBe('locked')
    expect((await owner.entry(tour)).version).toBe(now.version)
  })
  it('refuses a value that another public entry has', async () => {
    const twin = await owner.create({ type: 'tour', values: { title: { en: 'Twin' }, format: 'talk', code: 'SH-1' } })
    expect((await owner.consequences(twin.id)).problems).toMatchObject([{ code: 'notUnique', pointer: '/values/code' }])
    expect((await refusal<WisteriaProblem>(() => owner.publish(twin.id))).problems[0]?.message).toMatch(
      /Code is the same as that of “Night walk”/,
    )
    await owner.edit(twin.id, twin.version, [{ do: 'set', at: ['code'], value: 'SH-9' }])
    await owner.publish(twin.id)
  })
  it('refuses references to what is not accepted, in texts and for files too', async () => {
    const create = (values: object) =>
      refusal<WisteriaProblem>(() => owner.create({ type: 'tour', values: values as never }))
    const gone = '0'.repeat(20)
    expect((await create({ story: { en: rich('x', gone) } })).problems[0]).toMatchObject({
      code: 'unknownEntry',
      pointer: '/values/story/en',
    })
    expect((await create({ cover: gone })).problems[0]?.code).toBe('unknownAsset')
    const text = (await owner.addAsset({ name: 'notes.txt', content: Buffer.from('notes').toString('base64') })).id
    expect((await create({ cover: text })).problems[0]).toMatchObject({
      code: 'wrongType',
      message: expect.stringMatching(/takes image\/\*/) as string,
    })
    expect((await refusal<WisteriaProblem>(() => owner.deleteAsset(picture))).message).toMatch(
      /Entries use it: “Night walk”/,
    )
    await owner.deleteAsset(text)
  })
  it('takes files by what they are, and nothing else', async () => {
    const add = (name: string, content: string) =>
      owner.addAsset({ name, content: Buffer.from(content).toString('base64') })
    const svg = await add('plan.png', '<svg viewBox="0 0 20 10"><script>alert(1)</script></svg>')
    expect(svg).toMatchObject({ mediaType: 'image/svg+xml', width: 20, height: 10 })
    const served = await fetch(svg.address)
    expect([served.headers.get('content-security-policy'), served.headers.get('content-disposition')]).toEqual([
      expect.stringMatching(/sandbox/),
      expect.stringMatching(/^attachment/),
    ])
    expect(
      (
        await refusal<WisteriaProblem>(() =>
          owner.addAsset({ name: 'x.exe', content: Buffer.from([0x4d, 0x5a, 0, 0xff, 0xfe]).toString('base64') }),
        )
      ).status,
    ).toBe(415)
    expect((await refusal<WisteriaProblem>(() => owner.addAsset({ name: '../x', content: 'eA==' }))).status).toBe(400)
    expect((await refusal<WisteriaProblem>(() => owner.addAsset({ name: 'x', content: 'no base64!' }))).status).toBe(
      400,
    )
    expect((await owner.assets({ accepts: 'image/*', search: 'PLAN' })).assets.map((asset) => asset.name)).toEqual([
      'plan.png',
    ])
    await owner.deleteAsset(svg.id)
  })
  it('says its schema', async () => {
    const { body, headers } = await get('/schema/tour.json')
    expect([headers.get('content-type'), (body as Record<string, unknown>)['title']]).toEqual([
      'application/schema+json; charset=utf-8',
      'Tour',
    ])
    expect((await get('/schema/tuor.json')).status).toBe(404)
  })
  it('takes every sample that is made of the model', async () => {
    const { entries } = sampleEntries(shapedModel, settings, { each: 2 })
    expect(Object.keys(entries)).toEqual(['tour', 'guide', 'house'])
  })

  describe('with exactly one entry', () => {
    it('is there from the beginning, under its own name, and stays', async () => {
      const house = await owner.entry('house')
      expect([house.type, house.version]).toEqual(['house', 1])
      expect((await refusal<WisteriaProblem>(() => owner.create({ type: 'house', values: {} }))).message).toMatch(
        /has exactly one entry, which exists already/,
      )
      expect((await refusal<WisteriaProblem>(() => owner.delete('house'))).message).toMatch(
        /has exactly one entry, which cannot be deleted/,
      )
    })
    it('is read without a list around it, in both APIs, once it is public', async () => {
      expect((await get('/entries/house')).status).toBe(404)
      expect((await graphql('{ house { name } }')).data).toEqual({ house: null })
      const question = encodeURIComponent('{ house { name } }')
      const missed = await Promise.all(
        ['/entries/house', '/entries/house/house', `/graphql?query=${question}`].map((path) => get(path)),
      )
      const house = await owner.entry('house')
      await owner.patch('house', house.version, { name: { en: 'Museum' }, open: [{ values: { day: 'friday', tour } }] })
      await owner.publish('house')
      // What was kept of its absence is stale.
      const { events } = await owner.events(0, 500)
      const { data } = events.findLast(({ type }) => type === 'entry.published') as unknown as {
        data: { affected: { groups: string[] } }
      }
      for (const { headers } of missed)
        expect(data.affected.groups.filter((name) => headers.get('cache-groups')!.includes(`"${name}"`))).not.toEqual(
          [],
        )
      expect((await get('/entries/house?locale=nl')).body).toMatchObject({
        type: 'house',
        values: { name: 'Museum', open: [{ values: { tour: { id: tour } } }] },
      })
      expect((await graphql('{ house(locale: "nl") { name open { tour { title } } } }')).data).toEqual({
        house: { name: 'Museum', open: [{ tour: { title: 'Night walk' } }] },
      })
      expect((await get('/entries/house?first=3')).body['detail']).toMatch(/exactly one entry, so there is no list/)
      expect((await graphql('{ houses { nodes { name } } }')).errors?.[0]?.message).toMatch(
        /Cannot query field "houses"/,
      )
    })
    it('is one call of the SDK, typed or not', async () => {
      const reader = new Reader<{ house: { name: string | null } }>({
        baseUrl: site.service.baseUrl,
        site: 'marram',
        token: published,
      })
      expect((await reader.only('house', { locale: 'nl' }))?.values.name).toBe('Museum')
      expect(
        (
          await new Reader({ baseUrl: site.service.baseUrl, site: 'marram', token: published }).entries('tour', {
            richText: 'text',
          })
        ).entries[0]?.values['story'],
      ).toBe('See Anna')
    })
    it('goes with its type, and readers are told', async () => {
      const house = (await owner.entry('house')).id
      const { house: _, ...rest } = shapedFiles
      const proposal = await owner.compareModel(asFiles(rest))
      expect(proposal.consequences).toMatchObject([
        { code: 'typeRemoved', weight: 'breaking', message: 'The type is removed, with its one entry.' },
      ])
      await owner.adoptModel(proposal.id)
      expect((await get('/entries/house')).status).toBe(404)
      const { events } = await owner.events(0, 500)
      const told = events.filter((event) => event['type'] === 'model.adopted').at(-1) as {
        data: { affected: { groups: string[] } }
      }
      expect(told.data.affected.groups).toEqual(expect.arrayContaining([`e.${house}`, 't.house.entry', 'all']))
      await adopt()
      expect((await owner.entry('house')).id).not.toBe(house)
    })
  })

  describe('when it changes its shape', () => {
    it('answers to the old name until that is retired, and says who reads it', async () => {
      const renamed = change('  site: { kind: webAddress }', '  tickets: { kind: webAddress, was: site }')
      expect((await adopt(renamed))[0]).toMatchObject({ code: 'fieldRenamed', weight: 'plain', place: 'tour.tickets' })
      expect((await get(`/entries/tour/${tour}`)).body.values).toMatchObject({
        site: 'https://a.example',
        tickets: 'https://a.example',
      })
      expect(
        (await get('/entries/tour?where=site%20has%20value%20and%20tickets%20has%20value')).body['entries'],
      ).toHaveLength(1)
      const old = await graphql(
        `{ tour(id: "${tour}") { site tickets } __type(name: "Tour") { fields(includeDeprecated: true) { name deprecationReason } } }`,
      )
      expect(old.data['tour']).toEqual({ site: 'https://a.example', tickets: 'https://a.example' })
      expect((old.data['__type'] as unknown as { fields: object[] }).fields).toContainEqual({
        name: 'site',
        deprecationReason: 'Renamed to `tickets`.',
      })
      const now = await owner.entry(tour)
      expect(
        (await owner.edit(tour, now.version, [{ do: 'set', at: ['site'], value: 'https://b.example' }])).values[
          'tickets'
        ],
      ).toBe('https://b.example')
      // The keys that read it are named when it is to be removed.
      const { consequences } = await owner.compareModel(
        asFiles({ ...shapedFiles, ...change('  site: { kind: webAddress }', '  tickets: { kind: webAddress }') }),
      )
      expect(consequences).toMatchObject([
        {
          code: 'nameRetired',
          weight: 'breaking',
          place: 'tour.tickets',
          readers: [{ label: 'Website', lastReadAt: expect.stringMatching(/:00\.000Z$/) as string }],
        },
      ])
      await owner.adoptModel(
        (
          await owner.compareModel(
            asFiles({ ...shapedFiles, ...change('  site: { kind: webAddress }', '  tickets: { kind: webAddress }') }),
          )
        ).id,
      )
      expect((await get(`/entries/tour/${tour}`)).body.values).not.toHaveProperty('site')
      expect((await get('/entries/tour?where=site%20has%20value')).status).toBe(400)
      await adopt({
        tour: shapedFiles.tour.replace('  site: { kind: webAddress }', '  site: { kind: webAddress, was: tickets }'),
      })
      await adopt()
      expect((await owner.entry(tour)).values['site']).toBe('https://b.example')
    })
    it('converts what can be converted, and refuses with the entries when it cannot', async () => {
      const proposal = await owner.compareModel(
        asFiles({
          ...shapedFiles,
          ...change(
            "  code: { kind: text, unique: true, pattern: { matches: '[A-Z]{2}-\\d+', message: must look like SH-104 }, lockIf: 'entry.state != \"new\"', indexed: true }",
            '  code: { kind: number }',
          ),
        }),
      )
      expect(proposal.canBeAdopted).toBe(false)
      expect(proposal.consequences[0]).toMatchObject({
        code: 'valuesRefused',
        weight: 'refused',
        place: 'tour.code',
        entries: { count: 2, first: [{ id: tour, title: 'Night walk', because: '"SH-1" has no such form' }, {}] },
      })
      expect((await refusal<WisteriaProblem>(() => owner.adoptModel(proposal.id))).status).toBe(409)

      const before = await owner.entry(tour)
      await adopt(
        change(
          '      seats: { kind: number, integer: true, indexed: true }',
          '      seats: { kind: text, indexed: true }',
        ),
      )
      expect((await get(`/entries/tour/${tour}`)).body.values).toMatchObject({ venue: { seats: '12' } })
      expect((await get('/entries/tour?where=venue.seats%20%3D%20%2212%22')).body['entries']).toHaveLength(1)
      // Earlier versions are too old to merge with: they have another form.
      expect(
        (
          await refusal<WisteriaProblem>(() =>
            owner.edit(tour, before.version - 1, [{ do: 'set', at: ['venue.seats'], value: '3' }]),
          )
        ).code,
      ).toBe('stale')
      await adopt()
      expect((await get(`/entries/tour/${tour}`)).body.values).toMatchObject({ venue: { seats: 12 } })
    })
    it('keeps the history: who, when, what it did, and the files of each', async () => {
      const { models } = await owner.modelHistory()
      expect(models[0]!.version).toBe((await owner.model()).version)
      expect(models.map((model) => model.version)).toEqual(
        [...models.map((model) => model.version)].sort((a, b) => b - a),
      )
      expect(models[0]).toMatchObject({
        adoptedBy: expect.stringMatching(/^account:/) as string,
        consequences: [{ code: 'fieldReshaped', place: 'tour.venue.seats' }, {}, {}].slice(
          0,
          models[0]!.consequences.length,
        ),
      })
      expect((await owner.modelAt(models.at(-1)!.version)).files.map((file) => file.name)).toContain('museum.yaml')
      expect((await refusal<WisteriaProblem>(() => owner.modelAt(999))).status).toBe(404)
    })
    it('is adopted by one of two who try at once', async () => {
      const comparison = await owner.compareModel(
        asFiles({ ...shapedFiles, ...change('help: A way', 'help: One way') }),
      )
      const other = await owner.compareModel(asFiles({ ...shapedFiles, ...change('help: A way', 'help: Another way') }))
      const results = await Promise.allSettled([owner.adoptModel(comparison.id), owner.adoptModel(other.id)])
      expect(results.map((result) => result.status).sort()).toEqual(['fulfilled', 'rejected'])
      const lost = results.find((result) => result.status === 'rejected')!.reason as WisteriaProblem
      expect([404, 412]).toContain(lost.status)
      expect(lost.message).toMatch(/[Cc]ompare again/)
      await adopt()
    })
  })
})

describe('a model over many entries', () => {
  it('is adopted as a job while others publish, and goes on after a restart', async () => {
    const many = await startSmall()
    const { owner: editor } = many
    try {
      await adopt({}, editor)
      const ids: string[] = []
      for (let number = 0; number < 340; number++) {
        const { id } = await editor.create({
          type: 'tour',
          values: { title: { en: `Tour ${number}` }, code: `SH-${number}`, format: 'talk', venue: { seats: number } },
        })
        if (number % 3 === 0) await editor.publish(id)
        ids.push(id)
      }
      const proposal = await editor.compareModel(
        asFiles({
          ...shapedFiles,
          ...change(
            '      seats: { kind: number, integer: true, indexed: true }',
            '      places: { kind: text, was: seats, indexed: true }',
          ),
        }),
      )
      const begun = (await (
        await fetch(`${many.service.baseUrl}/edit/v1/sites/marram/model/proposals/${proposal.id}/adopt`, {
          method: 'POST',
          headers: { Authorization: `Bearer ${many.token}` },
        })
      ).json()) as { job: Job }
      expect(begun.job).toMatchObject({ state: 'running', total: 341 })
      // Another adoption is refused meanwhile, with a sentence.
      expect((await refusal<WisteriaProblem>(() => editor.compareModel(asFiles(shapedFiles)))).message).toMatch(
        /is being adopted just now/,
      )
      // Meanwhile somebody saves and publishes, under the model in force.
      const touched = ids[1]!
      const now = await editor.entry(touched)
      await editor.edit(touched, now.version, [{ do: 'set', at: ['venue.seats'], value: 1000 }])
      await editor.publish(touched)
      const created = (
        await editor.create({ type: 'tour', values: { title: { en: 'Late' }, format: 'talk', venue: { seats: 7 } } })
      ).id
      await editor.publish(created)
      // The service stops in the middle of it, and starts again.
      await many.service.stop()
      const again = await start({}, many.service.folder)
      try {
        const after = new (await import('@wisteria/client')).Service({
          baseUrl: again.baseUrl,
          token: many.token,
        }).site('marram')
        const job = await eventually(
          () => after.job(begun.job.id),
          ({ state }) => state !== 'running',
        )
        expect(job).toMatchObject({ state: 'done', message: 'Adopting version 3 of the model.' })
        expect((await after.model()).version).toBe(3)
        expect((await after.entry(touched)).values['venue']).toEqual({ places: '1000' })
        const key = (await after.createKey({ label: 'x', scope: 'published' })).secret
        const read = async (where: string) =>
          (await (
            await fetch(
              `${again.baseUrl}/read/v1/marram/entries/tour?count=true&first=100&where=${encodeURIComponent(where)}`,
              { headers: { Authorization: `Bearer ${key}` } },
            )
          ).json()) as { entries: { id: string }[]; count: number }
        expect((await read('venue.places = "1000"')).entries.map((entry) => entry.id)).toEqual([touched])
        expect((await read('venue.seats = "7"')).entries.map((entry) => entry.id)).toEqual([created])
        expect((await read('title has value')).count).toBe(Math.ceil(340 / 3) + 2)
        // A rebuild from the publications gives the same bytes.
        const before = await read('title has value')
        await after.rebuild()
        expect(await read('title has value')).toEqual(before)
        expect((await after.jobs()).jobs).toMatchObject([{ state: 'done', total: 341 }])
      } finally {
        await again.stop()
      }
    } finally {
      await many.service.end()
    }
  }, 120_000)

  it('stays as it was when the job is stopped, or finds what cannot be converted', async () => {
    const many = await startSmall()
    const { owner: editor } = many
    try {
      await adopt({}, editor)
      let first = ''
      for (let number = 0; number < 320; number++) {
        const { id } = await editor.create({ type: 'guide', values: { name: `${number}` } })
        first ||= id
      }
      const numbers = asFiles({
        ...shapedFiles,
        guide: shapedFiles.guide.replace(
          'name: { kind: text, required: true }',
          'name: { kind: text, required: true }\n  year: { kind: number, was: born }',
        ),
      })
      const stopped = await editor.compareModel(numbers)
      const begin = async (id: string) =>
        (
          (await (
            await fetch(`${many.service.baseUrl}/edit/v1/sites/marram/model/proposals/${id}/adopt`, {
              method: 'POST',
              headers: { Authorization: `Bearer ${many.token}` },
            })
          ).json()) as { job: Job }
        ).job
      const job = await begin(stopped.id)
      const end = await editor.stopJob(job.id)
      expect(end.state).toBe('stopped')
      expect((await refusal<WisteriaProblem>(() => editor.stopJob(job.id))).message).toMatch(/has ended already/)
      expect((await editor.model()).version).toBe(2)

      // A value that cannot be converted is written after the comparison.
      await editor.adoptModel(
        (
          await editor.compareModel(
            asFiles({
              ...shapedFiles,
              guide: shapedFiles.guide.replace('partner:', 'badge: { kind: text }\n  partner:'),
            }),
          )
        ).id,
      )
      const convert = asFiles({
        ...shapedFiles,
        guide: shapedFiles.guide.replace('partner:', 'badge: { kind: number }\n  partner:'),
      })
      const proposal = await editor.compareModel(convert)
      expect(proposal.canBeAdopted).toBe(true)
      await editor.edit(first, 1, [{ do: 'set', at: ['badge'], value: 'not a number' }])
      const failed = await refusal<WisteriaProblem>(() => editor.adoptModel(proposal.id))
      expect(failed.message).toMatch(/cannot be converted: "not a number" has no such form. Nothing was adopted/)
      expect((await editor.model()).version).toBe(3)
      expect((await editor.entry(first)).values['badge']).toBe('not a number')

      // No rows stay of an adoption that was stopped, or of the earlier projection set.
      const database = await Database.open({ file: join(many.service.folder, 'wisteria.db') })
      const left = () => projectionsWithRows(database)
      expect((await eventually(left, (sets) => sets.length === 1)).length).toBe(1)
      await database.close()
    } finally {
      await many.service.end()
    }
  }, 120_000)
})
