import type { Editor, WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
const ids: Record<string, string> = {}

const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)
const trees = {
  ...files,
  page: `
type: page
parent: inPage
order: place
menu: inMenu
path: { en: '/{parent}/{slug}', nl: '/nl/{parent}/{slug}' }
fields:
  title: { kind: text, required: true, localized: true }
  slug: { kind: slug, from: title, localized: true }
  inPage: { kind: entry, accepts: [page] }
  place: { kind: number, integer: true }
  inMenu: { kind: boolean }
`,
  leaflet: `
type: leaflet
parent: under
root: false
namedBy: title
path: { en: '/{parent}/leaflets/{slug}' }
fields:
  title: { kind: text, required: true }
  slug: { kind: slug, from: title }
  under: { kind: entry, accepts: [page, museum] }
`,
  notice: `
type: notice
drafts: false
namedBy: text
fields:
  text: { kind: text, required: true, localized: true }
  until: { kind: date }
`,
}
const page = async (name: string, inPage?: string) =>
  (ids[name] = (
    await owner.create({ type: 'page', values: { title: { en: name }, ...(inPage ? { inPage: ids[inPage] } : {}) } })
  ).id)
const below = async (parent: string | null) =>
  (await owner.tree()).nodes.filter((node) => node.parent === parent).map((node) => node.title)

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  await owner.adoptModel((await owner.compareModel(asFiles(trees))).id)
  for (const name of ['Visit', 'Learn', 'About']) await page(name)
  for (const name of ['Boat', 'Bus', 'Car']) await page(name, 'Visit')
})
afterAll(() => small.service.end())

describe('the tree of pages', () => {
  it('stands in the order that was given, names where nobody has said', async () => {
    expect(await below(null)).toEqual(['About', 'Learn', 'Visit'])
    await owner.place(ids['Visit']!, { parent: null, after: null })
    expect(await below(null)).toEqual(['Visit', 'About', 'Learn'])
    await owner.place(ids['About']!, { parent: null, after: ids['Learn']! })
    expect(await below(null)).toEqual(['Visit', 'Learn', 'About'])
    const [first] = (await owner.tree()).nodes
    expect(first).toMatchObject({
      title: 'Visit',
      type: 'page',
      path: '/visit',
      parent: null,
      state: 'new',
      inMenu: null,
    })
  })
  it('is changed by moving, and paths follow', async () => {
    await owner.place(ids['Car']!, { parent: ids['Learn']!, after: null })
    expect([await below(ids['Visit']!), await below(ids['Learn']!)]).toEqual([['Boat', 'Bus'], ['Car']])
    expect((await owner.entry(ids['Car']!)).paths).toEqual({ en: '/learn/car', nl: '/nl/learn/car' })
    await owner.place(ids['Car']!, { parent: ids['Visit']!, after: ids['Boat']! })
    expect(await below(ids['Visit']!)).toEqual(['Boat', 'Car', 'Bus'])
  })
  it('refuses to put a page below itself, or after one that stands elsewhere', async () => {
    const circle = await problem(() => owner.place(ids['Visit']!, { parent: ids['Boat']!, after: null }))
    expect(circle.message).toMatch(/below itself/)
    const elsewhere = await problem(() => owner.place(ids['Bus']!, { parent: ids['Visit']!, after: ids['About']! }))
    expect(elsewhere.message).toMatch(/is not below that parent/)
    expect(await below(ids['Visit']!)).toEqual(['Boat', 'Car', 'Bus'])
    const museum = await owner.create({ type: 'museum', values: { name: { en: 'M' } } })
    expect((await problem(() => owner.place(museum.id, { parent: null, after: null }))).message).toMatch(/no `parent`/)
  })
  it('may hold entries of several types, and some that never stand at the root', async () => {
    const created = await owner.create({ type: 'leaflet', values: { title: 'Tides' } })
    expect((await problem(() => owner.publish(created.id))).problems.map(({ code }) => code)).toContain('noParent')
    await owner.publish(ids['Visit']!)
    await owner.place(created.id, { parent: ids['Visit']!, after: null })
    expect((await owner.publish(created.id)).paths['en']).toBe('/visit/leaflets/tides')
    const museum = await owner.create({ type: 'museum', values: { name: { en: 'Saltworks' } } })
    await owner.publish(museum.id)
    await owner.place(created.id, { parent: museum.id, after: null })
    const { paths } = await owner.consequences(created.id)
    expect(paths).toEqual({ en: { from: '/visit/leaflets/tides', to: '/museums/saltworks/leaflets/tides' } })
  })
  it('is of fields that fit', async () => {
    const wrong = { ...trees, page: trees.page.replace('order: place', 'order: title') }
    expect((await problem(() => owner.compareModel(asFiles(wrong)))).problems[0]?.message).toMatch(
      /`order` must name a field of kind number/,
    )
    const rootless = {
      ...trees,
      museum: files.museum + '',
      person: files.person.replace('namedBy', 'root: false\nnamedBy'),
    }
    expect((await problem(() => owner.compareModel(asFiles(rootless)))).problems[0]?.message).toMatch(/needs `parent:`/)
  })
})

describe('a type without drafts', () => {
  it('is public with each save, or is not saved', async () => {
    const created = await owner.create({ type: 'notice', values: { text: { en: 'Closed for high water' } } })
    expect(created.states).toMatchObject({ en: 'public', nl: 'new' })
    const saved = await owner.edit(created.id, created.version, [
      { do: 'set', at: ['text'], locale: 'en', value: 'Open again' },
    ])
    expect([saved.state, (await owner.compare(created.id)).differences]).toEqual(['public', []])
    const empty = await problem(() =>
      owner.edit(created.id, saved.version, [{ do: 'clear', at: ['text'], locale: 'en' }]),
    )
    expect(empty.status).toBe(422)
    expect((await owner.entry(created.id)).version).toBe(saved.version)
    expect((await problem(() => owner.create({ type: 'notice', values: {} }))).status).toBe(422)
    const copied = await owner.duplicate(created.id)
    expect(copied.state).toBe('new')
  })
  it('asks for the right to publish', async () => {
    const { Service } = await import('@wisteria/client')
    await owner.addMember({
      email: 'tess@marram.example',
      name: 'Tess',
      password: 'lanterns-at-low-tide',
      role: 'translator',
    })
    const service = new Service({ baseUrl: small.service.baseUrl })
    const { token } = await service.signIn({
      email: 'tess@marram.example',
      password: 'lanterns-at-low-tide',
      as: 'token',
    })
    const tess = new Service({ baseUrl: small.service.baseUrl, token: token! }).site('marram')
    const created = await owner.create({ type: 'notice', values: { text: { en: 'Storm' } } })
    const refused = await problem(() =>
      tess.edit(created.id, created.version, [{ do: 'set', at: ['text'], locale: 'nl', value: 'x' }]),
    )
    expect(refused.message).toMatch(/has no drafts: saving it publishes it/)
    expect((await owner.entry(created.id)).version).toBe(created.version)
  })
})
