import { describe, expect, it } from 'vitest'
import { refusal } from '../../../e2e/support/models.js'
import { Service } from './service.js'
import { exchangePreviewCode, previewCookie } from './preview.js'
import { WisteriaProblem, WisteriaUnreachable } from './problem.js'
import { Reader, WisteriaGraphqlError } from './reader.js'
import { isAffected, type WebhookEvent } from './webhooks.js'

interface Asked {
  readonly url: string
  readonly method: string
  readonly headers: Record<string, string>
  readonly body: unknown
}

/** A fetch with given answers, which records its requests. */
function answering(...answers: { status?: number; body?: unknown; headers?: Record<string, string>; fails?: Error }[]) {
  const asked: Asked[] = []
  const send = ((url: string, init: RequestInit) => {
    asked.push({
      url,
      method: init.method ?? 'GET',
      headers: init.headers as Record<string, string>,
      body: init.body ? JSON.parse(init.body as string) : undefined,
    })
    const answer = answers[Math.min(asked.length, answers.length) - 1]!
    if (answer.fails) return Promise.reject(answer.fails)
    const { status = 200, body, headers = {} } = answer
    return Promise.resolve(
      new Response(status === 204 ? null : typeof body === 'string' ? body : JSON.stringify(body ?? {}), {
        status,
        headers,
      }),
    )
  }) as typeof fetch
  return { asked, fetch: send }
}

const reader = (fake: ReturnType<typeof answering>, more: object = {}) =>
  new Reader({ baseUrl: 'https://content.example/', site: 'marram', token: 'wk_1', fetch: fake.fetch, ...more })
const entry = (id: string) => ({
  id,
  type: 'page',
  locale: 'en',
  path: null,
  publishedAt: null,
  updatedAt: '',
  values: {},
})

describe('the reader', () => {
  it('asks as the reference says, and leaves out what was not said', async () => {
    const fake = answering({ body: { entries: [], next: null } })
    await reader(fake).entries('art work', { where: 'a = "b & c"', first: 5, sort: undefined, count: false })
    expect(fake.asked[0]?.url).toBe(
      'https://content.example/read/v1/marram/entries/art%20work?where=a+%3D+%22b+%26+c%22&first=5',
    )
    expect(fake.asked[0]?.headers['Authorization']).toBe('Bearer wk_1')
  })
  it('names the edition only when it is drafts', async () => {
    const fake = answering({ body: { entries: [], next: null } })
    await reader(fake, { edition: 'draft' }).entries('page')
    expect(fake.asked[0]?.url).toContain('edition=draft')
    expect(reader(fake).edition).toBe('published')
  })
  it('gathers the groups of everything it read, also of what was not there', async () => {
    const fake = answering(
      { body: entry('1'), headers: { 'cache-groups': '"e.1", "t.page"' } },
      { status: 404, body: { code: 'notFound' }, headers: { 'cache-groups': '"s"' } },
    )
    const fakeReader = reader(fake)
    expect((await fakeReader.entry('page', '1'))?.id).toBe('1')
    expect(await fakeReader.at('/nowhere')).toBeNull()
    expect(fakeReader.groups).toEqual(['e.1', 't.page', 's'])
  })
  it('goes through all pages', async () => {
    const fake = answering(
      { body: { entries: [entry('1'), entry('2')], next: 'c1' } },
      { body: { entries: [entry('3')], next: null } },
    )
    const seen: string[] = []
    for await (const entry of reader(fake).allEntries('page', { first: 2 })) seen.push(entry.id)
    expect(seen).toEqual(['1', '2', '3'])
    expect(fake.asked[1]?.url).toContain('after=c1')
  })
  it('throws a problem with everything that was said', async () => {
    const fake = answering({
      status: 400,
      body: {
        code: 'badCondition',
        detail: 'No.',
        requestId: 'r1',
        problems: [{ code: 'x', message: 'y', column: 3 }],
        extra: 1,
      },
    })
    const error = await refusal<WisteriaProblem>(() => reader(fake).entries('page'))
    expect(error).toBeInstanceOf(WisteriaProblem)
    expect([
      error.status,
      error.code,
      error.message,
      error.requestId,
      error.problems[0]?.column,
      error.details['extra'],
    ]).toEqual([400, 'badCondition', 'No.', 'r1', 3, 1])
  })
  it('throws for an answer that is no problem either', async () => {
    const error = await refusal<WisteriaProblem>(() =>
      reader(answering({ status: 502, body: '<html>' })).entries('page'),
    )
    expect([error.status, error.message]).toEqual([502, 'The service answered 502.'])
  })
  it('says so when nobody answers', async () => {
    const error = await refusal<WisteriaProblem>(() =>
      reader(answering({ fails: new TypeError('fetch failed') })).at('/'),
    )
    expect(error).toBeInstanceOf(WisteriaUnreachable)
    expect([error.code, error.message]).toEqual(['network', 'https://content.example/ cannot be reached.'])
    const late = await refusal(() => reader(answering({ fails: new DOMException('late', 'TimeoutError') })).at('/'))
    expect(late.message).toBe('https://content.example/ did not answer in time.')
  })
  it('keeps what GraphQL could answer beside its errors', async () => {
    const fake = answering({ body: { data: { page: null }, errors: [{ message: 'One.' }, { message: 'Two.' }] } })
    const error = await refusal<WisteriaGraphqlError>(() => reader(fake).graphql('{ page }', { a: 1 }))
    expect(error).toBeInstanceOf(WisteriaGraphqlError)
    expect([error.message, error.data]).toEqual(['One. Two.', { page: null }])
    // By GET, so that it can be cached; by POST if it is too long for an address.
    expect(fake.asked[0]).toMatchObject({ method: 'GET', body: undefined })
    const long = answering({ body: { data: {} } })
    await reader(long, { edition: 'draft' }).graphql(`{ page } # ${'x'.repeat(5000)}`, { a: 1 })
    expect(long.asked[0]).toMatchObject({
      method: 'POST',
      body: { variables: { a: 1 } },
      url: expect.stringContaining('graphql?edition=draft') as string,
    })
  })
  it('ends its calls when it is told to', async () => {
    const ends = new AbortController()
    const never: typeof fetch = (_, init) =>
      new Promise((__, reject) => init!.signal!.addEventListener('abort', () => reject(init!.signal!.reason as Error)))
    const reading = reader({ fetch: never, asked: [] }).until(ends.signal).entries('page')
    ends.abort(new Error('the visitor left'))
    expect((await refusal(() => reading)).message).toBe('the visitor left')
  })
})

describe('the editor', () => {
  it('guards versions and repeats by headers', async () => {
    const fake = answering({ body: {} })
    const editor = new Service({ baseUrl: '', token: 't', fetch: fake.fetch }).site('my site')
    await editor.publish('1', { locales: ['en'], version: 7, idempotencyKey: 'k' })
    expect(fake.asked[0]).toMatchObject({
      url: '/edit/v1/sites/my%20site/entries/1/publish',
      method: 'POST',
      body: { locales: ['en'] },
    })
    expect(fake.asked[0]?.headers).toMatchObject({ 'If-Match': '"v7"', 'Idempotency-Key': 'k' })
    await editor.patch('1', 3, { a: null })
    expect(fake.asked[1]).toMatchObject({ method: 'PATCH', body: { values: { a: null } } })
    expect(fake.asked[1]?.headers).toMatchObject({ 'If-Match': '"v3"', 'Content-Type': 'application/merge-patch+json' })
  })
  it('takes an answer without a body', async () => {
    const fake = answering({ status: 204 })
    expect(await new Service({ baseUrl: '', fetch: fake.fetch }).signOut()).toBeUndefined()
  })
})

describe('previews', () => {
  it('exchange a code, and keep the grant where no script sees it', async () => {
    const fake = answering({
      status: 201,
      body: { grant: 'a.b.c', expiresAt: new Date(Date.now() + 60_000).toISOString() },
    })
    const grant = await exchangePreviewCode(
      { baseUrl: 'https://c.example', site: 'marram', token: 'k', fetch: fake.fetch },
      'code',
    )
    expect(fake.asked[0]).toMatchObject({ url: 'https://c.example/read/v1/marram/grants', body: { code: 'code' } })
    expect(previewCookie({ name: 'p', grant })).toMatch(
      /^p=a\.b\.c; Path=\/; Max-Age=(59|60); HttpOnly; Secure; SameSite=None; Partitioned$/,
    )
    expect(previewCookie({ name: 'p' })).toMatch(/^p=; .*Max-Age=0;/)
  })
})

describe('what an event affects', () => {
  const event = { data: { affected: { paths: [], groups: ['e.1', 't.page', 's'] } } } as unknown as WebhookEvent
  it.each([
    [['e.1'], true],
    [['t.page'], true],
    [['s', 'x'], true],
    [['e.2', 't.museum'], false],
    [[], false],
  ])('%j: %s', (groups, affected) => expect(isAffected(groups, event)).toBe(affected))
  it('is nothing when nothing public changed', () =>
    expect(isAffected(['s'], { data: {} } as WebhookEvent)).toBe(false))
})
