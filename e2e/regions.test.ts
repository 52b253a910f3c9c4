import { Service, type Editor, type Reader, type SourceChange, type WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, refusal } from './support/models.js'
import { publishedReader, startSmall, type SmallSite } from './support/running.js'

const problem = (work: () => unknown) => refusal<WisteriaProblem>(work)

let site: SmallSite
let owner: Editor
let reader: Reader

/** The small model with pages that belong to regions, hold blocks, and list other pages. */
const regional = {
  ...files,
  page: `
type: page
parent: inPage
order: place
regional: true
path: { en: '/{parent}/{slug}', nl: '/nl/{parent}/{slug}' }
fields:
  title: { kind: text, required: true, localized: true }
  slug: { kind: slug, from: title, localized: true }
  inPage: { kind: entry, accepts: [page] }
  place: { kind: number }
  code: { kind: text, unique: true }
  next: { kind: entry, accepts: [page] }
  museum: { kind: entry, accepts: [museum] }
  all: { kind: listing, accepts: [page, museum] }
  body: { kind: block, many: true, accepts: [heading, quote] }
`,
}

beforeAll(async () => {
  site = await startSmall()
  owner = site.owner
  reader = await publishedReader(site)
  await owner.adoptModel((await owner.compareModel(asFiles(regional))).id)
  await owner.counterparts.setRegions([
    { name: 'north', label: 'The north' },
    { name: 'isles', label: 'The isles' },
  ])
})
afterAll(() => site.service.end())

const heading = (id: string, en: string) => ({ id, block: 'heading', values: { text: { en } } })
const quote = (id: string, en: string, by = '') => ({
  id,
  block: 'quote',
  values: { text: { en }, ...(by ? { by } : {}) },
})
let pages = 0
const newPage = (values: Record<string, unknown> = {}, more: { region?: string } = {}) =>
  owner.create({ type: 'page', values: { title: { en: `Page ${++pages}` }, ...values }, ...more })
const make = async (ids: readonly string[], region = 'north', withChildren = false) => {
  const job = await owner.waitFor(await owner.counterparts.make({ region, ids, withChildren }))
  return (await owner.bulkItems(job.id)).items
}
const counterpart = async (id: string, region = 'north') =>
  (await owner.counterparts.of(id)).regions.find(({ name }) => name === region)!.entry!
const copyOf = async (id: string, region = 'north') => owner.entry((await counterpart(id, region)).id)
const change = async (id: string, values: Record<string, unknown>) => {
  const { version } = await owner.entry(id)
  return owner.patch(id, version, values)
}
const order = (values: Readonly<Record<string, unknown>>) => (values['body'] as { id: string }[]).map(({ id }) => id)
const placed = (changes: readonly SourceChange[]) =>
  changes.map(({ how, at, locale, own }) => [how, at.join('/'), locale, own.length])

describe('regions of a site', () => {
  it('are listed with how many entries are in each, and keep their place in the settings', async () => {
    const { regions, types, version } = await owner.counterparts.regions()
    expect([regions.map(({ name }) => name), types]).toEqual([['north', 'isles'], ['page']])
    const { settings } = await owner.locales()
    await owner.setLocales({ ...settings, label: 'Marram Coast' })
    expect((await owner.counterparts.regions()).regions).toEqual(regions)
    expect(await problem(() => owner.counterparts.setRegions([], version))).toMatchObject({ status: 412 })
  })
  it.each([
    [[{ name: 'main', label: 'Main' }], /`main` is the region of all entries/],
    [[{ name: 'The North', label: 'North' }], /not a name for a region/],
    [
      [
        { name: 'a', label: 'A' },
        { name: 'a', label: 'B' },
      ],
      /listed twice/,
    ],
    [[{ name: 'a', label: ' ' }], /Give `a` a label/],
  ])('are refused with what is wrong: %j', async (regions, says) => {
    expect((await problem(() => owner.counterparts.setRegions(regions))).message).toMatch(says)
  })
  it('stay while they have entries', async () => {
    const page = await newPage({}, { region: 'isles' })
    expect(page.region).toBe('isles')
    const { regions } = await owner.counterparts.regions()
    const without = regions.filter(({ name }) => name !== 'isles')
    expect((await problem(() => owner.counterparts.setRegions(without))).message).toMatch(/`isles` has 1 entry of page/)
    await owner.delete(page.id)
    await owner.deletePermanently(page.id)
    await owner.counterparts.setRegions(without)
    await owner.counterparts.setRegions(regions)
  })
  it('are no part of types that the model does not make regional', async () => {
    const wrong = await problem(() =>
      owner.create({ type: 'museum', values: { name: { en: 'Mill' } }, region: 'north' }),
    )
    expect([wrong.status, wrong.message]).toEqual([409, expect.stringMatching(/belong to all regions/)])
    expect(await problem(() => newPage({}, { region: 'nort' }))).toMatchObject({
      status: 400,
      message: expect.stringMatching(/Did you mean `north`/) as string,
    })
  })
})

describe('counterparts', () => {
  it('are made of a subtree, with references inside it leading to the copies', async () => {
    const museum = await owner.create({ type: 'museum', values: { name: { en: 'Lighthouse' } } })
    const visit = await newPage({ title: { en: 'Visit' }, museum: museum.id })
    const outside = await newPage({ title: { en: 'Outside' } })
    const tickets = await newPage({ title: { en: 'Tickets' }, inPage: visit.id, next: visit.id })
    const groups = await newPage({ title: { en: 'Groups' }, inPage: tickets.id, next: outside.id })
    await change(visit.id, { next: groups.id })

    const plan = await owner.counterparts.plan({ region: 'north', ids: [visit.id], withChildren: true })
    expect(plan).toMatchObject({ create: 3, exist: 0, refused: [] })
    expect(plan.entries.map(({ title }) => title)).toEqual(['Visit', 'Tickets', 'Groups'])
    expect((await make([visit.id], 'north', true)).map(({ state }) => state)).toEqual(['done', 'done', 'done'])

    const [copy, below, deepest] = [await copyOf(visit.id), await copyOf(tickets.id), await copyOf(groups.id)]
    expect([copy.region, copy.state, copy.paths['en']]).toEqual(['north', 'new', '/north/visit'])
    expect(copy.values).toMatchObject({ museum: museum.id, next: deepest.id })
    expect(below.values).toMatchObject({ inPage: copy.id, next: copy.id })
    expect(deepest.values).toMatchObject({ inPage: below.id, next: outside.id })
    expect(deepest.paths['en']).toBe('/north/visit/tickets/groups')

    expect(await problem(() => owner.counterparts.make({ region: 'north', ids: [visit.id] }))).toMatchObject({
      status: 409,
      message: expect.stringMatching(/counterparts in north already/) as string,
    })
    // Later ones find what is there: a reference to a page with a counterpart leads to that.
    const late = await newPage({ title: { en: 'Late' }, inPage: tickets.id, next: visit.id })
    await make([late.id])
    expect((await copyOf(late.id)).values).toMatchObject({ inPage: below.id, next: copy.id })
  })
  it('say where they are and where they are missing, of one entry and of all', async () => {
    const page = await newPage({ title: { en: 'Everywhere' } })
    await make([page.id])
    const of = await owner.counterparts.of(page.id)
    expect(of.regions.map(({ name, entry }) => [name, entry?.title])).toEqual([
      ['main', 'Everywhere'],
      ['north', 'Everywhere'],
      ['isles', undefined],
    ])
    const copy = await counterpart(page.id)
    expect((await owner.counterparts.of(copy.id)).source).toMatchObject({ id: page.id, region: 'main' })
    const titles = async (query: object) =>
      (await owner.counterparts.list(query)).families.map(({ first }) => first.title)
    expect(await titles({ missing: 'isles' })).toContain('Everywhere')
    expect(await titles({ missing: 'north' })).not.toContain('Everywhere')
    expect(await titles({ behind: 'north' })).not.toContain('Everywhere')
    await change(page.id, { title: { en: 'Everywhere else' } })
    expect(await titles({ behind: 'north' })).toContain('Everywhere else')
    expect((await counterpart(page.id)).behind).toBe(true)
  })
  it('of a page whose parent has none stay below that parent, in the addresses of their region', async () => {
    const parent = await newPage({ title: { en: 'Alone' } })
    const child = await newPage({ title: { en: 'Child' }, inPage: parent.id })
    await make([child.id])
    expect((await copyOf(child.id)).paths['en']).toBe('/north/alone/child')
  })
  it('are not made of what lies in the bin, is archived, or is there', async () => {
    const page = await newPage()
    await make([page.id])
    const copy = await copyOf(page.id)
    expect((await owner.counterparts.plan({ region: 'north', ids: [copy.id] })).exist).toBe(1)
    await owner.delete(copy.id)
    const plan = await owner.counterparts.plan({ region: 'north', ids: [page.id] })
    expect(plan.refused.map(({ message }) => message)).toEqual([expect.stringMatching(/lies in the bin/)])
    await owner.deletePermanently(copy.id)
    expect((await make([page.id])).map(({ state }) => state)).toEqual(['done'])
    const archived = await newPage()
    await owner.archive(archived.id)
    expect((await owner.counterparts.plan({ region: 'north', ids: [archived.id] })).refused[0]?.message).toMatch(
      /archived/,
    )
    expect((await owner.counterparts.plan({ region: 'main', ids: [page.id] })).exist).toBe(1)
    const museum = await owner.create({ type: 'museum', values: { name: { en: 'Saltworks' } } })
    expect((await owner.counterparts.plan({ region: 'north', ids: [museum.id] })).refused[0]?.message).toMatch(
      /belong to all regions/,
    )
  })
  it('can have the same unique values and slugs as their sources, and not as others of their region', async () => {
    const page = await newPage({ title: { en: 'Unique' }, code: 'U1' })
    await owner.publish(page.id)
    await make([page.id])
    await owner.publish((await counterpart(page.id)).id)
    const other = await newPage({ title: { en: 'Another' }, code: 'U1' }, { region: 'north' })
    expect((await problem(() => owner.publish(other.id))).problems.map(({ code }) => code)).toEqual(['notUnique'])
  })
  it('are made of what exists already, and then take only what changes from then on', async () => {
    const page = await newPage({ title: { en: 'Made here' }, code: 'source' })
    const own = await newPage({ title: { en: 'Made there' } }, { region: 'north' })
    await owner.counterparts.place(own.id, 'north', page.id)
    expect((await owner.counterparts.changes(own.id)).changes).toEqual([])
    await change(page.id, { code: 'later' })
    expect(placed((await owner.counterparts.changes(own.id)).changes)).toEqual([['changed', 'code', null, 1]])
    const third = await newPage({}, { region: 'north' })
    expect((await problem(() => owner.counterparts.place(third.id, 'north', page.id))).message).toMatch(
      /counterpart in north already/,
    )
    expect((await problem(() => owner.counterparts.place(page.id, 'isles', own.id))).message).toMatch(
      /Other entries are counterparts of this one/,
    )
    expect((await owner.counterparts.place(own.id, 'north', null)).region).toBe('north')
    expect((await owner.counterparts.of(own.id)).source).toBeNull()
  })
  it('move to another region only while they were never public', async () => {
    const page = await newPage({ title: { en: 'Moves' } })
    const child = await newPage({ title: { en: 'Below' }, inPage: page.id })
    const moved = await owner.counterparts.place(page.id, 'isles')
    expect([moved.region, moved.paths['en']]).toEqual(['isles', '/isles/moves'])
    expect((await owner.entry(child.id)).paths['en']).toBe('/isles/moves/below')
    await owner.publish(page.id)
    expect((await problem(() => owner.counterparts.place(page.id, 'main'))).message).toMatch(/has been public/)
  })
})

describe('what changed in the source', () => {
  const start = { body: [heading('h1', 'One'), quote('q1', 'Two', 'A keeper'), heading('h2', 'Three')] }

  /** A page and its counterpart, both of which were changed since. */
  async function twoSides(name: string) {
    const page = await newPage({ title: { en: name, nl: `${name} nl` }, code: `${name} 1`, ...start })
    await make([page.id])
    const copy = await copyOf(page.id)
    // The source moved its last block to the front, edited one and set the code; the copy moved another, and edited two.
    await change(page.id, {
      code: `${name} 2`,
      body: [heading('h2', 'Three'), heading('h1', 'Uno'), quote('q1', 'Two', 'A keeper')],
    })
    await change(copy.id, {
      title: { en: `${name} of the north` },
      body: [quote('q1', 'Due', 'A pilot'), heading('h1', 'Ein'), heading('h2', 'Three')],
    })
    return { page, copy }
  }

  it('is shown with what changed here at the same place', async () => {
    const { copy, page } = await twoSides('Shown')
    const { changes, source, lost } = await owner.counterparts.changes(copy.id)
    expect(source).toMatchObject({ id: page.id, region: 'main', title: 'Shown' })
    expect(placed(changes)).toEqual([
      ['changed', 'code', null, 0],
      ['moved', 'body/h2', null, 0],
      ['changed', 'body/h1/text', 'en', 1],
    ])
    expect(changes[2]!.words).toEqual([
      { is: 'removed', text: 'One' },
      { is: 'added', text: 'Uno' },
    ])
    expect(lost.map(({ at }) => at.join('/'))).toEqual(
      expect.arrayContaining(['title', 'body/q1/text', 'body/q1/by', 'body/h1/text']),
    )
  })
  it('is taken where it meets nothing, and asked about where both changed', async () => {
    const { copy } = await twoSides('Merged')
    const open = await problem(() => owner.counterparts.take(copy.id))
    expect([open.status, open.message]).toEqual([
      409,
      expect.stringMatching(/One place was changed here and in the source/),
    ])
    expect((await owner.entry(copy.id)).values['code']).toBe('Merged 1')
    const taken = await owner.counterparts.take(copy.id, { conflicts: 'own' })
    expect([taken.taken, taken.left, taken.values['code'], order(taken.values)]).toEqual([
      2,
      1,
      'Merged 2',
      ['h2', 'q1', 'h1'],
    ])
    expect(taken.values['title']).toMatchObject({ en: 'Merged of the north', nl: 'Merged nl' })
    expect(taken.values['body']).toContainEqual(quote('q1', 'Due', 'A pilot'))
    expect(taken.values['body']).toContainEqual(heading('h1', 'Ein'))
    // What was left is not asked about again, and the entry is no longer behind.
    expect((await owner.counterparts.changes(copy.id)).changes).toEqual([])
    expect((await owner.counterparts.of(copy.id)).regions.find(({ name }) => name === 'north')?.entry?.behind).toBe(
      false,
    )
  })
  it('is taken by choices, place by place', async () => {
    const { copy } = await twoSides('Chosen')
    const taken = await owner.counterparts.take(copy.id, {
      choices: [
        { how: 'changed', at: ['body', 'h1', 'text'], locale: 'en', side: 'source' },
        { how: 'moved', at: ['body', 'h2'], side: 'own' },
      ],
    })
    expect([taken.taken, taken.left, order(taken.values)]).toEqual([2, 1, ['q1', 'h1', 'h2']])
    expect(taken.values['body']).toContainEqual(heading('h1', 'Uno'))
    const { copy: other } = await twoSides('Unknown')
    expect(
      await problem(() =>
        owner.counterparts.take(other.id, { choices: [{ how: 'removed', at: ['body', 'h1'], side: 'own' }] }),
      ),
    ).toMatchObject({ status: 400, message: expect.stringMatching(/no change `removed` at `body\/h1`/) as string })
  })
  it('replaces everything where it is overwritten, which can be undone', async () => {
    const { page, copy } = await twoSides('Over')
    const before = (await owner.entry(copy.id)).values
    const taken = await owner.counterparts.take(copy.id, { take: 'everything' })
    expect(taken.values).toEqual((await owner.entry(page.id)).values)
    const { revisions } = await owner.revisions(copy.id)
    expect((await owner.restore(copy.id, { from: revisions[1]!.number })).values).toEqual(before)
  })
  it('leads references to the counterparts', async () => {
    const target = await newPage({ title: { en: 'Target' } })
    const page = await newPage({ title: { en: 'Refers' } })
    await make([page.id, target.id])
    await change(page.id, { next: target.id })
    const copy = await copyOf(page.id)
    expect((await owner.counterparts.take(copy.id)).values['next']).toBe((await counterpart(target.id)).id)
  })
  it('is refused where the source, or the entry, has changed since it was looked at', async () => {
    const { page, copy } = await twoSides('Late')
    const { source } = await owner.counterparts.changes(copy.id)
    await change(page.id, { code: 'Late 3' })
    const order = { conflicts: 'own', sourceVersion: source.version } as const
    expect(await problem(() => owner.counterparts.take(copy.id, order))).toMatchObject({ status: 412 })
    expect(await problem(() => owner.counterparts.take(copy.id, { conflicts: 'own' }, 1))).toMatchObject({
      status: 412,
    })
    expect((await owner.counterparts.take(copy.id, { conflicts: 'own' })).values['code']).toBe('Late 3')
  })
  it('cannot be taken where there is no source, or it was deleted', async () => {
    const page = await newPage()
    expect((await problem(() => owner.counterparts.changes(page.id))).message).toMatch(/not copied from another region/)
    await make([page.id])
    const copy = await copyOf(page.id)
    await owner.delete(page.id)
    await owner.deletePermanently(page.id)
    expect((await problem(() => owner.counterparts.changes(copy.id))).message).toMatch(/was deleted/)
    expect((await owner.counterparts.of(copy.id)).source).toBeNull()
  })
  it('compares with the text that was taken, also while one goes on writing in one sitting', async () => {
    const page = await newPage({ code: 'sitting 1' })
    await make([page.id])
    const copy = await copyOf(page.id)
    await change(page.id, { code: 'sitting 2' })
    await owner.counterparts.take(copy.id)
    await change(page.id, { code: 'sitting 3' })
    const { changes } = await owner.counterparts.changes(copy.id)
    expect(changes.map(({ before, after }) => [before, after])).toEqual([['sitting 2', 'sitting 3']])
  })
  it('brings translations with what they were made from', async () => {
    const page = await newPage({ title: { en: 'Fresh', nl: 'Vers' } })
    await change(page.id, { title: { en: 'Fresher' } })
    expect((await owner.entry(page.id)).freshness['nl']).toBe('outdated')
    await make([page.id])
    const copy = await copyOf(page.id)
    expect(copy.freshness['nl']).toBe('outdated')
    await change(page.id, { title: { nl: 'Verser' } })
    expect((await owner.counterparts.take(copy.id)).freshness['nl']).toBe('current')
  })
})

describe('reading a region', () => {
  it('gives the main region unless another is asked for, in lists, search, paths and GraphQL', async () => {
    const museum = await owner.create({ type: 'museum', values: { name: { en: 'Zephyr mill' } } })
    const page = await newPage({
      title: { en: 'Zephyr' },
      museum: museum.id,
      all: { type: 'page', where: 'title starts with "Zephyr"', first: 10 },
    })
    await make([page.id])
    const copy = await counterpart(page.id)
    await owner.publish(museum.id)
    await owner.publish(page.id)
    await owner.publish(copy.id)
    const where = 'title starts with "Zephyr"'
    const ids = async (options: object) =>
      (await reader.entries('page', { where, ...options })).entries.map(({ id }) => id)
    expect(await ids({})).toEqual([page.id])
    expect(await ids({ region: 'north' })).toEqual([copy.id])
    expect(await ids({ where: `${where} and entry.region = "north"` })).toEqual([copy.id])
    expect(await ids({ where: `${where} and entry.region has value` })).toHaveLength(2)
    expect(await ids({ region: 'isles' })).toEqual([])
    expect(await problem(() => reader.entries('page', { region: 'nowhere' }))).toMatchObject({ status: 400 })
    // Types that are not regional belong to all.
    expect((await reader.entries('museum', { region: 'north', where: 'name = "Zephyr mill"' })).entries).toHaveLength(1)
    const found = async (options: object) =>
      (await reader.search('zephyr', options)).map(({ entry }) => entry.id).sort()
    expect(await found({})).toEqual([museum.id, page.id].sort())
    expect(await found({ region: 'north' })).toEqual([museum.id, copy.id].sort())
    const paths: string[] = []
    for await (const { path, region } of reader.paths({ region: 'north', type: 'page' }))
      paths.push(`${region} ${path}`)
    expect(paths).toContain('north /north/zephyr')
    expect(paths.every((path) => path.startsWith('north /north'))).toBe(true)
    const slugs: string[] = []
    for await (const { id } of reader.slugs('page', { region: 'north' })) slugs.push(id)
    expect([slugs.includes(copy.id), slugs.includes(page.id)]).toEqual([true, false])

    // One entry is read wherever it is, and says where; a list in it finds entries of its region.
    const here = await reader.entry('page', copy.id)
    expect([here?.region, here?.path]).toEqual(['north', '/north/zephyr'])
    expect((here?.values as { all: { id: string }[] }).all.map(({ id }) => id)).toEqual([copy.id])
    const main = await reader.entry('page', page.id)
    expect((main?.values as { all: { id: string }[] }).all.map(({ id }) => id)).toEqual([page.id])
    expect(await reader.at('/north/zephyr')).toMatchObject({ entry: { id: copy.id } })

    const query = `{ pages(where: { title: { startsWith: "Zephyr" } }, region: "north") { nodes { entryId region all { ... on Page { entryId } } } }
      museum(id: "${museum.id}") { usedBy { pages { nodes { entryId } } } } }`
    const answer = await reader.graphql<Record<string, never>>(query)
    expect(answer).toMatchObject({
      pages: { nodes: [{ entryId: copy.id, region: 'north', all: [{ entryId: copy.id }] }] },
      museum: { usedBy: { pages: { nodes: [{ entryId: page.id }] } } },
    })
  })
  it('goes on page by page, and a cursor of one region is none of another', async () => {
    for (const title of ['Walk a', 'Walk b', 'Walk c']) {
      const page = await newPage({ title: { en: title } }, { region: 'isles' })
      await owner.publish(page.id)
    }
    const options = { region: 'isles', where: 'title starts with "Walk"', sort: 'title', first: 2 } as const
    const page = await reader.entries('page', { ...options, count: true })
    expect([page.entries.length, page.count]).toEqual([2, 3])
    const rest = await reader.entries('page', { ...options, after: page.next! })
    expect(rest.entries.map(({ values }) => (values as { title: string }).title)).toEqual(['Walk c'])
    expect(
      await problem(() => reader.entries('page', { ...options, region: 'north', after: page.next! })),
    ).toMatchObject({
      status: 400,
    })
  })
  it('is the same after the published edition was rebuilt', async () => {
    const read = async () => JSON.stringify(await reader.entries('page', { region: 'north', first: 100 }))
    const before = await read()
    await owner.rebuild()
    expect(await read()).toBe(before)
  })
})

describe('a member who is limited to a region', () => {
  it('writes there and nowhere else', async () => {
    const service = new Service({ baseUrl: site.service.baseUrl })
    const person = { email: 'noor@marram.example', name: 'Noor', password: 'wind-from-the-west' }
    const limits = { role: 'editor', regions: ['north'] } as const
    expect((await owner.addMember({ ...person, ...limits })).regions).toEqual(['north'])
    const { token, sites } = await service.signIn({ email: person.email, password: person.password, as: 'token' })
    expect(sites[0]).toMatchObject({ regions: ['north'] })
    const noor = new Service({ baseUrl: site.service.baseUrl, token: token! }).site('marram')

    const page = await newPage({ title: { en: 'For Noor' } })
    const job = await noor.waitFor(await noor.counterparts.make({ region: 'north', ids: [page.id] }))
    expect(job.message).toBe('1 done.')
    const copy = await counterpart(page.id)
    await change(page.id, { code: 'noor' })
    expect((await noor.counterparts.take(copy.id)).values['code']).toBe('noor')
    await noor.publish(copy.id)
    // A new page of hers is in her region.
    expect((await noor.create({ type: 'page', values: { title: { en: 'Own' } } })).region).toBe('north')

    const refusals = [
      () => noor.patch(page.id, 2, { code: 'x' }),
      () => noor.publish(page.id),
      () => noor.archive(page.id),
      () => noor.schedule(page.id, { does: 'publish', at: '2031-01-01T10:00:00Z', zone: 'Europe/Amsterdam' }),
      () => noor.duplicate(page.id),
      () => noor.delete(page.id),
      () => noor.counterparts.place(copy.id, 'isles'),
      () => noor.counterparts.make({ region: 'isles', ids: [page.id] }),
      () => noor.create({ type: 'page', values: {}, region: 'isles' }),
      () => noor.create({ type: 'museum', values: {} }),
    ]
    for (const refused of refusals)
      expect(await problem(refused), String(refused)).toMatchObject({
        status: 403,
        message: expect.stringMatching(/limited to the regions north; this (is in|belongs to all)/) as string,
      })
    const bulk = await noor.waitFor(await noor.bulk({ do: 'publish', ids: [page.id, copy.id] }))
    expect((await noor.bulkItems(bulk.id)).items.map(({ state }) => state).sort()).toEqual(['done', 'refused'])
    expect(await problem(() => owner.changeMember('x', { role: 'editor', regions: ['nowhere'] }))).toMatchObject({
      message: expect.stringMatching(/`nowhere` is not a region/) as string,
    })
  })
})

describe('a copy of the site', () => {
  it('puts entries into the same regions, and says where one is missing', async () => {
    const service = new Service({ baseUrl: site.service.baseUrl, token: site.token })
    const { settings } = await owner.locales()
    const { regions, ...plain } = settings
    const page = await newPage({ title: { en: 'Copied' } }, { region: 'isles' })
    const order = { from: 'marram', ids: [page.id], references: false }
    for (const [name, more] of [
      ['bare', {}],
      ['with-isles', { regions: regions! }],
    ] as const) {
      await service.createSite({ name, ...plain, ...more })
      const editor = service.site(name)
      await editor.adoptModel((await editor.compareModelFrom('marram')).id)
      const plan = await editor.planCopy(order)
      if (name === 'bare') expect(plan.types[0]?.refused[0]?.message).toMatch(/has no region isles/)
      else {
        await editor.waitFor(await editor.copy(order))
        expect((await editor.entries({ type: 'page' })).entries.map(({ region, path }) => [region, path])).toEqual([
          ['isles', '/isles/copied'],
        ])
      }
    }
  })
})

describe('a model', () => {
  it('keeps a type regional while entries of it are in regions', async () => {
    const plain = { ...regional, page: regional.page.replace('regional: true\n', '') }
    const proposal = await owner.compareModel(asFiles(plain))
    expect(proposal.canBeAdopted).toBe(false)
    expect(proposal.consequences.map(({ message }) => message).join(' ')).toMatch(/entries of it are in regions/i)
  })
  it('has no field `region` in a regional type, and may have one in others', async () => {
    const taken = { ...regional, page: regional.page.replace('code:', 'region:') }
    const { problems } = await problem(() => owner.compareModel(asFiles(taken)))
    expect(problems.map(({ message }) => message)).toContainEqual(expect.stringMatching(/have a `region` already/))
    const museum = `${regional.museum}  region: { kind: text }\n`
    expect((await owner.compareModel(asFiles({ ...regional, museum }))).canBeAdopted).toBe(true)
  })
  it('has no regional type with exactly one entry', async () => {
    const wrong = { ...regional, page: regional.page.replace('regional: true', 'regional: true\ncardinality: one') }
    const { problems } = await problem(() => owner.compareModel(asFiles(wrong)))
    expect(problems.map(({ message }) => message)).toContainEqual(expect.stringMatching(/cannot be `regional`/))
  })
})
