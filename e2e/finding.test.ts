import { join } from 'node:path'
import { Reader, Service, type Editor, type WisteriaProblem } from '@wisteria/client'
import { Database, fillWords, forgetWords, siteNamed } from '@wisteria/store'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal } from './support/models.js'
import { ownerOf, publishedReader, startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
const ids: Record<string, string> = {}

const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)
const titlesFor = async (words: string, query: Parameters<Editor['search']>[1] = {}) =>
  (await owner.search(words, query)).entries.map((entry) => entry.title)
const listed = async (search: string, more: Partial<Parameters<Editor['entries']>[0]> = {}) =>
  (await owner.entries({ search, ...more })).entries.map((entry) => entry.title).sort()

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  const make = async (name: string, type: string, values: Record<string, unknown>) =>
    void (ids[name] = (await owner.create({ type, values })).id)
  await make('museum', 'museum', { name: { en: 'The Lighthouse', nl: 'De vuurtoren', ar: 'متحف المنارة' } })
  await make('night', 'activity', {
    title: { en: 'Night Walk', nl: 'Nachtwandeling' },
    format: 'walk',
    museum: ids['museum'],
    body: [
      { id: 'h', block: 'heading', values: { text: { en: 'Bring café cups', nl: 'Neem bekers mee' } } },
      { id: 'q', block: 'quote', values: { text: { en: 'The lighthouse walks with us.' } } },
    ],
  })
  await make('salt', 'activity', { title: { en: 'Boil Your Own Salt' }, format: 'workshop', museum: ids['museum'] })
})
afterAll(() => small.service.end())

describe('words', () => {
  it.each([
    ['by the beginning of a word', 'nigh', ['Night Walk']],
    ['by the stem of the locale', 'walking', ['Night Walk']],
    ['in blocks', 'bekers', ['Nachtwandeling']],
    ['without accents', 'cafe', ['Night Walk']],
    ['with accents where there are none', 'sált', ['Boil Your Own Salt']],
    ['in Arabic, whatever the form of its letters', 'المناره', ['متحف المنارة']],
    ['all of them', 'own boil', ['Boil Your Own Salt']],
    ['in one locale only', 'boil vuurtoren', []],
    ['none where there are none', 'submarine', []],
    ['none where there is no word', '“…”', []],
    ['as words, not as an expression', 'walk" OR title:salt*', []],
  ])('find entries %s', async (_, words, titles) => expect(await titlesFor(words)).toEqual(titles))
  it('put first what is called so', async () => {
    expect(await titlesFor('lighthouse')).toEqual(['The Lighthouse', 'Night Walk'])
    expect(await titlesFor('lighthouse', { type: 'activity' })).toEqual(['Night Walk'])
    expect(await titlesFor('lighthouse', { first: 1 })).toEqual(['The Lighthouse'])
  })
  it('say in which locale they were found', async () => {
    const { entries } = await owner.search('vuurtoren')
    expect(entries).toMatchObject([{ title: 'De vuurtoren', foundIn: 'nl', type: 'museum', state: 'new' }])
  })
  it('narrow a list, with a condition and page by page, of one type or of all', async () => {
    expect(await listed('light')).toEqual(['Night Walk', 'The Lighthouse'])
    expect(await listed('light', { type: 'activity' })).toEqual(['Night Walk'])
    expect(await listed('light', { where: 'format = "workshop"', type: 'activity' })).toEqual([])
    expect(await listed('vuur', { locale: 'nl' })).toEqual(['De vuurtoren'])
    // Belgian readers get the Dutch words; English readers do not.
    expect([await listed('vuur', { locale: 'nl-BE' }), await listed('vuur')]).toEqual([['De vuurtoren'], []])
    const first = await owner.entries({ search: 'light', first: 1, count: true })
    const second = await owner.entries({ search: 'light', first: 1, after: first.next! })
    expect([first.count, first.entries.length, second.entries.length, second.next]).toEqual([2, 1, 1, null])
    expect(first.entries[0]!.id).not.toBe(second.entries[0]!.id)
  })
  it('follow what is written, moved to another model, and deleted', async () => {
    const { id, version } = await owner.create({
      type: 'activity',
      values: { title: { en: 'Tar Day' }, format: 'walk' },
    })
    expect(await titlesFor('tar')).toEqual(['Tar Day'])
    await owner.patch(id, version, { title: { en: 'Rope Day' } })
    expect([await titlesFor('tar'), await titlesFor('rope')]).toEqual([[], ['Rope Day']])
    const larger = { ...files, notice: 'type: notice\nfields:\n  title: { kind: text, required: true }\n' }
    await owner.adoptModel((await owner.compareModel(asFiles(larger))).id)
    expect(await titlesFor('rope')).toEqual(['Rope Day'])
    await owner.delete(id)
    expect(await titlesFor('rope')).toEqual([])
  })
  it('come back when they are thrown away, or were never kept', async () => {
    const database = await Database.open({ file: join(small.service.folder, 'wisteria.db') })
    try {
      const site = (await siteNamed(database, 'marram'))!
      await database.write((transaction) => forgetWords(transaction, site, 'draft'))
      expect(await titlesFor('lighthouse')).toEqual([])
      expect(await database.all('select rowid from draft_words')).toEqual([])
      expect(await database.write((transaction) => fillWords(transaction, site, 'draft'))).toBe(false)
      expect(await titlesFor('lighthouse')).toEqual(['The Lighthouse', 'Night Walk'])
      await database.write((transaction) => forgetWords(transaction, site, 'draft'))
    } finally {
      await database.close()
    }
    await owner.rebuild()
    expect(await titlesFor('lighthouse')).toEqual(['The Lighthouse', 'Night Walk'])
  })
})

describe('lists over all types', () => {
  it('have the newest first, and take conditions on what all entries have', async () => {
    const { entries, count } = await owner.entries({ count: true })
    expect(entries.map((entry) => entry.type).sort()).toEqual(
      expect.arrayContaining(['activity', 'activity', 'museum']),
    )
    expect(count).toBe(entries.length)
    const times = entries.map((entry) => entry.updatedAt)
    expect(times).toEqual([...times].sort().reverse())
    const museums = await owner.entries({ where: 'entry.type = "museum"' })
    expect(museums.entries.map((entry) => entry.id)).toEqual([ids['museum']])
    const walks = await owner.entries({ where: 'entry.state = "new" and format = "walk"' })
    expect(walks.entries.map((entry) => entry.id)).toEqual([ids['night']])
  })
  it('say what they cannot be sorted by', async () => {
    const said = await problem(() => owner.entries({ sort: 'title' }))
    expect([said.status, said.message]).toEqual([400, expect.stringContaining('`title` is not a field of every type')])
  })
})

describe('searching', () => {
  it.each([
    ['no words', '/search', '`words`'],
    ['too many letters', `/search?words=${'a'.repeat(501)}`, '`words`'],
    ['a type that is not there', '/search?words=a&type=activty', 'activity'],
    ['a count that is none', '/search?words=a&first=0', '`first`'],
  ])('refuses %s', async (_, path, said) => {
    const response = await fetch(`${small.service.baseUrl}/edit/v1/sites/marram${path}`, {
      headers: { Authorization: `Bearer ${small.token}` },
    })
    expect([400, 404]).toContain(response.status)
    expect(JSON.stringify(await response.json())).toContain(said.replaceAll('`', ''))
  })
  it('is not for readers of what is public', async () => {
    const { secret } = await owner.createKey({ label: 'Website', scope: 'published' })
    const reader = new Service({ baseUrl: small.service.baseUrl, token: secret }).site('marram')
    expect((await problem(() => reader.search('lighthouse'))).status).toBe(403)
  })
})

describe('a list', () => {
  it('shows the fields that are asked for, entries by what they are called, in the locale', async () => {
    const query = { type: 'activity', where: 'format = "walk"', columns: 'format,museum,title' }
    const [row] = (await owner.entries({ ...query, locale: 'nl' })).entries
    expect(row!.columns).toEqual({ format: 'walk', museum: 'The Lighthouse', title: 'Nachtwandeling' })
    expect((await owner.entries({ type: 'activity' })).entries[0]).not.toHaveProperty('columns')
    expect((await problem(() => owner.entries({ ...query, columns: 'formt' }))).message).toMatch(
      /Did you mean `format`/,
    )
    expect((await problem(() => owner.entries({ columns: 'format' }))).message).toMatch(/need a type/)
  })
  it('tells so of a translation that was never published too, text by text, and of a copy', async () => {
    const { id, version } = await owner.create({
      type: 'activity',
      values: { title: { en: 'The Slip', nl: 'De helling' }, format: 'walk', summary: { en: 'Boats.', nl: 'Boten.' } },
    })
    const set = (version: number, at: string, locale: string, value: string) =>
      owner.edit(id, version, [{ do: 'set', at: [at], locale, value }])
    const changed = await set(version, 'summary', 'en', 'Boats and ropes.')
    expect(changed.freshness['nl']).toBe('outdated')
    // Another text in Dutch does not make the summary current; a copy is as outdated as its original.
    const other = await set(changed.version, 'title', 'nl', 'De scheepshelling')
    expect([other.freshness['nl'], (await owner.duplicate(id)).freshness['nl']]).toEqual(['outdated', 'outdated'])
    const mended = await set(other.version, 'summary', 'nl', 'Boten en touw.')
    expect(mended.freshness['nl']).toBe('current')
  })
  it('tells of each translation whether it is there, and whether its source has changed', async () => {
    const { id } = await owner.create({ type: 'museum', values: { name: { en: 'The Quay', nl: 'De kade' } } })
    const fresh = async () => (await owner.entry(id)).freshness
    expect(await fresh()).toEqual({ nl: 'current', 'nl-BE': 'missing', ar: 'missing' })
    const { version } = await owner.publish(id)
    const saved = await owner.edit(id, version, [{ do: 'set', at: ['name'], locale: 'en', value: 'The Long Quay' }])
    expect(saved.freshness['nl']).toBe('outdated')
    const [row] = (await owner.entries({ type: 'museum', where: 'name contains "Quay"' })).entries
    expect(row!.freshness['nl']).toBe('outdated')
    const which = async (freshness: string, locale: string) =>
      (
        await owner.entries({
          type: 'museum',
          where: `name contains "Quay" and entry.freshness = "${freshness}"`,
          locale,
        })
      ).entries.map((entry) => entry.id)
    const dutch = { type: 'museum', where: 'entry.freshness = "outdated"', locale: 'nl' }
    expect((await owner.entries(dutch)).entries.map((entry) => entry.id)).toContain(id)
    expect([await which('missing', 'ar'), await which('current', 'ar'), await which('missing', 'en')]).toEqual([
      [id],
      [],
      [],
    ])
    const none = { type: 'museum', where: 'entry.freshness has no value and name contains "Quay"' }
    expect((await owner.entries(none)).entries.map((entry) => entry.id)).toEqual([id])
    expect((await problem(() => owner.entries({ type: 'museum', where: 'entry.freshness = "old"' }))).message).toMatch(
      /missing, partial, outdated, current/,
    )
    await owner.edit(id, saved.version, [{ do: 'set', at: ['name'], locale: 'nl', value: 'De lange kade' }])
    expect((await fresh())['nl']).toBe('current')
    await owner.publish(id)
    expect((await fresh())['nl']).toBe('current')
  })
  it('finds what somebody changed last, in the Edit API and nowhere else', async () => {
    const { id } = await owner.create({ type: 'museum', values: { name: { en: 'The Pier' } } })
    const { secret } = await owner.createKey({ label: 'Import', scope: 'edit' })
    const key = new Service({ baseUrl: small.service.baseUrl, token: secret }).site('marram')
    const byOwner = { where: `entry.updatedBy = "${ownerOf.email}" and name = "The Pier"`, type: 'museum' }
    const found = async () => (await owner.entries(byOwner)).entries.map((entry) => entry.id)
    expect(await found()).toEqual([id])
    expect((await key.entries(byOwner)).entries).toHaveLength(1)
    await key.edit(id, 1, [{ do: 'set', at: ['town'], value: 'Greyflats' }])
    expect(await found()).toEqual([])
    const none = { where: 'entry.updatedBy has no value', type: 'museum' }
    expect((await owner.entries(none)).entries.map((entry) => entry.id)).toEqual([id])
    const drafts = await owner.createKey({ label: 'Drafts', scope: 'draft' })
    const reader = new Reader({
      baseUrl: small.service.baseUrl,
      site: 'marram',
      token: drafts.secret,
      edition: 'draft',
    })
    for (const read of [reader, await publishedReader(small)])
      expect((await problem(() => read.entries('museum', { where: byOwner.where }))).message).toMatch(
        /`entry.updatedBy` is known to the Edit API only\./,
      )
  })
})
