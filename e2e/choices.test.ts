import type { Editor, WisteriaProblem } from '@wisteria/client'
import type { Reader } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runIn } from './support/commands.js'
import { asFiles, refusal } from './support/models.js'
import { publishedReader, startSmall, type SmallSite } from './support/running.js'

const files = {
  walk: `type: walk
fields:
  title: { kind: text, required: true }
  level: { kind: choice, required: true, options: [{ value: easy-going, label: { en: Easy, nl: Makkelijk } }, hard] }
  seasons: { kind: choice, many: true, options: [{ value: '1st', label: First }, winter] }
  steps: { kind: number, integer: true }
  grains: { kind: number, integer: true, range: { max: 9000000000 } }
  next: { kind: entry, accepts: [walk] }
  stages: { kind: group, many: true, fields: { level: { kind: choice, options: [flat, steep] } } }
`,
}
let small: SmallSite
let owner: Editor
let reader: Reader
let id: string
beforeAll(async () => {
  small = await startSmall()
  owner = small.owner
  await owner.adoptModel((await owner.compareModel(asFiles(files))).id)
  reader = await publishedReader(small)
  const other = await owner.create({ type: 'walk', values: { title: 'Short', level: 'hard' } })
  await owner.publish(other.id)
  const made = await owner.create({
    type: 'walk',
    values: {
      title: 'Long',
      level: 'easy-going',
      seasons: ['1st', 'winter'],
      steps: 12000,
      grains: 5000000000,
      next: other.id,
      stages: [{ values: { level: 'steep' } }],
    },
  })
  id = made.id
  await owner.publish(id)
})
afterAll(() => small.service.end())

const valuesOf = async (options: Parameters<Reader['entry']>[2]) => (await reader.entry('walk', id, options))!.values

describe('choices', () => {
  it('are read by value, and on request by label in the locale or as both', async () => {
    expect(await valuesOf({})).toMatchObject({ level: 'easy-going', seasons: ['1st', 'winter'] })
    expect(await valuesOf({ choices: 'label', locale: 'nl' })).toMatchObject({
      level: 'Makkelijk',
      seasons: ['First', 'Winter'],
      stages: [{ values: { level: 'Steep' } }],
    })
    expect(await valuesOf({ choices: 'both', locale: 'nl-BE' })).toMatchObject({
      level: { value: 'easy-going', label: 'Makkelijk' },
    })
    expect(await valuesOf({ pick: 'level(as: both),next(level(as: label))', locale: 'en' })).toMatchObject({
      level: { value: 'easy-going', label: 'Easy' },
      next: { values: { level: 'Hard' } },
    })
    const problem = await refusal<WisteriaProblem>(() => valuesOf({ pick: 'level(as: html)' }))
    expect(problem.message).toMatch(/`as` must be one of value, label, both/)
  })

  it('are enums in GraphQL, with their labels beside them, and filters take the same names', async () => {
    const { walk } = await reader.graphql(
      `{ walk(id: "${id}", locale: "nl") { level levelLabel seasons seasonsLabel steps grains stages { level levelLabel } } }`,
    )
    expect(walk).toEqual({
      level: 'easy_going',
      levelLabel: 'Makkelijk',
      seasons: ['v1st', 'winter'],
      seasonsLabel: ['First', 'Winter'],
      steps: 12000,
      grains: 5000000000,
      stages: [{ level: 'steep', levelLabel: 'Steep' }],
    })
    const { walks, __type } = await reader.graphql<{ walks: unknown; __type: unknown }>(
      `{ walks(where: { level: { in: [easy_going] }, seasons: { is: v1st } }) { nodes { title } }
         __type(name: "WalkLevelChoice") { enumValues { name description } } }`,
    )
    expect(walks).toEqual({ nodes: [{ title: 'Long' }] })
    expect(__type).toEqual({
      enumValues: [
        { name: 'easy_going', description: 'Easy' },
        { name: 'hard', description: 'Hard' },
      ],
    })
    await expect(reader.graphql('{ walks(where: { level: { is: easy } }) { count } }')).rejects.toThrow(
      /WalkLevelChoice/,
    )
  })

  it('have whole numbers as Int, and say what is required to publish', async () => {
    const { __type } = await reader.graphql<{
      __type: { fields: { name: string; description: string; type: { name: string } }[] }
    }>('{ __type(name: "Walk") { fields { name description type { name } } } }')
    const field = (name: string) => __type.fields.find((candidate) => candidate.name === name)!
    expect([field('steps').type.name, field('grains').type.name]).toEqual(['Int', 'Float'])
    expect(field('title').description).toBe('Title. Required to publish.')
  })

  it('that are no option any more are left out of GraphQL, and read by REST as they are', async () => {
    const smaller = files.walk.replace('options: [flat, steep]', 'options: [flat]').replace(', winter]', ']')
    await owner.adoptModel((await owner.compareModel(asFiles({ walk: smaller }))).id)
    expect(await valuesOf({ choices: 'both' })).toMatchObject({
      seasons: [
        { value: '1st', label: 'First' },
        { value: 'winter', label: 'winter' },
      ],
    })
    const { walk } = await reader.graphql(`{ walk(id: "${id}") { seasons stages { level } } }`)
    expect(walk).toEqual({ seasons: ['v1st'], stages: [{ level: null }] })
  })

  it('are printed as asked by the command line', async () => {
    const result = await runIn(
      process.cwd(),
      ['query', 'walk', '--where', 'title = "Long"', '--choices', 'label', '--pick', 'title,level', '--locale', 'nl'],
      { WISTERIA_URL: small.service.baseUrl, WISTERIA_SITE: 'marram', WISTERIA_TOKEN: small.token },
    )
    expect([result.code, result.out]).toEqual([0, expect.stringMatching(/Long +.*Makkelijk/) as string])
  })
})

describe('whole numbers', () => {
  it('fit into 32 bits, unless their range says more', async () => {
    const problem = await refusal<WisteriaProblem>(() =>
      owner.create({ type: 'walk', values: { title: 'Far', steps: 3000000000 } }),
    )
    expect(problem.problems?.[0]?.message).toMatch(
      /must be a whole number from -2147483648 to 2147483647; a larger one needs a `range`/,
    )
  })
})
