import type { Editor, Reader } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runIn } from './support/commands.js'
import { startDemo, type DemoWorld } from './support/running.js'

let demo: DemoWorld
let reader: Reader
let owner: Editor
const raw = async (query: string, key = demo.seeded.keys.published) => {
  const response = await fetch(`${demo.service.baseUrl}/read/v1/marram/search?${query}`, {
    headers: { Authorization: `Bearer ${key}` },
  })
  return { status: response.status, headers: response.headers, body: await response.text() }
}
const titles = async (words: string, types?: string[]) =>
  (await reader.search(words, { types })).map(({ entry: { values } }) => values['title'] ?? values['name'])

beforeAll(async () => {
  demo = await startDemo()
  reader = demo.reader()
  owner = await demo.as('maren@marram.example')
})
afterAll(() => demo.service.end())

describe('search over all types', () => {
  it('finds entries of several types, the best first, in the locale of the reader', async () => {
    const results = await reader.search('lighthouse', { pick: 'title,name' })
    expect(new Set(results.map(({ entry }) => entry.type)).size).toBeGreaterThan(1)
    expect(JSON.stringify(results[0]!.entry.values)).toMatch(/Lighthouse/)
    const dutch = await reader.search('vuurtoren', { locale: 'nl', pick: 'title,name' })
    expect(dutch.length).toBeGreaterThan(0)
    expect(dutch.every(({ entry }) => entry.locale === 'nl')).toBe(true)
  })

  it('says where the words stand', async () => {
    const [result] = await reader.search('lighthouse', { types: ['museum'] })
    const { highlights } = result!
    for (const { text, marks } of highlights)
      for (const [from, to] of marks) expect(text.slice(from, to).toLowerCase()).toMatch(/^light/)
    expect(highlights[0]!.field).toBe('name')
  })

  it('forgives a typo, after what is written so', async () => {
    expect((await titles('ligthouse', ['museum']))[0]).toMatch(/Lighthouse/)
    expect((await titles('saltwroks', ['museum']))[0]).toMatch(/Saltworks|Salt/)
    expect(await titles('xqzzy')).toEqual([])
    expect(await titles('…')).toEqual([])
  })

  it('shows what is public alone, and drafts to who may read them', async () => {
    const { id } = await owner.create({
      type: 'person',
      values: { name: 'Quillemina Zandvoort', role: { en: 'Guide' } },
    })
    expect(await titles('Quillemina')).toEqual([])
    expect(await titles('Quilelmina')).toEqual([])
    const drafts = demo.reader('draft')
    expect((await drafts.search('Quilelmina')).map(({ entry }) => entry.id)).toEqual([id])
    await owner.publish(id, { locales: ['en'] })
    expect(await titles('Quilelmina')).toEqual(['Quillemina Zandvoort'])
    await owner.withdraw(id)
    expect(await titles('Quillemina')).toEqual([])
    await owner.archive(id)
    expect(await drafts.search('Quillemina')).toEqual([])
  })

  it('names the types that it depends on, so that a publish makes it stale', async () => {
    const { headers } = await raw('words=lighthouse&types=museum,activity')
    expect(headers.get('cache-groups')).toMatch(
      /"t\.museum\.name@en".*"t\.activity\.title@en"|"t\.activity\.title@en".*"t\.museum\.name@en"/,
    )
    expect(headers.get('content-language')).toBe('en')
  })

  it('refuses what cannot be asked', async () => {
    for (const [query, message] of [
      ['', /words/],
      ['words=x&types=musuem', /Did you mean `museum`/],
      ['words=x&first=51', /first/],
      ['words=x&locale=fr', /not a locale of this site/],
      ['words=x&pick=nothing', /`nothing` is not a field/],
      ['word=x', /words/],
    ] as const) {
      const { status, body } = await raw(query)
      expect([query, status === 400 || status === 404, body]).toEqual([
        query,
        true,
        expect.stringMatching(message) as string,
      ])
    }
  })

  it('is a command', async () => {
    const result = await runIn(process.cwd(), ['query', '--search', 'ligthouse', '--first', '3'], {
      WISTERIA_URL: demo.service.baseUrl,
      WISTERIA_SITE: 'marram',
      WISTERIA_TOKEN: demo.seeded.keys.published,
    })
    expect(result.err).toBe('')
    expect(result.out).toMatch(/museum +\/museums\/.*\*Lighthouse\*/)
  })
})
