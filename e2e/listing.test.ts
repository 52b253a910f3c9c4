import { Reader, type Editor, type WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let museum: string
let page: string
let now = Date.parse('2031-03-12T09:00:00Z')

const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)
const withListing = {
  ...files,
  latest: `
block: latest
fields:
  title: { kind: text, localized: true }
  entries: { kind: listing, accepts: [activity, person], max: 5, required: true }
`,
  news: `
type: news
namedBy: title
fields:
  title: { kind: text, required: true, localized: true }
  body: { kind: block, many: true, accepts: [latest, heading] }
  top: { kind: listing, accepts: [activity] }
`,
}
const latest = (entries: unknown, id = 'l1') => ({
  id,
  block: 'latest',
  values: { title: { en: 'Latest' }, entries },
})
const walks = { type: 'activity', where: 'format = "walk" and starts >= now', sort: 'starts', first: 3 }
const activity = async (title: string, format: string, starts: string) => {
  const values = {
    title: { en: title, nl: `${title} (nl)` },
    slug: { en: title.toLowerCase() },
    format,
    starts,
    museum,
  }
  const { id } = await owner.create({ type: 'activity', values })
  await owner.publish(id)
  return id
}
const reader = (edition: 'published' | 'draft' = 'published') =>
  new Reader({ baseUrl: small.service.baseUrl, site: 'marram', token: small.token, edition })
const shown = async (edition: 'published' | 'draft' = 'published') => {
  const entry = await reader(edition).entry('news', page)
  const [block] = (entry!.values as { body: { values: { entries: { id: string; type: string }[] } }[] }).body
  return block!.values.entries
}

beforeAll(async () => {
  small = await startSmall({}, () => now)
  owner = small.owner
  await owner.adoptModel((await owner.compareModel(asFiles(withListing))).id)
  museum = (await owner.create({ type: 'museum', values: { name: { en: 'The Lighthouse' } } })).id
  await owner.publish(museum)
  page = (await owner.create({ type: 'news', values: { title: { en: 'News' }, body: [latest(walks)], top: walks } })).id
  await owner.publish(page)
})
afterAll(() => small.service.end())

describe('a list that fills itself', () => {
  it('is filled when it is read, in REST and GraphQL, and by what its readers may see', async () => {
    expect(await shown()).toEqual([])
    const [late, soon] = [
      await activity('Late', 'walk', '2031-04-02T09:00:00Z'),
      await activity('Soon', 'walk', '2031-03-20T09:00:00Z'),
    ]
    await activity('Talk', 'talk', '2031-03-20T09:00:00Z')
    const draft = await owner.create({
      type: 'activity',
      values: { title: { en: 'Draft' }, format: 'walk', starts: '2031-03-15T09:00:00Z', museum },
    })
    expect((await shown()).map(({ id }) => id)).toEqual([soon, late])
    expect((await shown('draft')).map(({ id }) => id)).toEqual([draft.id, soon, late])
    const query = `{ news(id: "${page}", locale: "nl") { top { ... on Activity { entryId title } } body { ... on LatestBlock { entries { ... on Activity { entryId } } } } } }`
    const response = await fetch(`${small.service.baseUrl}/read/v1/marram/graphql`, {
      method: 'POST',
      body: JSON.stringify({ query }),
      headers: { Authorization: `Bearer ${small.token}`, 'Content-Type': 'application/json' },
    })
    const { data } = (await response.json()) as { data: unknown }
    expect(data).toMatchObject({ news: { top: [{ entryId: soon, title: 'Soon (nl)' }, { entryId: late }] } })
    const inEnglish = await fetch(`${small.service.baseUrl}/read/v1/marram/graphql`, {
      method: 'POST',
      body: JSON.stringify({ query: query.replace('"nl"', '"en"') }),
      headers: { Authorization: `Bearer ${small.token}`, 'Content-Type': 'application/json' },
    })
    expect(await inEnglish.json()).toEqual({
      data: {
        news: {
          top: [
            { entryId: soon, title: 'Soon' },
            { entryId: late, title: 'Late' },
          ],
          body: [{ entries: [{ entryId: soon }, { entryId: late }] }],
        },
      },
    })
  })
  it('says what it depends on, and is kept no longer than the time lets it', async () => {
    const response = await fetch(`${small.service.baseUrl}/read/v1/marram/entries/news/${page}`, {
      headers: { Authorization: `Bearer ${small.token}` },
    })
    expect(response.headers.get('cache-groups')).toMatch(
      /"v\.activity\.format\.[0-9a-f]+@en".*"t\.activity\.starts@en"/,
    )
    // Its first entry begins then.
    expect(Date.parse(response.headers.get('expires')!)).toBeGreaterThan(now)
    expect(Date.parse(response.headers.get('expires')!)).toBeLessThanOrEqual(Date.parse('2031-03-25T09:00:00Z'))
    const { sequence } = await owner.settings()
    // The lists have been looked at by then.
    await new Promise((resolve) => setTimeout(resolve, 6_000))
    now = Date.parse('2031-03-25T09:00:00Z')
    expect((await shown()).length).toBe(1)
    // An event tells of it, since nobody changed anything.
    const names = [...response.headers.get('cache-groups')!.matchAll(/"([^"]*)"/g)].map(([, name]) => name!)
    const turned = async () => {
      const { events } = await owner.events(sequence)
      return events.filter(({ type }) => type === 'entry.listTurned') as unknown as {
        data: { entry: { id: string }; locales: string[]; affected: { groups: string[] } }
      }[]
    }
    await expect.poll(turned, { timeout: 20_000 }).toHaveLength(1)
    const [{ data }] = (await turned()) as [Awaited<ReturnType<typeof turned>>[0]]
    expect([data.entry.id, data.locales.includes('nl')]).toEqual([page, true])
    expect(data.affected.groups.some((name) => names.includes(name))).toBe(true)
    // Time goes on, and nothing turns: nothing is told.
    now += 3_600_000
    await new Promise((resolve) => setTimeout(resolve, 6_000))
    expect(await turned()).toHaveLength(1)
  })
  it.each([
    [{ type: 'activity', first: 3, where: 'formt = "walk"' }, 'badListing', /Did you mean `format`/],
    [{ type: 'activity', first: 3, where: 'entry.state = "edited"' }, 'badListing', /entry.state/],
    [{ type: 'activity', first: 3, sort: 'body' }, 'badListing', /cannot be sorted by/],
    [{ type: 'museum', first: 3 }, 'wrongType', /lists activity, person, not `museum`/],
  ])('is refused at its place for %j', async (entries, code, message) => {
    const refusal = await problem(() =>
      owner.create({ type: 'news', values: { title: { en: 'Bad' }, body: [latest(entries)] } }),
    )
    expect(refusal.problems).toEqual([
      expect.objectContaining({
        code,
        pointer: '/values/body/0/values/entries',
        message: expect.stringMatching(message) as string,
      }),
    ])
  })
  it('refuses another form, and more than fit', async () => {
    const make = (entries: unknown) =>
      owner.create({ type: 'news', values: { title: { en: 'Bad' }, body: [latest(entries)] } })
    expect((await problem(() => make({ type: 'activity' }))).problems[0]?.message).toMatch(
      /must be `{ type, where, sort, first }`/,
    )
    const { id } = await make({ type: 'activity', first: 6 })
    expect((await problem(() => owner.publish(id))).problems[0]?.message).toMatch(/lists 6 entries, at most 5 fit/)
  })
  it('is empty when the model has changed under it, and never fails a page', async () => {
    const changed = { ...withListing, activity: withListing.activity.replace('format: { kind', 'form: { kind') }
    await owner.adoptModel((await owner.compareModel(asFiles(changed))).id)
    expect(await shown()).toEqual([])
    const { problems } = await owner.consequences(page)
    expect(problems.map(({ code }) => code)).toEqual(['badListing', 'badListing'])
  })
})
