import { Reader, type Editor, type WisteriaProblem } from '@wisteria/client'
import { withLocale, withoutLocale } from '@wisteria/core'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runIn } from './support/commands.js'
import { asFiles, files, refusal, settings } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let reader: Reader
const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)
const without = withoutLocale(settings, 'nl')
const both: string[] = []
let dutch = ''

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  const { secret } = await owner.createKey({ label: 'Site', scope: 'published' })
  reader = new Reader({ baseUrl: small.service.baseUrl, site: 'marram', token: secret })
  for (const [en, nl] of [
    ['Lighthouse', 'Vuurtoren'],
    ['Boatyard', 'Werf'],
  ]) {
    const { id } = await owner.create({ type: 'museum', values: { name: { en, nl } } })
    await owner.publish(id)
    both.push(id)
  }
  await owner.schedule(both[0]!, { does: 'publish', at: '2031-01-01T09:00Z', locales: ['nl'] })
  dutch = (await owner.create({ type: 'museum', values: { name: { nl: 'Zoutziederij' } } })).id
  await owner.publish(dutch, { locales: ['nl'] })
})
afterAll(() => small.service.end())

const nameIn = async (id: string, locale: string) =>
  (await reader.entry('museum', id, { locale }))?.values['name'] as string | undefined
const rows = async () =>
  await (
    await fetch(`${small.service.baseUrl}/read/v1/marram/entries/museum?locales=every`, {
      headers: { Authorization: `Bearer ${small.token}` },
    })
  ).text()

describe('a locale that has content', () => {
  it('is not set over settings that somebody else has changed since they were read', async () => {
    const { version } = await owner.locales()
    await owner.setLocales({ ...settings, label: 'Renamed' }, [], { version })
    const stale = await problem(() => owner.setLocales(settings, [], { version }))
    expect([stale.status, stale.message]).toEqual([
      412,
      'Somebody else has changed the locales since. Read them again before you change them.',
    ])
    expect((await owner.locales()).settings.label).toBe('Renamed')
    expect((await problem(() => owner.setLocales(settings, [], { version: 's1' }))).status).toBe(400)
    await owner.setLocales(settings, [], { version: (await owner.locales()).version })
  })
  it('is not retired while types have paths in it, or before one says that it is withdrawn', async () => {
    expect((await owner.compareLocales(without)).retired).toMatchObject([
      {
        tag: 'nl',
        public: 3,
        only: 1,
        paths: 3,
        drafts: 3,
        schedules: 1,
        refused: expect.stringContaining('path pattern') as string,
      },
    ])
    expect((await problem(() => owner.setLocales(without))).message).toContain('Adopt a model without it first')
    const plain = Object.fromEntries(
      Object.entries(files).map(([name, text]) => [name, text.replace(/, nl: '[^']*'/, '')]),
    )
    await owner.adoptModel((await owner.compareModel(asFiles(plain))).id)
    expect((await problem(() => owner.setLocales(without))).message).toBe(
      '`nl` is public in 3 entries. To withdraw it there, and keep its texts, name it in `retire`.',
    )
    expect(await nameIn(both[0]!, 'nl')).toBe('Vuurtoren')
  })
  it('is not left as the default locale once something has been public', async () => {
    const { defaultChanged } = await owner.compareLocales({ ...settings, defaultLocale: 'ar' })
    expect(defaultChanged).toEqual({ to: 'ar', refused: expect.stringContaining('cannot change once') as string })
  })
  it('tells what would come of it on the command line', async () => {
    const file = join(small.service.folder, 'locales.yaml')
    writeFileSync(file, JSON.stringify(without))
    const at = { WISTERIA_URL: small.service.baseUrl, WISTERIA_SITE: 'marram', WISTERIA_TOKEN: small.token }
    const said = await runIn(small.service.folder, ['locale', 'compare', '--file', file], at)
    expect(said.out).toBe(`nl is retired:
  withdrawn in 3 entries, of which 1 is public in no other locale; 0 URLs stop working
  3 working copies have texts in it, which are kept
  1 schedule names it, and would fail
nl-BE has other fallbacks.
`)
    const refused = await runIn(small.service.folder, ['locale', 'set', '--file', file], at)
    expect([refused.code, refused.err]).toEqual([6, expect.stringContaining('name it in `retire`')])
    const done = await runIn(small.service.folder, ['locale', 'set', '--file', file, '--retire', 'nl'], at)
    expect([done.code, done.out]).toEqual([0, 'Locales: en, nl-BE, ar\n'])
  })
  it('is withdrawn everywhere, with its texts kept, and nothing else changes', async () => {
    expect((await problem(() => nameIn(both[0]!, 'nl'))).status).toBe(400)
    expect([await nameIn(both[0]!, 'en'), await nameIn(both[0]!, 'nl-BE')]).toEqual(['Lighthouse', 'Lighthouse'])
    expect(
      (
        await problem(() =>
          reader.entry('museum', dutch).then((answer) => {
            if (!answer) throw Object.assign(new Error('none'), { status: 404 })
          }),
        )
      ).status,
    ).toBe(404)
    expect((await owner.entry(dutch)).state).not.toBe('public')
    const { events } = await owner.events(0, 500)
    expect(events.at(-1)).toMatchObject({ type: 'settings.changed' })
    const before = await rows()
    await owner.rebuild()
    expect(await rows()).toBe(before)
    // Editing goes on, and does not touch the texts in it.
    const { version } = await owner.entry(both[0]!)
    await owner.edit(both[0]!, version, [{ do: 'set', at: ['town'], value: 'Ebbing' }])
    await owner.publish(both[0]!)
  })
  it('comes back as it was, and is public again only when somebody publishes it', async () => {
    await owner.setLocales(settings)
    const entry = await owner.entry(both[0]!)
    expect([(entry.values['name'] as Record<string, string>)['nl'], entry.states['nl']]).toEqual([
      'Vuurtoren',
      'withdrawn',
    ])
    expect(await nameIn(both[0]!, 'nl')).toBe('Lighthouse')
    await owner.publish(both[0]!, { locales: ['nl'] })
    expect(await nameIn(both[0]!, 'nl')).toBe('Vuurtoren')
    expect((await owner.entry(dutch)).states).toMatchObject({ nl: 'withdrawn' })
    await owner.publish(dutch, { locales: ['nl'] })
    expect(await nameIn(dutch, 'nl')).toBe('Zoutziederij')
    const before = await rows()
    await owner.rebuild()
    expect(await rows()).toBe(before)
  })
})

describe('the texts of a removed locale', () => {
  it('are kept, counted, and deleted permanently from every revision, file and term', async () => {
    const added = withLocale((await owner.locales()).settings, 'fy')
    await owner.setLocales(added)
    const { id, version } = await owner.create({ type: 'museum', values: { name: { en: 'Mill', fy: 'Mûne' } } })
    await owner.publish(id)
    await owner.edit(id, (await owner.entry(id)).version, [{ do: 'set', at: ['name'], locale: 'fy', value: 'De mûne' }])
    const asset = await owner.addAsset({ name: 'mill.txt', content: Buffer.from('mill').toString('base64') })
    await owner.changeAsset(asset.id, { title: { en: 'Mill', fy: 'Mûne' } })
    await owner.translations.setGlossary([{ term: 'mill', translations: { fy: { use: 'mûne' } } }])
    const without = withoutLocale(added, 'fy')
    await owner.setLocales(without, ['fy'])
    expect((await owner.removedLocales()).locales.find(({ tag }) => tag === 'fy')).toEqual({
      tag: 'fy',
      entries: 1,
      assets: 1,
    })
    expect((await problem(() => owner.forgetLocale('en'))).message).toBe(
      '`en` is a locale of this site. Remove it first.',
    )
    expect(await problem(() => owner.forgetLocale('zz'))).toMatchObject({ code: 'notFound' })

    const before = await rows()
    const job = await owner.waitFor(await owner.forgetLocale('fy'))
    expect(job).toMatchObject({ state: 'done', message: 'The texts in fy are deleted, in 1 entry.' })
    expect(await rows()).toBe(before)
    expect((await owner.removedLocales()).locales.map(({ tag }) => tag)).not.toContain('fy')

    await owner.setLocales(added)
    expect((await owner.entry(id)).values).toMatchObject({ name: { en: 'Mill' } })
    expect((await owner.entry(id)).values['name']).not.toHaveProperty('fy')
    for (const { number } of (await owner.revisions(id)).revisions)
      expect(JSON.stringify(await owner.revision(id, number))).not.toContain('ûne')
    expect(JSON.stringify(await owner.asset(asset.id))).not.toContain('ûne')
    expect(JSON.stringify((await owner.translations.glossary()).terms)).not.toContain('ûne')
    // Whoever began with a version before that is told, and loses nothing of what is there.
    const late = () => owner.edit(id, version, [{ do: 'set', at: ['name'], locale: 'en', value: 'Windmill' }])
    expect(await problem(late)).toMatchObject({ status: 412 })
    expect(await owner.rebuild()).toHaveProperty('rows')
    await owner.setLocales(without)
  })
})
