import { Client, fetchExchange } from '@urql/core'
import { buildClientSchema, getIntrospectionQuery, type IntrospectionQuery } from 'graphql'
import { GraphQLClient } from 'graphql-request'
import { serverAudits } from 'graphql-http'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startDemo, type DemoWorld } from './support/running.js'

let demo: DemoWorld
let url: string
let headers: Record<string, string>

beforeAll(async () => {
  demo = await startDemo()
  url = `${demo.service.baseUrl}/read/v1/marram/graphql`
  headers = { Authorization: `Bearer ${demo.seeded.keys.published}` }
})
afterAll(() => demo.service.end())

const ask = async (query: string, variables?: object) =>
  (await (
    await fetch(url, {
      method: 'POST',
      headers: { ...headers, 'Content-Type': 'application/json' },
      body: JSON.stringify({ query, variables }),
    })
  ).json()) as { data: Record<string, never>; errors?: { message: string; extensions?: Record<string, unknown> }[] }

describe('GraphQL over HTTP', () => {
  const audits = serverAudits({
    url: () => url,
    fetchFn: (address: string, init: RequestInit = {}) =>
      fetch(address, { ...init, headers: { ...(init.headers as Record<string, string>), ...headers } }),
  })
  it.each(audits.map((audit) => [`${audit.id} ${audit.name}`, audit] as const))('%s', async (_, audit) => {
    const result = await audit.fn()
    expect(result.status === 'ok' ? 'ok' : result.reason).toBe('ok')
  })
})

describe('generic clients', () => {
  const query =
    'query ($first: Int) { museums(first: $first, sort: ["slug"]) { edges { cursor node { id __typename slug } } pageInfo { hasNextPage endCursor } } }'
  const wanted = { museums: { edges: [{ node: { slug: 'boatyard' } }], pageInfo: { hasNextPage: true } } }
  it('of one kind read as they come', async () => {
    const client = new GraphQLClient(url, { headers })
    expect(await client.request(query, { first: 1 })).toMatchObject(wanted)
  })
  it('of another kind read as they come, by GET too', async () => {
    for (const preferGetMethod of [false, true] as const) {
      const client = new Client({ url, exchanges: [fetchExchange], fetchOptions: { headers }, preferGetMethod })
      const { data, error } = await client.query<unknown>(query, { first: 1 }).toPromise()
      expect(error).toBeUndefined()
      expect(data).toMatchObject(wanted)
    }
  })
  it('that generate code find a schema that is whole', async () => {
    const { data } = await ask(getIntrospectionQuery())
    const schema = buildClientSchema(data as unknown as IntrospectionQuery)
    expect(schema.getQueryType()!.getFields()).toHaveProperty('activities')
  })
})

describe('a connection', () => {
  it('is walked by its cursors, each entry once', async () => {
    const seen: string[] = []
    let after: string | null = null
    do {
      const { data }: { data: Record<string, never> } = await ask(
        'query ($after: String) { activities(first: 4, after: $after, sort: ["-starts"]) { edges { cursor node { entryId } } pageInfo { hasNextPage hasPreviousPage startCursor endCursor } } }',
        { after },
      )
      const { edges, pageInfo } = data['activities'] as unknown as {
        edges: { cursor: string; node: { entryId: string } }[]
        pageInfo: { hasNextPage: boolean; hasPreviousPage: boolean; startCursor: string; endCursor: string }
      }
      expect([pageInfo.startCursor, pageInfo.endCursor]).toEqual([edges[0]!.cursor, edges.at(-1)!.cursor])
      expect(pageInfo.hasPreviousPage).toBe(after !== null)
      seen.push(...edges.map(({ node }) => node.entryId))
      after = pageInfo.hasNextPage ? pageInfo.endCursor : null
    } while (after !== null)
    const { data } = await ask('{ activities { count } }')
    expect([seen.length, new Set(seen).size]).toEqual([data['activities']!['count'], seen.length])
  })
})

describe('what refers to an entry', () => {
  it('is a list like any other, through one field or any', async () => {
    const { data, errors } = await ask(
      '{ museum(path: "/museums/lighthouse") { name usedBy { activities(first: 100) { count nodes { museum { slug } } } some: activities(by: museum, search: "walk", where: { format: { is: walk } }) { nodes { title format } } } } }',
    )
    expect(errors).toBeUndefined()
    const { usedBy } = data['museum'] as unknown as {
      usedBy: {
        activities: { count: number; nodes: { museum: { slug: string } }[] }
        some: { nodes: { format: string }[] }
      }
    }
    expect(usedBy.activities.count).toBeGreaterThan(2)
    expect(usedBy.activities.nodes.every(({ museum }) => museum.slug === 'lighthouse')).toBe(true)
    expect(usedBy.some.nodes.map(({ format }) => format)).toEqual(usedBy.some.nodes.map(() => 'walk'))
    expect(usedBy.some.nodes.length).toBeGreaterThan(0)
  })
  it('is sought in the locale and edition of the entry', async () => {
    const { data } = await ask(
      '{ museum(path: "/nl/musea/vuurtoren") { locale usedBy { activities { nodes { locale } } } } }',
    )
    if (data['museum'] !== null) {
      const { locale, usedBy } = data['museum'] as unknown as {
        locale: string
        usedBy: { activities: { nodes: { locale: string }[] } }
      }
      expect(usedBy.activities.nodes.every((node) => node.locale === locale)).toBe(true)
    }
  })
})

describe('a query that asks for too much', () => {
  const list = (inside: string) =>
    `{ museums(first: 100) { nodes { usedBy { activities(first: 100) { nodes { ${inside} } } } } } }`
  it.each([
    ['costs', list('title slug format price'), 'tooCostly', /costs \d+, .* 30000 are allowed/],
    [
      'other names',
      `{ ${Array.from({ length: 101 }, (_, index) => `a${index}: museums { count }`).join(' ')} }`,
      'tooCostly',
      /has 101 aliases; 100 are allowed/,
    ],
    ['breadth', `{ ${'museums { count } '.repeat(201)} }`, 'tooCostly', /201 fields at one level; 200 are allowed/],
    [
      'depth',
      `{ pages { nodes { ${'inPage { '.repeat(14)} title ${'} '.repeat(14)} } } }`,
      'tooCostly',
      /more than 12 levels deep/,
    ],
    ['words', `{ ${'museums { count } '.repeat(4000)} }`, undefined, /token|limit/i],
  ])('is refused for its %s, saying the limit and what was asked', async (_, query, code, message) => {
    const { errors } = await ask(query)
    expect(errors![0]!.message).toMatch(message)
    if (code) expect(errors![0]!.extensions).toMatchObject({ code, limit: expect.any(Number) as number })
  })
  it('says what an allowed one costs', async () => {
    const answer = await fetch(`${url}?query=${encodeURIComponent('{ museums(first: 3) { nodes { name slug } } }')}`, {
      headers,
    })
    // The list, its nodes three times, and two fields of each.
    expect(answer.headers.get('wisteria-cost')).toBe('10')
  })
})
