import { request as ask, Agent } from 'node:http'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { often } from './support/length.js'
import { canary, startWithCanaries, type CanarySite } from './support/canaries.js'

let site: CanarySite
const agent = new Agent({ keepAlive: true, maxSockets: 16 })

beforeAll(async () => {
  site = await startWithCanaries()
})
afterAll(async () => {
  agent.destroy()
  await site.small.service.end()
})

interface Asked {
  readonly path: string
  readonly method?: string
  readonly body?: string
  readonly headers?: Record<string, string>
}

/** One request as it is written, however malformed: `fetch` would correct it. */
const send = ({
  path,
  method = 'GET',
  body,
  headers = {},
}: Asked): Promise<{ status: number; text: string; head: string }> =>
  new Promise((resolve, reject) => {
    const url = new URL(site.small.service.baseUrl)
    const sent = ask(
      {
        host: url.hostname,
        port: url.port,
        path,
        method,
        agent,
        headers: { Authorization: `Bearer ${site.key}`, ...headers },
      },
      (response) => {
        const pieces: Buffer[] = []
        response.on('data', (piece: Buffer) => pieces.push(piece))
        response.on('end', () =>
          resolve({
            status: response.statusCode!,
            text: Buffer.concat(pieces).toString(),
            head: JSON.stringify(response.rawHeaders),
          }),
        )
      },
    )
    sent.on('error', reject)
    sent.end(body)
  })

/** The same numbers for the same seed. */
function numbers(seed: number): (below: number) => number {
  let state = seed
  return (below) => {
    state = (state * 1_664_525 + 1_013_904_223) % 2 ** 32
    return Math.floor((state / 2 ** 32) * below)
  }
}

const fields = ['title', 'slug', 'format', 'museum', 'museum.name', 'museum.town', 'speakers', 'tags', 'price', 'starts', 'day', 'free', 'body', 'entry.updated', 'entry.state', 'entry.type', 'nothing'] // prettier-ignore
const values = ['"Walk"', '"w', '3', '-1e400', 'true', 'now', 'today + 7 days', '2031-01-01', '["a", "b"]', '[]', 'null', '"' + 'x'.repeat(300) + '"', '"\\u0000"', '𝔘', "'"] // prettier-ignore
const operators = [
  '=',
  '!=',
  '<',
  '<=',
  '>',
  '>=',
  'in',
  'contains',
  'starts with',
  'has value',
  'has no value',
  'like',
  '',
]
const noise = ['%', '%00', '%ff', '%F0%9F', '\\', '"', "';--", '(', ')', ',', '{', '}', '..', '/', '?', '#', '&', '=', '\u202e', 'é', '💥', ' ', '0', '-1', '1e9', '99999999999999999999', 'NaN', 'null', 'every', 'auto'] // prettier-ignore
const types = ['activity', 'museum', 'person', 'nothing', '', 'activity/', 'Activity', '__proto__', 'constructor']

/** A random request of the Read API: mostly nearly right, now and then nothing of the kind. */
function randomRequest(seed: number): Asked {
  const below = numbers(seed)
  const oneOf = <One>(all: readonly One[]): One => all[below(all.length)]!
  const chance = (percent: number): boolean => below(100) < percent
  const condition = (depth = 0): string => {
    if (depth < 4 && chance(35)) return `${condition(depth + 1)} ${oneOf(['and', 'or', 'xor'])} ${condition(depth + 1)}`
    if (depth < 4 && chance(15)) return `not (${condition(depth + 1)})`
    if (chance(10)) return `any ${oneOf(fields)} (${oneOf(fields)} ${oneOf(operators)} ${oneOf(values)})`
    if (chance(3)) return '('.repeat(below(200)) + oneOf(values)
    return `${oneOf(fields)} ${oneOf(operators)} ${oneOf(values)}`
  }
  const selection = (depth = 0): string =>
    Array.from({ length: 1 + below(4) }, () => {
      const name = oneOf([...fields, '*', '@heading', '@person', 'as: html', 'first: 2'])
      return depth < 5 && chance(30) ? `${name}(${selection(depth + 1)}${chance(90) ? ')' : ''}` : name
    }).join(oneOf([',', ', ', ' ', ',,']))
  const graphql = (depth = 0): string => {
    if (depth > 3) return 'title'
    const parts = Array.from({ length: 1 + below(3) }, () =>
      oneOf([
        `activities(first: ${oneOf(['1', '100', '-1', '1000', '$n'])}) { nodes { ${graphql(depth + 1)} } }`,
        `activities(where: { ${oneOf(fields.slice(0, 4))}: { is: ${oneOf(values)} } }) { count }`,
        `museum(id: ${oneOf(values)}) { name usedBy { activities { nodes { title } } } }`,
        'museum { name }', '... on Activity { title }', '...F', '__typename', '__schema { types { name } }', 'speakers { name home { name } }', oneOf(noise),
        'a: title b: title c: title', 'body { __typename ... on HeadingBlock { text } }', 'at(path: "/") { path }', 'activities(edition: DRAFT) { nodes { title } }',
      ]),
    ) // prettier-ignore
    return parts.join(' ')
  }
  const parameter = (): [string, string] => {
    const name = oneOf(['where', 'search', 'sort', 'pick', 'first', 'after', 'locale', 'locales', 'follow', 'count', 'edition', 'richText', 'generation', 'path', 'since', 'wher', '__proto__', 'constructor', 'query', 'variables']) // prettier-ignore
    const written = Object.entries({
      where: condition,
      pick: selection,
      query: () => `{ ${graphql()} }`,
      sort: () =>
        oneOf([
          'title',
          '-starts',
          'museum.name,-title',
          'title,title,title,title,title',
          '-',
          ',,',
          'entry.updated',
          'body',
        ]),
      search: () => oneOf(['walk', 'AND OR NOT', '"', '*', 'x'.repeat(600), 'a b c d e f g h i j k l m n']),
      first: () => oneOf(['1', '0', '101', '-5', '1.5', 'many', '']),
      after: () =>
        oneOf(['bm9wZQ', 'W10', 'WyJhIiwxLCJiIl0', '%', Buffer.from('["x",1,"y",null]').toString('base64url')]),
      locale: () => oneOf(['en', 'nl', 'ar', 'auto', 'xx', 'EN']),
      locales: () => oneOf(['every', 'en', '']),
      follow: () => oneOf(['0', '3', '4', '-1', 'x']),
      count: () => oneOf(['true', 'false', '1']),
      edition: () => oneOf(['published', 'draft', 'all']),
      richText: () => oneOf(['html', 'text', 'pdf']),
      generation: () => oneOf(['a.1', 'x', '.', 'a.99999999999999999999']),
      path: () => oneOf(['/', '/activities/walk', 'x', '//', '/%2e%2e']),
      since: () => oneOf(['0', '5', '-1', '99999999', 'x']),
    })
    const value = chance(8)
      ? Array.from({ length: below(6) }, () => oneOf(noise)).join('')
      : (written.find(([header]) => header === name)?.[1]() ?? oneOf(noise))
    return [name, value]
  }
  const query = Array.from({ length: below(3) }, parameter)
    .map(([name, value]) => `${name}=${chance(95) ? encodeURIComponent(value) : value.replaceAll(/[^\x21-\x7e]/g, '')}`)
    .join('&')
  const place = oneOf([
    `/entries/${oneOf(types)}`, `/entries/${oneOf(types)}`, `/entries/${oneOf(types)}/${oneOf([site.activity, site.publicMuseum, 'x', '%00', '..'])}`, '/at', '/paths', `/slugs/${oneOf(types)}`,
    '/changes', `/schema/${oneOf(types)}.json`, '/openapi.json', '/graphql', `/${oneOf(noise.slice(0, 3))}`, '',
  ]) // prettier-ignore
  const headers: Record<string, string> = {
    ...(chance(10) ? { 'Accept-Language': oneOf(['nl, en;q=0.5', '*', ';;;q=', 'x'.repeat(2000)]) } : {}),
    ...(chance(10) ? { 'Accept-Encoding': oneOf(['br', 'gzip;q=0.5', 'zstd', '*;q=0', ';']) } : {}),
    ...(chance(10) ? { 'If-None-Match': oneOf(['*', '"x"', 'W/"y"', '']) } : {}),
    ...(chance(5) ? { Origin: oneOf(['https://site.example', 'null', 'x']) } : {}),
    ...(chance(5) ? { Accept: oneOf(['*/*', 'application/graphql-response+json', 'text/html', 'x']) } : {}),
    ...(chance(3) ? { Authorization: oneOf(['Bearer', 'Bearer wk_nope', 'Basic x', 'Bearer a.b.c']) } : {}),
  }
  if (place === '/graphql' && chance(70)) {
    const text = `query ($n: Int) { ${graphql()} } ${chance(50) ? 'fragment F on Activity { title ...F }' : 'fragment F on Activity { title }'}`
    const variables = oneOf<unknown>([{}, { n: 2 }, { n: 'x' }, null, [], { n: 1e308 }])
    const body = chance(90) ? JSON.stringify({ query: text, variables }) : oneOf(['', '{', '[]', 'null', '"x"', '{"query": 5}', 'x'.repeat(5000)]) // prettier-ignore
    const type = oneOf(['application/json', 'application/json', 'application/json; charset=utf-8', 'text/plain', ''])
    return {
      path: `/read/v1/marram/graphql`,
      method: 'POST',
      body,
      headers: { ...headers, ...(type ? { 'Content-Type': type } : {}) },
    }
  }
  const method = chance(92) ? 'GET' : oneOf(['HEAD', 'OPTIONS', 'POST', 'PUT', 'DELETE', 'PATCH'])
  return { path: `/read/v1/marram${place}${query ? '?' + query : ''}`, method, headers }
}

const times = often(4_000, 20_000)

it(`answers ${times} requests, however they are made, without a fault of its own and without a word of a draft`, async () => {
  const statuses = new Map<number, number>()
  const wrong: string[] = []
  let next = 1
  let slowest = 0
  const work = async (): Promise<void> => {
    while (next <= times) {
      const seed = next++
      const asked = randomRequest(seed)
      const began = performance.now()
      const { status, text, head } = await send(asked)
      slowest = Math.max(slowest, performance.now() - began)
      statuses.set(status, (statuses.get(status) ?? 0) + 1)
      const said = `${seed}: ${asked.method ?? 'GET'} ${asked.path} ${asked.body ?? ''} → ${status}`
      if (status >= 500 && status !== 503) wrong.push(`${said} ${text}`)
      if (status === 503 && !/has not been reached/.test(text)) wrong.push(`${said} ${text}`)
      const secret = site.hiddenIds.filter((id) => id !== site.withdrawn || !asked.path.includes('/changes'))
      const leaked = [canary, ...secret].find((secretText) => (text + head).includes(secretText))
      if (leaked) wrong.push(`${said} leaked ${leaked}`)
      // A refusal has a sentence.
      if (status >= 400 && text.startsWith('{')) {
        const body = JSON.parse(text) as { detail?: string; errors?: { message: string }[] }
        if (!(body.detail ?? body.errors?.[0]?.message)) wrong.push(`${said} says nothing: ${text}`)
      }
    }
  }
  await Promise.all(Array.from({ length: 8 }, work))
  expect(wrong.slice(0, 5)).toEqual([])
  // It must have got somewhere, and been refused somewhere, for this to mean anything.
  expect(statuses.get(200) ?? 0).toBeGreaterThan(times / 20)
  expect(statuses.get(400) ?? 0).toBeGreaterThan(times / 10)
  expect(slowest).toBeLessThan(10_000)
  const { text } = await send({ path: '/read/v1/marram/entries/activity?pick=title' })
  expect(JSON.parse(text)).toMatchObject({ entries: [{ values: { title: 'Walk' } }] })
}, 300_000)
