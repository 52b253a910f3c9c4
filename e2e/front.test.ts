import { Reader } from '@wisteria/client'
import { request } from 'node:http'
import { brotliDecompressSync, gunzipSync } from 'node:zlib'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startDemo, startSmall, type DemoWorld, type SmallSite } from './support/running.js'

let demo: DemoWorld
let key: string
const base = () => `${demo.service.baseUrl}/read/v1/marram`

interface Raw {
  readonly status: number
  readonly headers: Record<string, string | undefined>
  readonly bytes: Buffer

  readonly json: <T>() => T
}

/** An answer as it goes over the wire: not decompressed, and without headers of our own in the request. */
const raw = (
  path: string,
  headers: Record<string, string> = {},
  method = 'GET',
  on = base(),
  token = key,
): Promise<Raw> =>
  new Promise((resolve, reject) => {
    const sent = request(
      on + path,
      { method, headers: { Authorization: `Bearer ${token}`, ...headers } },
      (response) => {
        const pieces: Buffer[] = []
        response.on('data', (piece: Buffer) => pieces.push(piece))
        response.on('end', () => {
          const bytes = Buffer.concat(pieces)
          resolve({
            status: response.statusCode!,
            headers: response.headers as Raw['headers'],
            bytes,
            json: <T>() => JSON.parse(bytes.toString()) as T,
          })
        })
      },
    )
    sent.on('error', reject)
    sent.end()
  })
const served = ({ headers }: Raw): string => headers['cache-status']!.replace('wisteria; ', '')

beforeAll(async () => {
  demo = await startDemo()
  key = demo.seeded.keys.published
})
afterAll(() => demo.service.end())

describe('an answer that was given before', () => {
  it('comes from memory, whatever the order of what was asked, and is the same', async () => {
    const first = await raw('/entries/museum?sort=name&first=3')
    const again = await raw('/entries/museum?sort=name&first=3')
    const otherwise = await raw('/entries/museum?first=3&sort=name')
    expect([first, again, otherwise].map(served)).toEqual(['fwd=uri-miss; stored', 'hit', 'hit'])
    expect(again.bytes).toEqual(first.bytes)
    for (const name of ['etag', 'cache-groups', 'cache-control', 'vary', 'link', 'content-language'])
      expect(again.headers[name], name).toBe(first.headers[name])
  })

  it('is never older than what was published, however quickly it is asked for', async () => {
    const editor = await demo.as('ilse@marram.example')
    const { entries } = await editor.entries({ type: 'museum', first: 1 })
    const { id } = entries[0]!
    const read = async () =>
      (await raw(`/entries/museum/${id}?pick=town`)).json<{ values: { town: string } }>().values.town
    for (let round = 0; round < 20; round++) {
      const { version } = await editor.entry(id)
      const saved = await editor.patch(id, version, { town: `Town ${round}` })
      expect(await read()).not.toBe(`Town ${round}`)
      // Readers ask all the while.
      const busy = Promise.all(Array.from({ length: 10 }, read))
      await editor.publish(id, { version: saved.version })
      expect(await read()).toBe(`Town ${round}`)
      await busy
    }
  })

  it('is not kept for drafts, for what changes at moments that cannot be told, and for errors', async () => {
    const draft = demo.seeded.keys.draft
    const untold = `/entries/exhibition?where=${encodeURIComponent('entry.updated in [now]')}`
    for (const path of ['/entries/museum?edition=draft', untold])
      for (let twice = 0; twice < 2; twice++)
        expect(served(await raw(path, {}, 'GET', base(), draft)), path).toBe('fwd=bypass')
    expect((await raw(untold)).headers['cache-control']).toBe('no-store')
    const query = `/graphql?query=${encodeURIComponent('{ museums(edition: DRAFT) { nodes { name } } }')}`
    expect((await raw(query)).json<{ errors: unknown[] }>()).toHaveProperty('errors')
    const allowed = await raw(query, {}, 'GET', base(), draft)
    expect(allowed.json()).not.toHaveProperty('errors')
    expect((await raw(query)).json()).toHaveProperty('errors')
  })

  it('is given to nobody who may not have it', async () => {
    const path = '/entries/museum?sort=town'
    await raw(path)
    expect((await raw(path, {}, 'GET', base(), 'wk_unknown')).status).toBe(401)
    const editor = await demo.as('maren@marram.example')
    const { id, secret } = await editor.createKey({ label: 'Short', scope: 'published' })
    expect((await raw(path, {}, 'GET', base(), secret)).status).toBe(200)
    await editor.revokeKey(id)
    expect((await raw(path, {}, 'GET', base(), secret)).status).toBe(401)
  })

  it('is kept for GraphQL too, by GET and by POST, and each of its forms apart', async () => {
    const query = `/graphql?query=${encodeURIComponent('{ museums { nodes { slug } } }')}`
    await raw(query)
    expect(served(await raw(query))).toBe('hit')
    const other = await raw(query, { Accept: 'application/graphql-response+json' })
    expect([served(other), other.headers['content-type']]).toEqual([
      'fwd=uri-miss; stored',
      'application/graphql-response+json; charset=utf-8',
    ])
    const post = () =>
      fetch(`${base()}/graphql`, {
        method: 'POST',
        headers: { Authorization: `Bearer ${key}`, 'Content-Type': 'application/json' },
        body: JSON.stringify({ query: '{ museums { nodes { town } } }' }),
      })
    await post()
    expect((await post()).headers.get('cache-status')).toBe('wisteria; hit')
  })

  it('still tells which key reads which field', async () => {
    const editor = await demo.as('maren@marram.example')
    const { secret } = await editor.createKey({ label: 'Noted', scope: 'published' })
    await raw('/entries/museum?pick=slug', {})
    expect(served(await raw('/entries/museum?pick=slug', {}, 'GET', base(), secret))).toBe('hit')
  })
})

describe('an answer that depends on the time', () => {
  let small: SmallSite
  let clock = Date.parse('2031-05-01T10:00:00Z')
  beforeAll(async () => {
    small = await startSmall({}, () => clock)
  })
  afterAll(() => small.service.end())

  it('is kept until the first moment at which it can change, and no longer', async () => {
    const { owner } = small
    const secret = (await owner.createKey({ label: 'Clock', scope: 'published' })).secret
    for (const [title, starts] of [
      ['Soon', '2031-05-01T12:00:00Z'],
      ['Later', '2031-05-03T12:00:00Z'],
    ]) {
      const { id } = await owner.create({ type: 'activity', values: { title: { en: title }, format: 'talk', starts } })
      await owner.publish(id)
    }
    const on = `${small.service.baseUrl}/read/v1/marram`
    const path = `/entries/activity?pick=title&where=${encodeURIComponent('starts >= now and starts < now + 7 days')}`
    const read = async () => {
      const answer = await raw(path, {}, 'GET', on, secret)
      const { entries } = answer.json<{ entries: { values: { title: string } }[] }>()
      return [
        served(answer),
        entries
          .map(({ values }) => values.title)
          .sort()
          .join(),
        answer.headers['expires'],
      ]
    }
    const until = 'Thu, 01 May 2031 12:00:00 GMT'
    expect(await read()).toEqual(['fwd=uri-miss; stored', 'Later,Soon', until])
    clock = Date.parse('2031-05-01T11:59:59Z')
    expect(await read()).toEqual(['hit', 'Later,Soon', until])
    clock = Date.parse('2031-05-01T12:00:01Z')
    expect(await read()).toEqual(['fwd=uri-miss; stored', 'Later', 'Sat, 03 May 2031 12:00:00 GMT'])
    const daily = `/entries/activity?pick=title&where=${encodeURIComponent('day has no value or day >= today')}`
    const midnight = await raw(daily, {}, 'GET', on, secret)
    // In the time zone of the site.
    expect(midnight.headers['expires']).toBe('Thu, 01 May 2031 22:00:00 GMT')
    const graphql = await raw(
      `/graphql?query=${encodeURIComponent('{ activities(where: { starts: { atLeast: "now" } }) { nodes { title } } }')}`,
      {},
      'GET',
      on,
      secret,
    )
    expect(graphql.headers['expires']).toBe('Sat, 03 May 2031 12:00:00 GMT')
  })
})

describe('compression', () => {
  it('is what the reader takes, with a tag of its own', async () => {
    const path = '/entries/activity?first=10'
    const plain = await raw(path)
    const br = await raw(path, { 'Accept-Encoding': 'gzip;q=0.5, br' })
    const gzip = await raw(path, { 'Accept-Encoding': 'gzip' })
    expect([plain, br, gzip].map(({ headers }) => headers['content-encoding'])).toEqual([undefined, 'br', 'gzip'])
    expect(brotliDecompressSync(br.bytes)).toEqual(plain.bytes)
    expect(gunzipSync(gzip.bytes)).toEqual(plain.bytes)
    expect(new Set([plain, br, gzip].map(({ headers }) => headers['etag'])).size).toBe(3)
    expect(br.headers['content-length']).toBe(String(br.bytes.length))
    const notModified = await raw(path, { 'Accept-Encoding': 'br', 'If-None-Match': br.headers['etag']! })
    expect([notModified.status, notModified.bytes.length, notModified.headers['etag']]).toEqual([
      304,
      0,
      br.headers['etag'],
    ])
    expect((await raw(path, { 'Accept-Encoding': 'br;q=0, identity' })).headers['content-encoding']).toBeUndefined()
  })
})

describe('HEAD and methods', () => {
  it('say what GET would, without its body', async () => {
    const get = await raw('/entries/museum')
    const head = await raw('/entries/museum', {}, 'HEAD')
    expect([head.status, head.bytes.length]).toEqual([200, 0])
    for (const name of ['etag', 'content-length', 'content-type']) expect(head.headers[name]).toBe(get.headers[name])
    expect((await raw('/entries/nothing', {}, 'HEAD')).status).toBe(404)
  })
  it('that do not go with an address are refused, saying which do', async () => {
    const refused = await raw('/entries/museum', {}, 'DELETE')
    expect([refused.status, refused.headers['allow']]).toEqual([405, 'GET, HEAD'])
  })
})

describe('pages of registered front ends', () => {
  it('may read in a browser, and no others, from the moment they are registered', async () => {
    const editor = await demo.as('maren@marram.example')
    const origin = 'https://shop.example'
    const read = () => raw('/entries/museum', { Origin: origin })
    expect((await read()).headers['access-control-allow-origin']).toBeUndefined()
    await editor.setFrontEnd('shop', {
      label: 'Shop',
      origins: [origin],
      enter: { '*': `${origin}/preview?grant={code}` },
    })
    const allowed = await read()
    expect(allowed.headers['access-control-allow-origin']).toBe(origin)
    expect(allowed.headers['access-control-expose-headers']).toContain('Cache-Groups')
    expect(allowed.headers['vary']).toContain('Origin')
    const asked = {
      Origin: origin,
      'Access-Control-Request-Method': 'GET',
      'Access-Control-Request-Headers': 'authorization',
    }
    const preflight = await raw('/entries/museum', asked, 'OPTIONS')
    expect([preflight.status, preflight.headers['access-control-allow-methods']]).toEqual([204, 'GET, HEAD, POST'])
    // Pages may read refusals too, so that they can show the reason.
    expect((await raw('/entries/musea', { Origin: origin })).headers['access-control-allow-origin']).toBe(origin)
    await editor.removeFrontEnd('shop')
    expect((await read()).headers['access-control-allow-origin']).toBeUndefined()
  })
})

describe('the locale', () => {
  it('is the one that the reader likes best, when it is to be', async () => {
    const ask = (language: string) =>
      raw('/entries/museum?locale=auto&pick=name&first=1', { 'Accept-Language': language })
    const answers = await Promise.all(['nl-BE, en;q=0.5', 'fr, ar;q=0.8', 'xx', 'nl;q=0, en', 'nl-NL'].map(ask))
    expect(answers.map(({ headers }) => headers['content-language'])).toEqual(['nl-BE', 'ar', 'en', 'en', 'nl'])
    expect(answers[0]!.headers['vary']).toContain('Accept-Language')
  })
  it('may be every one at once', async () => {
    const { entries } = (await raw('/entries/museum?locales=every&pick=name&first=1')).json<{
      entries: { id: string; locales: Record<string, { values: { name: string } }> }[]
    }>()
    expect(Object.keys(entries[0]!.locales)).toEqual(['en', 'nl', 'nl-BE', 'ar'])
    const narrow = (await raw(`/entries/museum/${entries[0]!.id}?locale=ar&pick=name`)).json<object>()
    expect(entries[0]!.locales['ar']).toEqual(narrow)
  })
})

describe('paging', () => {
  it('is told by links', async () => {
    const first = await raw('/entries/activity?sort=-museum.name,title&first=4')
    const next = /<([^>]+)>; rel="next"/.exec(first.headers['link']!)![1]!
    const second = await raw('', {}, 'GET', demo.service.baseUrl + next)
    expect(second.headers['link']).toContain('rel="first"')
    const titles = (answer: Raw) =>
      answer.json<{ entries: { values: { title: string } }[] }>().entries.map(({ values }) => values.title)
    const all = titles(await raw('/entries/activity?sort=-museum.name,title&first=8'))
    expect([...titles(first), ...titles(second)]).toEqual(all)
  })
})

describe('what a page is built from', () => {
  it('are the paths and slugs alone, page after page', async () => {
    const reader = new Reader({ baseUrl: demo.service.baseUrl, site: 'marram', token: key })
    const paths = []
    for await (const path of reader.paths()) paths.push(path)
    expect(paths.length).toBeGreaterThan(40)
    for (const path of paths.slice(0, 5)) expect(await reader.at(path.path)).toMatchObject({ entry: { id: path.id } })
    const page = (await raw('/paths?type=museum&locale=nl&first=2')).json<{
      paths: { path: string }[]
      next: string
    }>()
    const rest = (await raw(`/paths?type=museum&locale=nl&first=2&after=${page.next}`)).json<object>() as typeof page
    expect([...page.paths, ...rest.paths].map(({ path }) => path)).toEqual(
      paths.filter(({ type, locale }) => type === 'museum' && locale === 'nl').map(({ path }) => path),
    )
    const slugs = []
    for await (const slug of reader.slugs('museum')) slugs.push(slug.slug)
    expect(slugs.sort()).toEqual(['boatyard', 'lighthouse', 'saltworks'])
    expect((await raw('/slugs/notice')).json<{ detail: string }>()).toMatchObject({ code: 'badRequest' })
    expect((await raw('/paths?after=x')).status).toBe(400)
  })
})

describe('what changed', () => {
  it('is told from a position on, and as it happens', async () => {
    const editor = await demo.as('ilse@marram.example')
    const reader = new Reader({ baseUrl: demo.service.baseUrl, site: 'marram', token: key })
    const { position } = await reader.changes()
    const { entries } = await editor.entries({ type: 'person', first: 1 })
    const { id, version } = await editor.entry(entries[0]!.id)
    const stream = new AbortController()
    const response = await fetch(`${base()}/changes?since=${position}`, {
      headers: { Authorization: `Bearer ${key}`, Accept: 'text/event-stream' },
      signal: stream.signal,
    })
    expect(response.headers.get('content-type')).toBe('text/event-stream; charset=utf-8')
    const saved = await editor.patch(id, version, { name: 'Somebody else' })
    expect((await reader.changes(position)).changes).toEqual([])
    await editor.publish(id, { version: saved.version })
    const { changes, position: now } = await reader.changes(position)
    expect(changes).toMatchObject([{ change: 'changed', entry: { id, type: 'person' } }])
    expect(now).toBeGreaterThan(position)
    let told = ''
    const pieces = response.body!.getReader()
    while (!told.includes('data:')) told += new TextDecoder().decode((await pieces.read()).value)
    stream.abort()
    expect(told).toMatch(new RegExp(`id: ${changes[0]!.position}\\nevent: changed\\ndata: .*"${id}"`))
    expect((await raw(`/changes?since=${now + 1000}`)).status).toBe(400)
  })
  it('comes as old as it is kept, or not at all', async () => {
    const answer = await raw('/changes?since=0&first=1')
    expect(answer.json()).toMatchObject({ more: true, changes: [{}] })
  })
  it('makes an answer that is asked for by its generation wait until that is there', async () => {
    const generation = (await raw('/entries/museum')).headers['wisteria-generation']!
    const [epoch, number] = generation.split('.') as [string, string]
    expect((await raw(`/entries/museum?generation=${generation}`)).status).toBe(200)
    const ahead = await raw(`/entries/museum?generation=${epoch}.${Number(number) + 1}`)
    expect(ahead.status).toBe(503)
    expect((await raw('/entries/museum?generation=other.99')).status).toBe(200)
  })
})

describe('a share of what can be asked', () => {
  let small: SmallSite
  beforeAll(async () => {
    small = await startSmall({ readRate: 20, metrics: true })
  })
  afterAll(() => small.service.end())

  it('is told, counted for each key alone, and refused when it is used up', async () => {
    const [first, other] = await Promise.all(
      ['One', 'Other'].map(async (label) => (await small.owner.createKey({ label, scope: 'published' })).secret),
    )
    const on = `${small.service.baseUrl}/read/v1/marram`
    const answers = []
    for (let count = 0; count < 22; count++) answers.push(await raw('/entries/museum', {}, 'GET', on, first))
    expect(answers[0]!.headers['ratelimit-policy']).toBe('"reads";q=20;w=60')
    expect(answers[0]!.headers['ratelimit']).toMatch(/^"reads";r=19;t=\d+$/)
    expect(answers.map(({ status }) => status)).toEqual([...Array.from({ length: 20 }, () => 200), 429, 429])
    expect(Number(answers[21]!.headers['retry-after'])).toBeGreaterThan(0)
    expect((await raw('/entries/museum', {}, 'GET', on, other)).status).toBe(200)
    const metrics = await (await fetch(`${small.service.baseUrl}/metrics`)).text()
    expect(metrics).toMatch(/wisteria_reads_total\{answered="from_cache"\} 20\n/)
    expect(metrics).toMatch(/wisteria_reads_total\{answered="refused"\} 2\n/)
  })

  it('has no metrics unless it is told to', async () => {
    expect((await fetch(`${demo.service.baseUrl}/metrics`)).status).toBe(404)
  })
})
