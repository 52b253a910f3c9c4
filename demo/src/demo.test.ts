import { describe, expect, it } from 'vitest'
import type { WebhookEvent } from '@wisteria/client'
import { emptyModel, readModelFiles, resolveModel } from '@wisteria/core'
import { html } from './frontEnd/html.js'
import { PageCache, type CachedPage } from './frontEnd/pageCache.js'
import { localeOfPath, wordsOf } from './frontEnd/words.js'
import { assetKey, demoPictures, demoSite, readDemoModel, readWorld, withIds } from './world.js'

const page = (...groups: string[]): CachedPage => ({ status: 200, headers: {}, body: '', groups })
const event = (...groups: string[]) => ({ data: { affected: { paths: [], groups } } }) as unknown as WebhookEvent

describe('the page cache', () => {
  it('drops what an event reaches, and nothing else', () => {
    const cache = new PageCache()
    cache.keep('/a', page('e.1', 't.page'), cache.generation)
    cache.keep('/b', page('e.2'), cache.generation)
    cache.keep('/c', page('s'), cache.generation)
    expect(cache.drop(event('e.1', 't.museum', 's'))).toEqual(['/a', '/c'])
    expect([cache.get('/a'), cache.get('/b') !== undefined]).toEqual([undefined, true])
  })
  it('does not keep a page that was begun before an event', () => {
    const cache = new PageCache()
    const begun = cache.generation
    cache.drop(event('e.9'))
    cache.keep('/late', page('e.1'), begun)
    expect(cache.get('/late')).toBeUndefined()
  })
  it('keeps only so many', () => {
    const cache = new PageCache()
    for (let index = 0; index <= 1000; index++) cache.keep(`/${index}`, page('s'), 0)
    expect([cache.get('/0'), cache.get('/1000') !== undefined]).toEqual([undefined, true])
  })
})

describe('templates', () => {
  it('escape what is not HTML already', () => {
    expect(html`<p title="${'"&<\''}">${['<b>', html`<i>${1}</i>`]}${null}${false}${undefined}</p>`.text).toBe(
      '<p title="&quot;&amp;&lt;&#39;">&lt;b&gt;<i>1</i></p>',
    )
  })
})

describe('the languages of the site', () => {
  it.each([
    ['/', 'en'],
    ['/visit', 'en'],
    ['/nl', 'nl'],
    ['/nl/x', 'nl'],
    ['/nl-be/x', 'nl-BE'],
    ['/nlx', 'en'],
    ['/ar/x', 'ar'],
  ])('%s is in %s', (path, locale) => expect(localeOfPath(path)).toBe(locale))
  it('have a text for everything', () => {
    for (const { tag } of demoSite.locales) expect(Object.values(wordsOf(tag)).every(Boolean)).toBe(true)
  })
})

describe('the demo world', () => {
  const world = readWorld()
  it('is as large as it should be, in every state', () => {
    const count = (type: string) => world.filter((entry) => entry.type === type).length
    expect(['museum', 'exhibition', 'activity', 'person', 'page'].map(count)).toEqual([3, 8, 15, 10, 8])
    expect(
      world.some((entry) => entry.publish.length === 0) &&
        world.some((entry) => entry.edit) &&
        world.some((entry) => entry.withdraw),
    ).toBe(true)
  })
  it('names nothing before it is there', () => {
    const ids = new Map<string, string>(demoPictures.map(({ name }) => [assetKey(name), name]))
    for (const entry of world) {
      expect(() => withIds(entry.values, ids), entry.key).not.toThrow()
      ids.set(entry.key, entry.key)
    }
    expect(() => withIds({ a: [{ ref: 'nobody' }] }, ids)).toThrow(/refers to nobody/)
  })
  it('is in English, mostly in Dutch, some in Belgian Dutch and Arabic', () => {
    const published = (locale: string) => world.filter((entry) => entry.publish.includes(locale)).length
    expect(published('nl')).toBeGreaterThan(world.length / 2)
    expect(published('nl-BE')).toBeGreaterThan(2)
    expect(published('ar')).toBeGreaterThan(8)
  })
  it('has a model without a mistake, whose patterns name every locale', () => {
    const model = resolveModel(readModelFiles(readDemoModel()), emptyModel, {
      locales: demoSite.locales.map(({ tag }) => tag),
      defaultLocale: demoSite.defaultLocale,
      timeZone: demoSite.timeZone,
    })
    const paged = model.types.filter((type) => type.path !== undefined)
    // Notices and the content of every page have no pages of their own.
    expect(model.types.length - paged.length).toBe(2)
    for (const type of paged) expect(Object.keys(type.path ?? {})).toEqual(['en', 'nl', 'nl-BE', 'ar'])
  })
})
