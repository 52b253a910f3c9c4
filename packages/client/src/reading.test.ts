import { describe, expect, it } from 'vitest'
import { refusal } from '../../../e2e/support/models.js'
import { all, any, either, field, fieldsOf, not, now, today } from './conditions.js'
import { pictureAttributes } from './images.js'
import { Reader } from './reader.js'
import type { WebhookEvent } from './webhooks.js'

interface Activity {
  readonly title: string | null
  readonly format: 'talk' | 'walk' | null
  readonly price: number | null
  readonly forFamilies: boolean | null
  readonly museum: { readonly id: string; readonly type: 'museum' } | null
  readonly tags: readonly string[]
}

describe('conditions', () => {
  const activity = fieldsOf<Activity>()
  it.each([
    [activity('format').in(['talk', 'walk']), 'format in ["talk", "walk"]'],
    [activity('title').contains('the "Boat"'), 'title contains "the \\"Boat\\""'],
    [activity('price').atMost(20), 'price <= 20'],
    [activity('forFamilies').is(true), 'forFamilies = true'],
    [activity('museum').is('01jv'), 'museum = "01jv"'],
    [activity('museum.name').startsWith('The'), 'museum.name starts with "The"'],
    [activity('tags').is('sea'), 'tags = "sea"'],
    [field('starts').atLeast(now.plus(7, 'days')), 'starts >= now + 7 days'],
    [field('opens').lessThan(today.plus(-1, 'weeks')), 'opens < today - 1 weeks'],
    [field('starts').moreThan(new Date(0)), 'starts > "1970-01-01T00:00:00.000Z"'],
    [not(activity('price').hasValue()), 'not (price has value)'],
    [any('speakers', field('name').is('Ada')), 'any speakers (name = "Ada")'],
    [
      all(activity('format').is('walk'), either(activity('price').hasNoValue(), activity('price').lessThan(5)), false),
      'format = "walk" and (price has no value or price < 5)',
    ],
  ])('%s', (condition, text) => expect(String(condition)).toBe(text))

  it('have the values that their fields may have', () => {
    // @ts-expect-error no such format
    activity('format').is('waltz')
    // @ts-expect-error a number
    activity('price').is('free')
    // @ts-expect-error no such field
    activity('titel')
    expect(() => field('a = "b" or c')).toThrow('is not the name of a field')
    expect(() => all()).toThrow('needs a condition')
  })
})

describe('pictures', () => {
  const picture = { address: 'https://c.example/assets/m/1/sea.jpg', width: 1000, height: 500, alt: 'The sea' }
  it('are offered in the widths that they have', () => {
    const { src, srcset, width, height, alt } = pictureAttributes(picture, { widths: [400, 800, 1600], format: 'webp' })
    expect(srcset).toBe(
      [400, 800, 1000].map((width) => `${picture.address}?w=${width}&format=webp ${width}w`).join(', '),
    )
    expect([src, width, height, alt]).toEqual([`${picture.address}?w=1000&format=webp`, 1000, 500, 'The sea'])
  })
  it('are cut to a ratio', () => {
    const cut = pictureAttributes(picture, { widths: [400], ratio: 2 / 1, sizes: '100vw' })
    expect(cut).toMatchObject({
      src: `${picture.address}?w=400&h=200&fit=cover`,
      width: 400,
      height: 200,
      sizes: '100vw',
    })
  })
  it('that are not measured are offered all the same', () => {
    const drawn = pictureAttributes({ address: '/a.svg', width: null, height: null }, { widths: [100, 200] })
    expect(drawn).toEqual({ src: '/a.svg?w=200', srcset: '/a.svg?w=100 100w, /a.svg?w=200 200w', alt: '' })
  })
})

/** A service that answers with a list of statuses. */
function statuses(...answers: (number | Error)[]) {
  const asked: string[] = []
  const fetch = ((url: string) => {
    const answer = answers[Math.min(asked.length, answers.length - 1)]!
    asked.push(url)
    if (answer instanceof Error) return Promise.reject(answer)
    const body = answer === 200 ? { entries: [], next: null, data: {} } : { code: 'unavailable', detail: 'Later.' }
    return Promise.resolve(new Response(JSON.stringify(body), { status: answer, headers: { 'Retry-After': '0' } }))
  }) as unknown as typeof globalThis.fetch
  return { asked, fetch }
}
const readerOf = (fake: { fetch: typeof fetch }, more: object = {}) =>
  new Reader({ baseUrl: 'https://c.example', site: 'm', fetch: fake.fetch, ...more })

describe('asking again', () => {
  it('gets through what passes by itself', async () => {
    const fake = statuses(503, new TypeError('fetch failed'), 200)
    expect((await readerOf(fake).entries('page')).entries).toEqual([])
    expect(fake.asked).toHaveLength(3)
  })
  it('gives up after as often as was said, and for what no asking helps', async () => {
    const busy = statuses(503)
    expect((await refusal(() => readerOf(busy, { retries: 1 }).entries('page'))).message).toBe('Later.')
    expect(busy.asked).toHaveLength(2)
    for (const answer of [400, new DOMException('late', 'TimeoutError')]) {
      const fake = statuses(answer)
      await refusal(() => readerOf(fake).entries('page'))
      expect(fake.asked).toHaveLength(1)
    }
  })
  it('asks GraphQL again too: a question changes nothing', async () => {
    const fake = statuses(429, 200)
    await readerOf(fake).graphql('{ __typename }')
    expect(fake.asked).toHaveLength(2)
  })
})

describe('a reader', () => {
  it('sends what an event said, so that no answer is older', async () => {
    const fake = statuses(200)
    const event = { data: { publicGeneration: 'e1.7' } } as unknown as WebhookEvent
    const after = readerOf(fake).after(event)
    await after.entries('page', { where: field('title').hasValue(), pick: 'title' })
    await after.graphql('{ __typename }')
    await after.changes(3)
    expect(fake.asked).toEqual([
      'https://c.example/read/v1/m/entries/page?where=title+has+value&pick=title&generation=e1.7',
      'https://c.example/read/v1/m/graphql?generation=e1.7&query=%7B+__typename+%7D',
      'https://c.example/read/v1/m/changes?since=3',
    ])
  })
  it('says null or throws for what is not there, as it was told', async () => {
    const nowhere = () =>
      readerOf({
        fetch: () => Promise.resolve(new Response('{"code":"notFound","detail":"Nothing."}', { status: 404 })),
      })
    expect(await nowhere().at('/x')).toBeNull()
    const strict = new Reader({
      baseUrl: '',
      site: 'm',
      missing: 'throw',
      fetch: () => Promise.resolve(new Response('{"code":"notFound","detail":"Nothing."}', { status: 404 })),
    })
    expect((await refusal(() => strict.at('/x'))).message).toBe('Nothing.')
  })
})
