import type { Reader } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startDemo, type DemoWorld } from './support/running.js'

let demo: DemoWorld
let reader: Reader
const raw = (path: string) =>
  fetch(`${demo.service.baseUrl}/read/v1/marram${path}`, {
    headers: { Authorization: `Bearer ${demo.seeded.keys.published}` },
  })

beforeAll(async () => {
  demo = await startDemo()
  reader = demo.reader()
})
afterAll(() => demo.service.end())

describe('entries', () => {
  it('say which locale their words are really in', async () => {
    const asked = { where: 'title contains "salt"', sort: 'title', first: 1 }
    const of = async (locale: string) =>
      (
        await reader.entries('activity', {
          ...asked,
          where: locale.startsWith('nl') ? 'title contains "zout"' : asked.where,
          locale,
        })
      ).entries[0]!
    expect([(await of('en')).contentLocale, (await of('nl')).contentLocale, (await of('nl-BE')).contentLocale]).toEqual(
      ['en', 'nl', 'nl'],
    )
    const { id, locale, contentLocale } = await of('ar')
    expect([locale, contentLocale]).toEqual(['ar', 'en'])
    const { activity } = await reader.graphql<{
      activity: { contentLocale: string; paths: { locale: string; contentLocale: string }[] }
    }>('query ($id: String!) { activity(id: $id, locale: "ar") { contentLocale paths { locale contentLocale } } }', {
      id,
    })
    expect(activity.contentLocale).toBe('en')
    expect(activity.paths).toContainEqual({ locale: 'ar', contentLocale: 'en' })
    // A page that is translated since is no fallback any more, though its words may be the same.
    const paths = []
    for await (const path of reader.paths()) paths.push(path)
    const fallbacks = paths.filter((path) => path.contentLocale !== path.locale)
    expect(fallbacks.length).toBeGreaterThan(0)
    for (const row of fallbacks) expect(['en', 'nl']).toContain(row.contentLocale)
  })
})

describe('pages that ask search engines not to list them', () => {
  it('say so in the list of paths, as soon as it is public', async () => {
    const owner = await demo.as('maren@marram.example')
    const type =
      demo.seeded &&
      (await owner.model()).types.find((candidate) => candidate.fields.some(({ kind }) => kind === 'metadata'))!
    const field = type.fields.find(({ kind }) => kind === 'metadata')!
    const { entries } = await reader.entries(type.name, { first: 1 })
    const { id } = entries[0]!
    const lines = async () => {
      const paths = []
      for await (const path of reader.paths({ type: type.name })) if (path.id === id) paths.push(path)
      return paths
    }
    expect((await lines()).map(({ hidden }) => hidden)).toContain(false)
    const { version } = await owner.entry(id)
    const edit = field.localized ? { locale: 'en' } : {}
    await owner.edit(id, version, [{ do: 'set', at: [field.name], value: { hidden: true }, ...edit }])
    expect((await lines()).some(({ hidden }) => hidden)).toBe(false)
    await owner.publish(id)
    expect((await lines()).find(({ locale }) => locale === 'en')?.hidden).toBe(true)
  })
})

describe('what was asked in a way that the guides name', () => {
  it('finds the one entry of a type by the name of the type', async () => {
    const only = (await reader.only('visitorInfo'))!
    expect(await reader.entry('visitorInfo', 'visitorInfo')).toEqual(only)
    expect(await reader.entry('visitorInfo', only.id)).toEqual(only)
    expect((await raw('/entries/museum/visitorInfo')).status).toBe(404)
    expect((await raw('/entries/museum/museum')).status).toBe(404)
  })
  it('tells a mistake in GraphQL once', async () => {
    const answer = (await (
      await raw(`/graphql?query=${encodeURIComponent('{ activities(last: 2) { nodes { title } } }')}`)
    ).json()) as { errors: { message: string }[] }
    expect(answer.errors.map(({ message }) => message)).toEqual([expect.stringContaining('"last"')])
  })
  it('says of what its changes are made', async () => {
    const answer = await raw('/changes')
    expect(answer.headers.get('content-type')).toBe('application/json; charset=utf-8')
  })
})

describe('redirects', () => {
  it('are the paths that entries left, with where they are now', async () => {
    const owner = await demo.as('maren@marram.example')
    const all = async (options = {}) => {
      const redirects = []
      for await (const redirect of reader.redirects(options)) redirects.push(redirect)
      return redirects
    }
    const before = await all()
    const { id, version, paths } = await owner.publish(
      (await owner.create({ type: 'person', values: { name: 'Wil Duinmeijer', role: { en: 'Dune guide' } } })).id,
      { locales: ['en'] },
    )
    const from = paths['en']!
    const renamed = await owner.edit(id, version, [{ do: 'set', at: ['slug'], value: 'wil-van-de-duinen' }])
    const moved = await owner.publish(id, { version: renamed.version, locales: ['en'] })
    const added = (await all({ locale: 'en' })).filter(({ id: entry }) => entry === id)
    expect(added).toMatchObject([{ from, to: moved.paths['en'], locale: 'en', type: 'person', permanent: true }])
    // No path leads to an entry that is not public any more.
    await owner.withdraw(id)
    expect(await all()).toEqual(before)
    const pages = (await (await raw('/redirects?first=1')).json()) as object
    expect(Object.keys(pages)).toEqual(['redirects', 'next'])
    expect((await raw('/redirects?locale=xx')).status).toBe(400)
    expect((await raw('/redirects?after=x')).status).toBe(400)
  })
})
