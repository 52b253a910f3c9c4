import type { Editor } from '@wisteria/client'
import { fieldKinds, type Field, type Model } from '@wisteria/core'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { canary, startWithCanaries } from './support/canaries.js'
import type { SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let key: string
let publicMuseum: string
let hiddenMuseum: string
let hiddenPerson: string
let activity: string
let hiddenIds: readonly string[]

beforeAll(async () => {
  ;({ small, owner, key, publicMuseum, hiddenMuseum, hiddenPerson, activity, hiddenIds } = await startWithCanaries())
})
afterAll(() => small.service.end())

const get = async (path: string) => {
  const response = await fetch(`${small.service.baseUrl}/read/v1/marram${path}`, {
    headers: { Authorization: `Bearer ${key}` },
  })
  return { status: response.status, text: await response.text(), headers: JSON.stringify([...response.headers]) }
}

/** Every question of a reader of the published edition; where the answer repeats the question, the question is removed first. */
function expectNoLeak(asked: string, { status, text, headers }: Awaited<ReturnType<typeof get>>): void {
  expect(status, asked).toBeLessThan(500)
  const answered = decodeURIComponent(asked).includes(canary)
    ? text.replaceAll(canary, (match, at: number) => (/["`“]$/.test(text.slice(0, at)) ? '' : match))
    : text
  expect(answered, asked).not.toContain(canary)
  expect(headers, asked).not.toContain(canary)
  for (const id of hiddenIds) if (!asked.includes(id)) expect(text + headers, asked).not.toContain(id)
}

const count = async (type: string, where: string, locale = 'en'): Promise<number> => {
  const answer = await get(`/entries/${type}?count=true&locale=${locale}&where=${encodeURIComponent(where)}`)
  expect(answer.status, where).toBe(200)
  expectNoLeak('list', answer)
  return (JSON.parse(answer.text) as { count: number }).count
}

it('no draft shows in a list, an entry, a reference, a block or a header', async () => {
  for (const type of ['museum', 'person', 'activity', 'page'])
    for (const locale of ['en', 'nl', 'nl-BE', 'ar'])
      for (const query of ['', '&sort=-entry.updated', '&count=true'])
        expectNoLeak(`${type} ${locale} ${query}`, await get(`/entries/${type}?locale=${locale}${query}`))
  for (const path of [
    `/entries/activity/${activity}`,
    `/entries/activity/${activity}?locale=nl`,
    `/entries/museum/${publicMuseum}?locale=ar`,
  ])
    expectNoLeak(path, await get(path))
  const { entries } = JSON.parse((await get('/entries/activity')).text) as {
    entries: { values: Record<string, unknown> }[]
  }
  expect(entries[0]?.values).toMatchObject({
    title: 'Walk',
    format: 'walk',
    price: 3,
    tags: ['dark'],
    museum: { id: publicMuseum },
    body: [{ values: { text: 'Bring' } }],
  })
  expect(entries[0]?.values['speakers']).toHaveLength(1)
})

it('what is not public is not found, by id or by path', async () => {
  for (const id of hiddenIds)
    for (const type of ['museum', 'person']) expect((await get(`/entries/${type}/${id}`)).status).toBe(404)
  for (const path of [`/museums/${canary}`, `/activities/${canary}`, `/nl/agenda/${canary}-nl`]) {
    const answer = await get(`/at?path=${encodeURIComponent(path)}`)
    expect([path, answer.status]).toEqual([path, 404])
  }
  expect((await get('/at?path=/museums/withdrawn')).status).toBe(410)
})

it('no condition on any field, with any operator, tells drafts apart', async () => {
  const model: Model = await owner.model()
  const texts = (path: string) => [
    `${path} contains "${canary}"`,
    `${path} = "${canary}"`,
    `${path} starts with "${canary}"`,
  ]
  const tests = (field: Field, path: string): string[] => {
    const comparison = fieldKinds.find((kind) => kind.name === field.kind)?.comparison
    if (comparison === 'text' || (comparison === 'exact' && field.kind !== 'choice')) return texts(path)
    if (field.kind === 'choice') return [`${path} = "talk"`]
    if (comparison === 'number') return [`${path} = 99`, `${path} > 50`]
    if (comparison === 'boolean') return [`${path} = true`]
    if (comparison === 'date' || comparison === 'dateTime') return [`${path} has value`]
    if (comparison === 'reference') return [`${path} = "${hiddenMuseum}"`, `${path} = "${hiddenPerson}"`]
    return []
  }
  for (const type of model.types)
    for (const field of type.fields) {
      for (const test of tests(field, field.name)) expect([test, await count(type.name, test)]).toEqual([test, 0])
      if (field.kind !== 'entry') continue
      for (const target of model.types.filter((type) => (field.options['accepts'] as string[]).includes(type.name)))
        for (const inner of target.fields)
          for (const test of tests(inner, `${field.name}.${inner.name}`))
            expect([test, await count(type.name, test, 'nl')]).toEqual([test, 0])
    }
  // A reference to a hidden entry counts as none.
  expect(await count('person', 'home has value')).toBe(0)
  expect(await count('person', 'home has no value')).toBe(1)
  expect(await count('activity', 'any speakers (home has value)')).toBe(0)
})

it('no order tells drafts apart', async () => {
  for (const sort of ['title', '-title', 'price', '-starts', 'slug', '-entry.updated', 'entry.published'])
    expectNoLeak(sort, await get(`/entries/activity?sort=${sort}`))
})

it('no GraphQL query shows a draft', async () => {
  const ask = async (query: string) => {
    const answer = await get(`/graphql?query=${encodeURIComponent(query)}`)
    expectNoLeak(query, answer)
    return answer
  }
  await ask(
    '{ activities { count nodes { id title slug summary tags museum { name town } speakers { name home { name } } body { ... on HeadingBlock { text } ... on QuoteBlock { text by } } paths { path } state } } }',
  )
  await ask(
    '{ activities(locale: "nl") { nodes { title path } } museums(locale: "ar") { count nodes { name } } people { nodes { home { name } } } }',
  )
  await ask(`{ museum(id: "${hiddenMuseum}") { name } person(id: "${hiddenPerson}") { name } }`)
  await ask(`{ activities(where: { museum: { is: "${hiddenMuseum}" } }) { count nodes { title } } }`)
  expect(JSON.parse((await ask(`{ activities(where: { title: { contains: "${canary}" } }) { count } }`)).text)).toEqual(
    { data: { activities: { count: 0 } } },
  )
  for (const query of [
    '{ activities(edition: DRAFT) { nodes { title } } }',
    `{ at(path: "/activities/${canary}", edition: DRAFT) { path } }`,
    `{ museum(id: "${Buffer.from(`${hiddenMuseum} en draft`).toString('base64url')}") { name } }`,
  ]) {
    const answer = await get(`/graphql?query=${encodeURIComponent(query)}`)
    expect(answer.text, query).toMatch(/does not include this/)
    expectNoLeak(query, answer)
  }
})

it('no error and no event for readers names a draft', async () => {
  for (const path of [
    '/entries/activity?where=title',
    `/entries/activity?where=titl%20%3D%20%22x%22`,
    '/entries/activity?edition=draft',
    `/entries/museum/${hiddenMuseum}`,
    '/at?path=/x',
    '/graphql?query=%7B',
  ])
    expectNoLeak(path, await get(path))
})
