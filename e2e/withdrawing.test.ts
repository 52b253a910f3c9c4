import type { Editor, WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { refusal } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let owner: Editor
let museum: string

const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)

let walks = 0
const walk = async (values: Record<string, unknown> = {}) => {
  walks++
  return owner.create({
    type: 'activity',
    values: {
      title: { en: `Walk ${walks}`, nl: `Wandeling ${walks}` },
      slug: { en: `walk-${walks}`, nl: `wandeling-${walks}` },
      format: 'walk',
      museum,
      ...values,
    },
  })
}

beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  museum = (await owner.create({ type: 'museum', values: { name: { en: 'The Lighthouse', nl: 'De vuurtoren' } } })).id
  await owner.publish(museum)
})
afterAll(() => small.service.end())

describe('who uses an entry', () => {
  it('is told of working copies and of what is public, each entry once', async () => {
    expect(await owner.usage((await walk()).id)).toEqual({ usedBy: [] })
    const { usedBy: before } = await owner.usage(museum)
    expect(before.map(({ inWorkingCopy, inPublic }) => [inWorkingCopy, inPublic])).toEqual([[true, false]])
    const { id, version } = await walk()
    await owner.publish(id)
    const mine = async () => (await owner.usage(museum)).usedBy.find((referrer) => referrer.id === id)
    expect(await mine()).toEqual({
      id,
      type: 'activity',
      title: `Walk ${walks}`,
      inWorkingCopy: true,
      inPublic: true,
      inBin: false,
      inRevisions: [],
    })
    await owner.edit(id, version + 1, [{ do: 'clear', at: ['museum'] }])
    expect(await mine()).toMatchObject({ inWorkingCopy: false, inPublic: true })
  })
  it('is nobody for an entry that is not there', async () => {
    expect((await problem(() => owner.usage('01hz0000000000000000'))).status).toBe(404)
  })
})

describe('withdrawing', () => {
  it('says first which URLs stop working and which references would break', async () => {
    const { id } = await walk()
    await owner.publish(id)
    const all = await owner.withdrawalConsequences(museum)
    expect(all).toMatchObject({ publicLocales: ['en', 'nl'], locales: ['en', 'nl'], children: [] })
    expect(Object.keys(all.paths)).toEqual(expect.arrayContaining(['en', 'nl']))
    expect(all.dangling.map((referrer) => referrer.id)).toContain(id)
    // While English stays, so do its readers.
    const dutch = await owner.withdrawalConsequences(museum, ['nl', 'ar'])
    expect(dutch).toMatchObject({ locales: ['nl'], children: [], dangling: [] })
    expect(Object.keys(dutch.paths)).toEqual(['nl'])
    expect((await owner.entry(museum)).states).toMatchObject({ en: 'public', nl: 'public' })
  })
  it('tells the public pages below, and nothing of what is not public', async () => {
    const make = async (title: string, parent?: string) =>
      (await owner.create({ type: 'page', values: { title: { en: title }, ...(parent ? { inPage: parent } : {}) } })).id
    const above = await make('Plan your visit')
    const below = await make('Tickets', above)
    expect(await owner.withdrawalConsequences(above)).toMatchObject({ publicLocales: [], locales: [], paths: {} })
    await owner.publish(above)
    await owner.publish(below)
    const consequences = await owner.withdrawalConsequences(above)
    expect([consequences.children, consequences.dangling]).toEqual([[{ id: below, title: 'Tickets' }], []])
    expect((await problem(() => owner.withdraw(above))).message).toContain('“Tickets”')
    await owner.withdraw(above, { withChildren: true, version: consequences.version })
    expect((await owner.entry(below)).states['en']).toBe('withdrawn')
  })
})

describe('duplicating', () => {
  it('makes another entry with free slugs, of which nothing is public', async () => {
    const first = await walk({ body: [{ id: 'h', block: 'heading', values: { text: { en: 'Bring a torch' } } }] })
    await owner.publish(first.id)
    const second = await owner.duplicate(first.id)
    const third = await owner.duplicate(first.id)
    const fourth = await owner.duplicate(second.id)
    const slugOf = (entry: { values: Readonly<Record<string, unknown>> }) => (entry.values['slug'] as { en: string }).en
    expect([second, third, fourth].map(slugOf)).toEqual(['2', '3', '2-2'].map((number) => `walk-${walks}-${number}`))
    expect(second.values).toEqual({ ...first.values, slug: second.values['slug'] })
    expect([second.version, second.states['en'], second.id === first.id]).toEqual([1, 'new', false])
    expect((await owner.publish(second.id)).states['en']).toBe('public')
    expect((await owner.entry(first.id)).version).toBe(first.version + 1)
  })
  it('does not look for a number where the slug is empty on purpose', async () => {
    const above = await owner.create({ type: 'page', values: { title: { en: 'Above' } } })
    const start = await owner.create({
      type: 'page',
      values: { title: { en: 'Start' }, slug: { en: null, nl: null }, inPage: above.id },
    })
    expect(start.paths['en']).toBeDefined()
    const copied = await owner.duplicate(start.id)
    expect(copied.paths).toEqual(start.paths)
  })
  it('is done once for one idempotency key, and never for a type with exactly one entry', async () => {
    const { id } = await walk()
    const [first, other] = [await owner.duplicate(id, 'copy-1'), await owner.duplicate(id, 'copy-1')]
    expect(other.id).toBe(first.id)
    const model = { info: 'type: info\ncardinality: one\nfields:\n  name: { kind: text }\n' }
    const { files } = await owner.modelAt((await owner.model()).version)
    const added = [...files, { name: 'info.yaml', text: model.info }]
    await owner.adoptModel((await owner.compareModel(added)).id)
    expect((await problem(() => owner.duplicate('info'))).message).toBe(
      'Info has exactly one entry, which cannot be duplicated.',
    )
  })
})
