import { Validator, type Schema } from '@cfworker/json-schema'
import fc from 'fast-check'
import type { Model } from '@wisteria/core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { often } from './support/length.js'
import { startDemo, type DemoWorld } from './support/running.js'

/** Random valid requests to the Read API, whose answers must fit its OpenAPI document. */

interface Operation {
  readonly responses: Record<string, { readonly content?: Record<string, { readonly schema: Schema }>; $ref?: string }>
}
interface OpenApi {
  readonly paths: Record<string, Record<'get' | 'post', Operation>>
  readonly components: {
    readonly schemas: Record<string, Schema>
    readonly responses: Record<string, Operation['responses'][string]>
  }
}

let demo: DemoWorld
let document: OpenApi
let model: Model
let grant = ''
const ids: Record<string, string[]> = {}
const paths: string[] = []

const ask = (path: string, token = demo.seeded.keys.draft, init: RequestInit = {}) =>
  fetch(`${demo.service.baseUrl}/read/v1/marram${path}`, {
    ...init,
    headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json' },
  })

beforeAll(async () => {
  demo = await startDemo()
  document = (await (await ask('/openapi.json')).json()) as OpenApi
  model = await (await demo.as('maren@marram.example')).model()
  for (const type of model.types) {
    const body = (await (await ask(`/entries/${type.name}?edition=draft`)).json()) as {
      id?: string
      entries?: { id: string; path: string | null }[]
    }
    ids[type.name] = body.entries?.map(({ id }) => id) ?? []
    paths.push(...(body.entries?.flatMap(({ path }) => path ?? []) ?? []))
  }
  const owner = await demo.as('maren@marram.example')
  await owner.setFrontEnd('answers', {
    label: 'Answers',
    origins: ['http://127.0.0.1:9'],
    enter: { '*': 'http://127.0.0.1:9/?code={code}' },
  })
  const { address } = await owner.preview(ids['activity']![0]!, 'answers')
  const code = new URL(address).searchParams.get('code')
  const answer = await ask('/grants', demo.seeded.keys.published, { method: 'POST', body: JSON.stringify({ code }) })
  grant = ((await answer.json()) as { grant: string }).grant
})
afterAll(() => demo.service.end())

const validators = new WeakMap<Schema, Validator>()
/** The differences between an answer and the document, as sentences. */
function misfits(template: string, method: 'get' | 'post', answer: Response, body: unknown): string[] {
  const { status } = answer
  const operation = document.paths[template]?.[method]
  if (!operation) return [`${method} ${template} is not described`]
  const named = operation.responses[String(status)]
  if (!named) return [`${status} is not described: ${JSON.stringify(body).slice(0, 300)}`]
  const response = named.$ref ? document.components.responses[named.$ref.split('/').at(-1)!]! : named
  const type = (answer.headers.get('content-type') ?? '').split(';')[0]!
  const media = response.content?.[type]
  if (!media) return [`${status} ${type} has no schema`]
  const types =
    validators.get(media.schema) ??
    new Validator({ ...media.schema, components: document.components }, '2020-12', false)
  validators.set(media.schema, types)
  return types.validate(body).errors.map(({ instanceLocation, error }) => `${instanceLocation}: ${error}`)
}

/** A selection of a type, nested so far. */
function pickOf(typeName: string, depth: number): fc.Arbitrary<string> {
  const type = model.types.find(({ name }) => name === typeName)!
  const projection = type.fields.map((field) => {
    const plain = fc.constant(field.name)
    const to = (field.options['accepts'] ?? []) as string[]
    if (field.kind === 'entry' && depth > 0 && to.length === 1)
      return fc.oneof(
        plain,
        pickOf(to[0]!, depth - 1).map((inside) => `${field.name}(${inside})`),
      )
    if (field.kind === 'richText')
      return fc.oneof(
        plain,
        fc.constantFrom('html', 'text', 'markdown', 'document').map((as) => `${field.name}(as: ${as})`),
      )
    if (field.kind === 'asset')
      return fc.oneof(
        plain,
        fc
          .constantFrom('w: 640, address, alt', 'alt', 'w: 100, h: 100, fit: cover')
          .map((inside) => `${field.name}(${inside})`),
      )
    if (field.many && field.kind !== 'group' && field.kind !== 'block')
      return fc.oneof(
        plain,
        fc.integer({ min: 0, max: 3 }).map((first) => `${field.name}(first: ${first})`),
      )
    return plain
  })
  return fc.oneof(
    fc.constant('*'),
    fc
      .uniqueArray(fc.integer({ min: 0, max: projection.length - 1 }), { minLength: 1, maxLength: 5 })
      .chain((at) => fc.tuple(...at.map((index) => projection[index]!)).map((all) => all.join(', '))),
  )
}

const query = (asked: Readonly<Record<string, string | undefined>>): string => {
  const all = Object.entries(asked).filter((pair): pair is [string, string] => pair[1] !== undefined)
  return all.length > 0 ? `?${new URLSearchParams(all)}` : ''
}
const maybe = <Value>(arbitrary: fc.Arbitrary<Value>) => fc.option(arbitrary, { nil: undefined })

const seldom = () => fc.option(fc.constantFrom('true', 'false'), { nil: undefined, freq: 3 })

/** The parameters of every read of entries. */
const choosing = (type: string) =>
  fc
    .record({
      locale: maybe(fc.constantFrom('en', 'nl', 'nl-BE', 'ar', 'auto')),
      locales: fc.option(fc.constant('every'), { nil: undefined, freq: 4 }),
      edition: maybe(fc.constantFrom('published', 'draft')),
      richText: maybe(fc.constantFrom('document', 'html', 'markdown', 'text')),
      choices: maybe(fc.constantFrom('value', 'label', 'both')),
      exactLocale: seldom(),
      alternates: seldom(),
      valueLocales: seldom(),
      freshness: seldom(),
      pick: maybe(pickOf(type, 2)),
      follow: maybe(fc.constantFrom('0', '1', '2', '3')),
    })
    .map(({ locale, locales, pick, follow, ...more }) => ({
      ...more,
      ...(locales ? { locales } : { locale }),
      ...(pick === undefined ? { follow } : { pick }),
    }))

const question = (): fc.Arbitrary<{ template: string; path: string }> => {
  const type = fc.constantFrom(...model.types)
  return fc.oneof(
    {
      weight: 5,
      arbitrary: type.chain(({ name, cardinality, fields }) =>
        fc
          .record({
            asked: choosing(name),
            first: maybe(fc.constantFrom('1', '5', '100')),
            count: maybe(fc.constantFrom('true', 'false')),
            search: fc.option(fc.constantFrom('night', 'zout', 'the sea'), { nil: undefined, freq: 4 }),
            sort: maybe(
              fc.constantFrom(
                ...fields
                  .filter(({ kind, many }) => !many && ['text', 'date', 'number', 'dateTime'].includes(kind))
                  .map((field) => field.name),
                '-entry.updated',
              ),
            ),
          })
          .map(({ asked, ...list }) => ({
            template: `/entries/${name}`,
            path: `/entries/${name}${query(cardinality === 'one' ? asked : { ...asked, ...list })}`,
          })),
      ),
    },
    {
      weight: 3,
      arbitrary: fc.constantFrom(...model.types.filter(({ name }) => ids[name]!.length > 0)).chain(({ name }) =>
        fc
          .tuple(fc.oneof(fc.constantFrom(...ids[name]!), fc.constant('00000000000000000000')), choosing(name))
          .map(([id, asked]) => ({
            template: `/entries/${name}/{id}`,
            path: `/entries/${name}/${id}${query(asked)}`,
          })),
      ),
    },
    {
      weight: 2,
      arbitrary: fc
        .tuple(
          fc.oneof(fc.constantFrom(...paths), fc.constant('/nothing')),
          maybe(fc.constantFrom('0', '2')),
          maybe(fc.constant('draft')),
          maybe(fc.constantFrom('html', 'document')),
        )
        .map(([path, follow, edition, richText]) => ({
          template: '/at',
          path: `/at${query({ path, follow, edition, richText })}`,
        })),
    },
    {
      weight: 1,
      arbitrary: fc
        .record({
          locale: maybe(fc.constantFrom('en', 'nl')),
          type: maybe(fc.constantFrom('museum', 'activity')),
          first: maybe(fc.constant('3')),
        })
        .map((asked) => ({ template: '/paths', path: `/paths${query(asked)}` })),
    },
    {
      weight: 1,
      arbitrary: fc
        .record({
          words: maybe(fc.constantFrom('night walk', 'ligthouse', '!', 'zout')),
          types: maybe(fc.constantFrom('museum', 'museum,activity', 'nothing')),
          locale: maybe(fc.constantFrom('en', 'nl', 'ar')),
          first: maybe(fc.constantFrom('1', '50', '51')),
          edition: maybe(fc.constant('draft')),
          choices: maybe(fc.constantFrom('label', 'both')),
          pick: maybe(fc.constant('summary')),
        })
        .map((asked) => ({ template: '/search', path: `/search${query(asked)}` })),
    },
    {
      weight: 1,
      arbitrary: fc
        .record({ locale: maybe(fc.constantFrom('en', 'nl', 'xx')), first: maybe(fc.constant('1')) })
        .map((asked) => ({ template: '/redirects', path: `/redirects${query(asked)}` })),
    },
    {
      weight: 1,
      arbitrary: fc
        .constantFrom('en', 'ar')
        .map((locale) => ({ template: '/slugs/{type}', path: `/slugs/museum${query({ locale })}` })),
    },
    {
      weight: 1,
      arbitrary: fc
        .constantFrom('0', '5', '60', '999999')
        .map((since) => ({ template: '/changes', path: `/changes${query({ since })}` })),
    },
    {
      weight: 1,
      arbitrary: fc
        .constantFrom(
          '{ activities(first: 2) { nodes { title museum { name } } } }',
          '{ nothing }',
          '{',
          '{ __typename }',
        )
        .map((text) => ({ template: '/graphql', path: `/graphql${query({ query: text })}` })),
    },
  )
}

describe('answers of the Read API', () => {
  it('fit its document, whatever is asked', async () => {
    const seen: Record<string, number> = {}
    await fc.assert(
      fc.asyncProperty(question(), fc.integer({ min: 0, max: 9 }), async ({ template, path }, who) => {
        const answer = await ask(
          path,
          who === 0 ? grant : who === 1 ? 'wk_nobody' : who === 2 ? demo.seeded.keys.published : undefined,
        )
        seen[`${template} ${answer.status}`] = (seen[`${template} ${answer.status}`] ?? 0) + 1
        const body: unknown = await answer.json()
        expect(misfits(template, 'get', answer, body), `${answer.status} ${path}`).toEqual([])
      }),
      { numRuns: often(300, 3000), endOnFailure: true },
    )
    // The questions were answered, and not only refused.
    expect(
      Object.entries(seen)
        .filter(([key]) => key.endsWith(' 200'))
        .reduce((sum, [, count]) => sum + count, 0),
    ).toBeGreaterThan(150)
  })

  it('fit it in GraphQL, grants and refusals', async () => {
    const post = (path: string, body: unknown, token = demo.seeded.keys.published) =>
      ask(path, token, { method: 'POST', body: JSON.stringify(body) })
    const tries: [string, Response][] = [
      ['/graphql', await post('/graphql', { query: '{ museums(first: 1) { nodes { name } } }' })],
      ['/graphql', await post('/graphql', { query: '{ museums(edition: DRAFT) { nodes { name } } }' })],
      ['/graphql', await post('/graphql', { query: '{ museums { nodes { nam } } }' })],
      ['/graphql', await post('/graphql', {})],
      ['/graphql', await post('/graphql', { query: '{ museums { nodes { name } } }' }, 'wk_nothing')],
      ['/grants', await post('/grants', { code: 'nothing' })],
      ['/grants', await post('/grants', {})],
    ]
    for (const [template, answer] of tries)
      expect(misfits(template, 'post', answer, await answer.json()), `${template} ${answer.status}`).toEqual([])
  })
})
