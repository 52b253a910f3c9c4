import type { Reader } from '@wisteria/client'
import { type Editor, type WisteriaProblem } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, refusal } from './support/models.js'
import { publishedReader, startSmall, type SmallSite } from './support/running.js'

const files = {
  walk: `type: walk
check: { holds: 'until >= from', message: It ends before it begins. }
fields:
  title: { kind: text, required: true }
  level: { kind: choice, options: [easy, hard] }
  from: { kind: date }
  until: { kind: date }
  guide: { kind: entry, accepts: [guide] }
  related: { kind: listing, accepts: [walk] }
`,
  guide: `type: guide
namedBy: name
fields:
  name: { kind: text, required: true }
  walks: { kind: listing, accepts: [walk] }
`,
}
let small: SmallSite
let owner: Editor
let reader: Reader
beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  await owner.adoptModel((await owner.compareModel(asFiles(files))).id)
  reader = await publishedReader(small)
})
afterAll(() => small.service.end())

const create = async (type: string, values: Record<string, unknown>) => (await owner.create({ type, values })).id
const titles = async (type: string, id: string, name: string) =>
  ((await reader.entry(type, id, { pick: `${name}(title)` }))!.values[name] as { values: { title: string } }[]).map(
    ({ values }) => values.title,
  )

describe('a rule across fields', () => {
  it('stops a publish with its message and its place, and is no matter to a save', async () => {
    const id = await create('walk', { title: 'Dunes', from: '2031-05-04', until: '2031-05-01' })
    const problem = await refusal<WisteriaProblem>(() => owner.publish(id, { locales: ['en'] }))
    expect(problem.problems?.[0]).toMatchObject({
      code: 'checkFailed',
      message: 'It ends before it begins.',
      pointer: '/values/until',
    })
    const { version } = await owner.entry(id)
    await owner.patch(id, version, { until: null })
    expect((await owner.publish(id, { locales: ['en'] })).state).toBe('public')
  })

  it('is refused where it cannot be asked, with its file and place', async () => {
    const wrong = { ...files, walk: files.walk.replace('until >= from', 'until >= form') }
    const problem = await refusal<WisteriaProblem>(() => owner.compareModel(asFiles(wrong)))
    expect(problem.problems?.[0]).toMatchObject({
      file: 'walk.yaml',
      line: 2,
      message: expect.stringMatching(/`form` is not a field of walk. Did you mean `from`/) as string,
    })
  })
})

describe('a list that speaks of the entry it stands in', () => {
  it('follows what the entry holds, in REST and GraphQL, drafts too', async () => {
    const guide = await create('guide', {
      name: 'Anna',
      walks: { type: 'walk', where: 'guide = here', sort: 'title', first: 9 },
    })
    const other = await create('guide', { name: 'Bert' })
    const related = { type: 'walk', where: 'guide = here.guide and entry.id != here', sort: 'title', first: 9 }
    const walks: string[] = []
    for (const [title, of] of [
      ['Cliff', guide],
      ['Marsh', guide],
      ['Pier', other],
    ])
      walks.push(await create('walk', { title, guide: of, related }))
    for (const id of [guide, other, ...walks]) await owner.publish(id, { locales: ['en'] })
    expect(await titles('guide', guide, 'walks')).toEqual(['Cliff', 'Marsh'])
    expect(await titles('walk', walks[0]!, 'related')).toEqual(['Marsh'])
    expect(await titles('walk', walks[2]!, 'related')).toEqual([])
    expect(await reader.graphql(`{ walk(id: "${walks[1]}") { related { ... on Walk { title } } } }`)).toEqual({
      walk: { related: [{ title: 'Cliff' }] },
    })
    // Another guide, another list.
    const { version, values } = await owner.entry(walks[2]!)
    expect(values['related']).toEqual(related)
    await owner.patch(walks[2]!, version, { guide })
    expect(await titles('walk', walks[2]!, 'related')).toEqual([])
    await owner.publish(walks[2]!, { locales: ['en'] })
    expect(await titles('walk', walks[2]!, 'related')).toEqual(['Cliff', 'Marsh'])
  })

  it('is refused where the entry has no such field', async () => {
    const walks = { type: 'walk', where: 'level = here.level', first: 3 }
    const problem = await refusal<WisteriaProblem>(() => create('guide', { name: 'Cor', walks }))
    expect(problem.message).toMatch(/Walks: `level` is not a field of guide/)
  })
})

describe('an option with another value', () => {
  it('takes stored values along and answers to the old one, in conditions, filters and what is sent', async () => {
    const id = await create('walk', { title: 'Quay', level: 'hard' })
    await owner.publish(id, { locales: ['en'] })
    const renamed = files.walk.replace('[easy, hard]', '[easy, { value: steep, was: hard }]')
    const proposal = await owner.compareModel(asFiles({ ...files, walk: renamed }))
    expect(proposal.consequences.map(({ message }) => message).join(' ')).toMatch(/It changes `hard` to `steep`/)
    await owner.adoptModel(proposal.id)
    expect((await reader.entry('walk', id))!.values['level']).toBe('steep')
    for (const level of ['hard', 'steep'])
      expect((await reader.entries('walk', { where: `level = "${level}"` })).entries.map((entry) => entry.id)).toEqual([
        id,
      ])
    expect(await reader.graphql('{ old: walks(where: { level: { is: hard } }) { nodes { level } } }')).toEqual({
      old: { nodes: [{ level: 'steep' }] },
    })
    const sent = await owner.create({ type: 'walk', values: { title: 'Lock', level: 'hard' } })
    expect(sent.values['level']).toBe('steep')
    // The old revision is read with the new value, also after the line is removed.
    const settled = files.walk.replace('[easy, hard]', '[easy, steep]')
    await owner.adoptModel((await owner.compareModel(asFiles({ ...files, walk: settled }))).id)
    expect((await reader.entry('walk', id))!.values['level']).toBe('steep')
    await expect(reader.entries('walk', { where: 'level = "hard"' })).rejects.toThrow(/`hard` is not one of the values/)
  })
})
