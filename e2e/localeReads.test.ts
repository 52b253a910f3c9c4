import { Reader } from '@wisteria/client'
import type { Editor, Entry, WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { refusal } from './support/models.js'
import { publishedReader, startSmall, type SmallSite } from './support/running.js'
import { dutchUnits, nightWalk } from './support/translations.js'

let small: SmallSite
let owner: Editor
let reader: Reader
/** In English and Dutch, with a summary in English alone. */
let walk: string
/** In English alone. */
let talk: string
let talkTitle: string
let museum: string

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  museum = (await owner.create({ type: 'museum', values: { name: { en: 'The Lighthouse' } } })).id
  await owner.publish(museum)
  walk = (await nightWalk(owner, { museum })).id
  ;({ id: talk, title: talkTitle } = await nightWalk(owner, { museum }))
  const units = await dutchUnits(owner, walk)
  const unit = (place: string) => units.find(({ at }) => at.join('/') === place)!.unit
  await owner.translations.save(walk, {
    locale: 'nl',
    texts: [
      { unit: unit('title'), text: 'Nachtwandeling' },
      { unit: unit('body/q1/text'), text: 'Donker is niet leeg.' },
    ],
  })
  await owner.publish(walk, { locales: ['en', 'nl'] })
  await owner.publish(talk, { locales: ['en'] })
  reader = await publishedReader(small)
})
afterAll(() => small.service.end())

const body = (entry: Entry | null) => entry?.values['body'] as { values: Record<string, unknown> }[]

describe('exactLocale', () => {
  it('leaves out values of another locale, and entries that are not translated', async () => {
    const asked = { locale: 'nl', exactLocale: true } as const
    const page = await reader.entries('activity', { ...asked, count: true })
    expect([page.entries.map(({ id }) => id), page.count]).toEqual([[walk], 1])
    expect(page.entries[0]!.values['title']).toBe('Nachtwandeling')
    const entry = await reader.entry('activity', walk, asked)
    expect(body(entry).map(({ values }) => values['text'])).toEqual([null, 'Donker is niet leeg.'])
    // By itself each reader gets the fallback.
    const usual = await reader.entry('activity', walk, { locale: 'nl' })
    expect(body(usual).map(({ values }) => values['text'])).toEqual(['Bring a torch', 'Donker is niet leeg.'])
    expect(await reader.entry('activity', talk, asked)).toBeNull()
    expect((await reader.entry('activity', talk, { locale: 'nl' }))!.contentLocale).toBe('en')
  })
  it('goes for a whole query of GraphQL, whichever way it is answered', async () => {
    // The second asks for something that has no fast way.
    for (const extra of ['', 'paths { locale }']) {
      const query = `{ activities(locale: "nl", sort: ["title"]) { nodes { entryId title summary museum { name } ${extra} } }
        one: activity(id: "${talk}", locale: "nl") { title } }`
      const usual = await reader.graphql<Record<string, never>>(query)
      expect(usual).toMatchObject({ one: { title: talkTitle } })
      const exact = await reader.graphql<{ activities: { nodes: unknown[] } }>(query, {}, { exactLocale: true })
      expect(exact).toMatchObject({
        activities: { nodes: [{ entryId: walk, title: 'Nachtwandeling', summary: null, museum: null }] },
        one: null,
      })
      expect(exact.activities.nodes).toHaveLength(1)
    }
  })
  it('goes for entries that others refer to, followed or named, and for a path', async () => {
    const asked = { locale: 'nl', exactLocale: true } as const
    expect((await reader.entry('activity', walk, { ...asked, pick: 'museum(name)' }))!.values['museum']).toBeNull()
    expect((await reader.entry('activity', walk, asked))!.values['museum']).toBeNull()
    expect((await reader.entry('activity', walk, { locale: 'nl' }))!.values['museum']).toMatchObject({ id: museum })
    const { path } = (await reader.entry('activity', talk, { locale: 'nl' }))!
    expect(await reader.at(path!, { exactLocale: true })).toBeNull()
    expect(await reader.at(path!)).toMatchObject({ entry: { id: talk } })
  })
  it('goes for every locale at once, and for search', async () => {
    const { entries } = await reader.entriesEverywhere('activity', { exactLocale: true })
    expect(entries.map(({ id, locales }) => [id, Object.keys(locales)])).toEqual([
      [walk, ['en', 'nl']],
      [talk, ['en']],
    ])
    const found = (exactLocale: boolean) => reader.search('torch', { locale: 'nl', exactLocale })
    expect((await found(false)).map(({ entry }) => entry.id).sort()).toEqual([walk, talk].sort())
    expect(await found(true)).toEqual([])
  })
  it('has cursors of its own', async () => {
    const page = await reader.entries('activity', { exactLocale: true, first: 1 })
    const next = await reader.entries('activity', { exactLocale: true, first: 1, after: page.next! })
    expect(next.entries.map(({ id }) => id)).toEqual([talk])
    const other = await refusal<WisteriaProblem>(() => reader.entries('activity', { first: 1, after: page.next! }))
    expect(other.message).toMatch(/belongs to another list/)
  })
  it('is true or false', async () => {
    const address = `${small.service.baseUrl}/read/v1/marram/entries/activity?exactLocale=yes`
    const answer = await fetch(address, { headers: { Authorization: `Bearer ${small.token}` } })
    expect([answer.status, await answer.text()]).toEqual([
      400,
      expect.stringContaining('`exactLocale` must be one of true, false.'),
    ])
  })
})

describe('of each entry, on request,', () => {
  it('its alternates are where it can be read in its own words', async () => {
    const [one, two] = await Promise.all(
      [walk, talk].map(
        async (id) => (await reader.entry('activity', id, { locale: 'nl', alternates: true }))!.alternates,
      ),
    )
    expect(one!.map(({ locale }) => locale)).toEqual(['en', 'nl'])
    expect(one![1]!.path).toMatch(/nachtwandeling$/)
    expect(two!.map(({ locale }) => locale)).toEqual(['en'])
    const listed = await reader.entries('activity', { locale: 'nl', alternates: true, pick: 'title' })
    expect(listed.entries.map(({ alternates }) => alternates?.length)).toEqual([2, 1])
  })
  it('the locales of its values are those of values that fall back', async () => {
    const entry = (await reader.entry('activity', walk, { locale: 'nl', valueLocales: true }))!
    expect(entry.valueLocales).toEqual({ '/body/0/values/text': 'en' })
    const english = (await reader.entry('activity', walk, { valueLocales: true }))!
    expect(english.valueLocales).toEqual({})
    expect(await reader.entry('activity', walk)).not.toHaveProperty('valueLocales')
  })
  it('a value that is published in the words of its fallback is its own, and readers are told', async () => {
    const { id } = await nightWalk(owner, { museum })
    await owner.publish(id, { locales: ['en', 'nl'] })
    const read = () => reader.entry('activity', id, { locale: 'nl', valueLocales: true })
    expect((await read())!.valueLocales).toHaveProperty('/title')
    const { version, values } = await owner.entry(id)
    const title = (values['title'] as { en: string }).en
    await owner.edit(id, version, [{ do: 'set', at: ['title'], locale: 'nl', value: title }])
    await owner.publish(id, { locales: ['nl'] })
    expect((await read())!.valueLocales).not.toHaveProperty('/title')
  })
  it('the freshness of its values compares what is public, and no more', async () => {
    const read = async (edition?: 'draft') => {
      const of = edition
        ? new Reader({ baseUrl: small.service.baseUrl, site: 'marram', token: small.token, edition })
        : reader
      return (await of.entry('activity', walk, { locale: 'nl', freshness: true }))!.freshness
    }
    expect(await read()).toEqual({ '/body/0/values/text': 'missing' })
    const { version } = await owner.entry(walk)
    await owner.edit(walk, version, [{ do: 'set', at: ['title'], locale: 'en', value: 'Night Walk with a lamp' }])
    expect(await read()).toEqual({ '/body/0/values/text': 'missing' })
    expect(await read('draft')).toEqual({ '/title': 'outdated', '/body/0/values/text': 'missing' })
    await owner.publish(walk, { locales: ['en'] })
    expect(await read()).toEqual({ '/title': 'outdated', '/body/0/values/text': 'missing' })
    // Nothing that readers get changes by this, so it is not cached.
    const units = await dutchUnits(owner, walk)
    await owner.translations.save(walk, { locale: 'nl', stillRight: [units[0]!.unit] })
    expect(await read('draft')).toEqual({ '/body/0/values/text': 'missing' })
    const english = await reader.entry('activity', walk, { freshness: true })
    expect(english!.freshness).toEqual({})
  })
})
