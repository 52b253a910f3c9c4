import type { Editor, TranslationChange, WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { refusal } from './support/models.js'
import { signIn, startSmall, type SmallSite } from './support/running.js'
import { nightWalk, shownUnits } from './support/translations.js'

let small: SmallSite
let owner: Editor
let museum: string

const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  museum = (await owner.create({ type: 'museum', values: { name: { en: 'The Lighthouse' } } })).id
})
afterAll(() => small.service.end())

const walk = async (): Promise<string> => (await nightWalk(owner, { museum })).id
const unitsOf = async (id: string, locale = 'nl') => (await owner.translations.of(id, locale)).entries[0]!
async function translate(id: string, texts: Record<string, string>, more: Partial<TranslationChange> = {}) {
  const { units } = await unitsOf(id)
  return owner.translations.save(id, {
    locale: 'nl',
    texts: Object.entries(texts).map(([place, text]) => ({
      unit: units.find(({ at }) => at.join('/') === place)!.unit,
      text,
    })),
    ...more,
  })
}
const unitAt = async (id: string, place: string) =>
  (await unitsOf(id)).units.find(({ at }) => at.join('/') === place)!.unit

describe('the translation of an entry', () => {
  it('lists each text of the source with its place, its state and how much there is to do', async () => {
    const id = await walk()
    const translation = await unitsOf(id)
    expect(translation).toMatchObject({ entry: id, type: 'activity', locale: 'nl', source: 'en', task: null })
    expect(shownUnits(translation.units)).toMatchObject({ title: '–, missing', 'body/h1/text': '–, missing' })
    expect(translation.units.find(({ at }) => at.join('/') === 'body/q1/text')!.labels).toEqual([
      'Body',
      'Quote 2',
      'Text',
    ])
    expect(translation.progress).toMatchObject({ freshness: 'missing', units: { missing: 4, outdated: 0, done: 0 } })
    // "Night Walk 1", "Bring a torch", "Dark is not empty."; a slug has no words.
    expect(translation.progress.words).toEqual({ missing: 10, outdated: 0, done: 0 })
  })
  it('is saved text by text, makes its own slug, and never touches shared values', async () => {
    const id = await walk()
    const before = await owner.entry(id)
    const saved = await translate(id, { title: 'Nachtwandeling', 'body/q1/text': 'Donker is niet leeg.' })
    expect(saved.progress).toMatchObject({ freshness: 'partial', units: { missing: 1, outdated: 0, done: 3 } })
    const after = await owner.entry(id)
    expect(after.values).toMatchObject({
      title: { nl: 'Nachtwandeling' },
      slug: { nl: 'nachtwandeling' },
      museum: before.values['museum'],
      format: 'walk',
    })
    expect(after.freshness['nl']).toBe('partial')
    const { events } = await owner.events()
    expect(events.at(-1)).toMatchObject({ type: 'entry.saved', data: { locales: ['nl'] } })
  })
  it('is outdated text by text, says since when, and shows the source that it was made from', async () => {
    const id = await walk()
    const { version } = await translate(id, { title: 'Nachtwandeling', 'body/h1/text': 'Neem een lamp mee' })
    // The same person, in the same sitting: the text that the translation was made from is kept all the same.
    await owner.edit(id, version, [{ do: 'set', at: ['body', 'h1', 'text'], locale: 'en', value: 'Bring a lamp' }])
    const outdated = await unitsOf(id)
    expect(shownUnits(outdated.units)).toMatchObject({
      title: 'Nachtwandeling, current',
      'body/h1/text': 'Neem een lamp mee, outdated',
    })
    const unit = outdated.units.find(({ state }) => state === 'outdated')!
    expect(unit.sourceThen).toEqual(['Bring a torch'])
    expect(Date.now() - Date.parse(unit.since!)).toBeLessThan(60_000)
    expect((await owner.entry(id)).freshness['nl']).toBe('outdated')

    const right = await owner.translations.save(id, { locale: 'nl', stillRight: [unit.unit] })
    expect(shownUnits(right.units)).toMatchObject({ 'body/h1/text': 'Neem een lamp mee, current' })
    expect(right.version).toBeGreaterThan(outdated.version)
    const { events } = await owner.events()
    expect(events.at(-1)).toMatchObject({
      type: 'translation.confirmed',
      data: { locales: ['nl'], fields: ['body'] },
    })
  })
  it('stays current where the one who publishes says that the change does not matter', async () => {
    const id = await walk()
    await translate(id, { title: 'Nachtwandeling', 'body/h1/text': 'Neem een lamp mee' })
    const { version } = await owner.publish(id, { locales: ['en', 'nl'] })
    const saved = await owner.edit(id, version, [
      { do: 'set', at: ['title'], locale: 'en', value: 'Night  Walk' },
      { do: 'set', at: ['body', 'q1', 'text'], locale: 'en', value: 'The dark is not empty.' },
    ])
    const consequences = await owner.consequences(id, ['en', 'nl'])
    expect(consequences.outdates).toEqual({ nl: 1 })
    expect(consequences.translations['nl']).toEqual({ missing: 1, outdated: 1, done: 2 })
    await owner.publish(id, { locales: ['en'], version: saved.version, minor: true })
    expect(shownUnits((await unitsOf(id)).units)).toMatchObject({
      title: 'Nachtwandeling, current',
      'body/q1/text': '–, missing',
    })
    expect((await owner.entry(id)).freshness['nl']).toBe('partial')
  })
  it('may need none, be empty on purpose, and be removed again', async () => {
    const id = await walk()
    const [title, heading, quote] = await Promise.all(
      ['title', 'body/h1/text', 'body/q1/text'].map((place) => unitAt(id, place)),
    )
    const marked = await owner.translations.save(id, { locale: 'nl', needsNone: [title!], empty: [heading!] })
    expect(shownUnits(marked.units)).toMatchObject({ title: '–, notNeeded', 'body/h1/text': '–, empty' })
    expect((await owner.entry(id)).values['body']).toMatchObject([{ values: { text: { nl: null } } }, {}])
    const needed = await owner.translations.save(id, { locale: 'nl', needed: [title!] })
    expect(shownUnits(needed.units)).toMatchObject({ title: '–, missing' })
    await translate(id, { 'body/q1/text': 'Donker.' })
    const removed = await owner.translations.save(id, { locale: 'nl', texts: [{ unit: quote!, text: '' }] })
    expect(shownUnits(removed.units)).toMatchObject({ 'body/q1/text': '–, missing' })
    expect((await owner.entry(id)).values['body']).toMatchObject([
      {},
      { values: { text: { en: 'Dark is not empty.' } } },
    ])
  })
  it('made from a source that has changed meanwhile is saved, and outdated at once', async () => {
    const id = await walk()
    const seen = await unitsOf(id)
    const title = seen.units.find(({ at }) => at[0] === 'title')!
    await owner.edit(id, seen.version, [{ do: 'set', at: ['title'], locale: 'en', value: 'Dawn Walk' }])
    const saved = await owner.translations.save(id, {
      locale: 'nl',
      base: seen.version,
      revision: seen.revision,
      texts: [{ unit: title.unit, text: 'Nachtwandeling', source: title.digest }],
    })
    expect(shownUnits(saved.units)).toMatchObject({ title: 'Nachtwandeling, outdated' })
  })
  it('by two people at once merges different texts, and refuses the same one', async () => {
    const id = await walk()
    const [title, quote] = [await unitAt(id, 'title'), await unitAt(id, 'body/q1/text')]
    const { version: base } = await unitsOf(id)
    const save = (unit: string, text: string) =>
      owner.translations.save(id, { locale: 'nl', base, texts: [{ unit, text }] })
    await save(title, 'Nachtwandeling')
    expect((await save(quote, 'Donker is niet leeg.')).merged).toBe(true)
    expect(await problem(() => save(title, 'Avondwandeling'))).toMatchObject({ status: 409, code: 'editConflict' })
    expect(shownUnits((await unitsOf(id)).units)).toMatchObject({ title: 'Nachtwandeling, current' })
  })
  it('follows references, each entry once', async () => {
    const id = await walk()
    const { entries, more } = await owner.translations.of(id, 'nl', { follow: 2 })
    expect(entries.map(({ entry }) => entry)).toEqual([id, museum])
    expect(more).toBe(false)
    expect((await owner.translations.of(id, 'nl', { units: 'todo' })).entries[0]!.units).toHaveLength(4)
  })
  it('tells unknown units, wrong codes and units named twice, all at once and with their places', async () => {
    const id = await walk()
    const title = await unitAt(id, 'title')
    const refused = await problem(() =>
      owner.translations.save(id, {
        locale: 'nl',
        texts: [
          { unit: 'f99#', text: 'Weg' },
          { unit: title, text: ['Nacht', { code: '1', inside: ['wandeling'] }] },
          { unit: title, text: 'Nachtwandeling' },
        ],
        stillRight: [title],
      }),
    )
    expect(refused.problems.map(({ code, pointer }) => `${code} ${pointer}`)).toEqual([
      'unknownUnit /texts/0/unit',
      'codeUnknown /texts/1/text',
      'twice /texts/2/unit',
      'twice /stillRight/0',
    ])
    expect((await unitsOf(id)).progress.units.done).toBe(0)
  })
  it('is refused for the default locale and unknown ones', async () => {
    const id = await walk()
    expect((await problem(() => owner.translations.of(id, 'en'))).message).toMatch(/default locale/)
    expect((await problem(() => owner.translations.of(id, 'de'))).message).toMatch(/not a locale/)
  })
})

describe('the board', () => {
  it('adds up what there is to do, by type and locale, and follows every change', async () => {
    const sum = async () =>
      (await owner.translations.board()).types.find(({ type }) => type === 'activity')!.work['nl']!
    const id = await walk()
    const before = await sum()
    expect(before.oldest).not.toBeNull()
    await translate(id, { title: 'Nachtwandeling' })
    const after = await sum()
    expect(after.units).toEqual({ ...before.units, missing: before.units.missing - 2, done: before.units.done + 2 })
    expect(after.words.missing).toBeLessThan(before.words.missing)
    await owner.archive(id)
    const archived = await sum()
    expect(archived.entries).toBe(before.entries - 1)
    await owner.reactivate(id)
    expect(await sum()).toEqual(after)
    await owner.delete(id)
    expect(await sum()).toEqual(archived)
    await owner.restoreFromBin(id)
    expect((await sum()).units).toEqual(after.units)
  })
  it('is the same when it is computed for the entries that match a condition', async () => {
    const all = await owner.translations.board({ type: 'activity' })
    expect(await owner.translations.board({ type: 'activity', where: 'entry.updated > 2000-01-01' })).toEqual(all)
    const none = await owner.translations.board({ type: 'activity', where: 'title = "no such title"' })
    expect(none.types).toEqual([])
  })
  it('counts missing texts of a variant as done', async () => {
    const { settings } = await owner.locales()
    const locales = settings.locales.map((locale) => (locale.tag === 'nl-BE' ? { ...locale, variant: true } : locale))
    const work = async () =>
      (await owner.translations.board()).types.find(({ type }) => type === 'activity')!.work['nl-BE']!
    expect((await work()).units.missing).toBeGreaterThan(0)
    const consequences = await owner.compareLocales({ ...settings, locales })
    expect(consequences).toMatchObject({ fallbacksChanged: [], variantsChanged: ['nl-BE'] })
    await owner.setLocales({ ...settings, locales })
    expect((await work()).units.missing).toBe(0)
    expect((await work()).entriesToDo).toBe(0)
    await owner.setLocales(settings)
  })
})

describe('work', () => {
  it('is listed oldest first, page by page', async () => {
    await walk()
    await walk()
    const first = await owner.translations.work({ locale: 'nl', type: 'activity', first: 1 })
    expect(first.entries).toHaveLength(1)
    const ids = [first.entries[0]!.entry]
    for (let next = first.next; next !== null;) {
      const page = await owner.translations.work({ locale: 'nl', type: 'activity', first: 2, after: next })
      ids.push(...page.entries.map(({ entry }) => entry))
      next = page.next
    }
    const all = await owner.translations.work({ locale: 'nl', type: 'activity', first: 100 })
    expect(ids).toEqual(all.entries.map(({ entry }) => entry))
    expect([...ids]).toEqual([...new Set(ids)])
    const times = all.entries.map(({ since }) => since!)
    expect([...times].sort()).toEqual(times)
  })
  it('is no longer ready for review once it is public', async () => {
    const id = await walk()
    await translate(id, { title: 'Ochtendwandeling' })
    await owner.translations.ready(id, 'nl')
    await owner.translations.ready(id, 'ar')
    await owner.publish(id, { locales: ['en', 'nl'] })
    const ready = (await owner.translations.work({ ready: true })).entries.filter(({ entry }) => entry === id)
    expect(ready.map(({ locale }) => locale)).toEqual(['ar'])
    await owner.translations.ready(id, 'ar', false)
  })
  it('is assigned with a due date, and marked as ready for review', async () => {
    const [later, sooner] = [await walk(), await walk()]
    const ilse = {
      email: 'ilse@marram.example',
      name: 'Ilse',
      role: 'translator' as const,
      password: 'wind-from-the-west',
    }
    const { account } = await owner.addMember({ ...ilse, locales: ['nl'] })
    const translator = await signIn(small.service.baseUrl, ilse.email)
    await owner.translations.assign([later], 'nl', ilse.email, '2031-03-12')
    await owner.translations.assign([sooner], 'nl', account, '2031-03-01')
    const mine = await translator.translations.work({ assignee: 'me' })
    expect(mine.entries.map(({ entry, task }) => [entry, task!.due])).toEqual([
      [sooner, '2031-03-01'],
      [later, '2031-03-12'],
    ])
    await translator.translations.ready(sooner, 'nl')
    expect((await owner.translations.work({ ready: true })).entries.map(({ entry }) => entry)).toEqual([sooner])
    expect((await unitsOf(sooner)).task).toMatchObject({ assignee: account, readyBy: `account:${account}` })
    await translator.translations.ready(sooner, 'nl', false)
    expect((await owner.translations.work({ ready: true })).entries).toEqual([])

    // A translator may give back what is theirs, and assign nothing to others; and nobody gets what they may not translate.
    await translator.translations.assign([later], 'nl', null)
    const { account: maren } = (await owner.members()).members.find(({ role }) => role === 'owner')!
    expect(await problem(() => translator.translations.assign([later], 'nl', maren))).toMatchObject({ status: 403 })
    expect(await problem(() => translator.translations.ready(later, 'ar'))).toMatchObject({ status: 403 })
    expect((await problem(() => owner.translations.assign([later], 'ar', ilse.email))).message).toMatch(/limited to nl/)
    expect((await problem(() => owner.translations.assign([later], 'nl', 'nobody@marram.example'))).message).toMatch(
      /no member/,
    )
    expect((await problem(() => owner.translations.assign([later], 'nl', ilse.email, '2031-02-30'))).status).toBe(400)
  })
})

describe('what helps while translating', () => {
  it('is an earlier translation of the same or nearly the same text, with its likeness', async () => {
    const [first, second] = [await walk(), await walk()]
    await translate(first, { 'body/q1/text': 'Donker is niet leeg.' })
    const unit = await unitAt(second, 'body/q1/text')
    const same = await owner.translations.memory('nl', 'Dark is not empty.', { entry: second, unit })
    expect(same.matches[0]).toMatchObject({
      likeness: 100,
      translation: ['Donker is niet leeg.'],
      labels: ['Body', 'Quote 2', 'Text'],
    })
    const near = await owner.translations.memory('nl', 'Dark is never empty.')
    expect(near.matches[0]).toMatchObject({ likeness: 75, source: ['Dark is not empty.'] })
    expect((await owner.translations.memory('nl', 'Something else entirely')).matches).toEqual([])
    // Its own translation is no earlier one, and one that is outdated is no help.
    const own = await unitAt(first, 'body/q1/text')
    const others = await owner.translations.memory('nl', 'Dark is not empty.', { entry: first, unit: own })
    expect(others.matches.map(({ entry }) => entry)).not.toContain(first)
    expect((await owner.translations.memory('ar', 'Dark is not empty.')).matches).toEqual([])
  })
  it('is a glossary, checked as a whole, and not overwritten by two people', async () => {
    const lighthouse = {
      term: 'lighthouse',
      note: 'The building',
      translations: { nl: { use: 'vuurtoren', avoid: ['lichttoren'] } },
    }
    const { version } = await owner.translations.setGlossary([lighthouse])
    expect((await owner.translations.glossary()).terms).toEqual([lighthouse])
    const wrong = await problem(() =>
      owner.translations.setGlossary([
        lighthouse,
        { term: 'Lighthouses', translations: { de: { use: 'Leuchtturm' }, nl: { use: 'Baken', avoid: ['baken'] } } },
      ]),
    )
    expect(wrong.problems.map(({ pointer }) => pointer)).toEqual([
      '/terms/1/term',
      '/terms/1/translations/de',
      '/terms/1/translations/nl',
    ])
    await owner.translations.setGlossary([], version)
    expect(await problem(() => owner.translations.setGlossary([lighthouse], version))).toMatchObject({ status: 412 })
    expect((await owner.translations.glossary()).terms).toEqual([])
  })
})
