import { typeNamed } from '@wisteria/core'
import { Database, siteNamed, type Site } from '@wisteria/store'
import {
  execute,
  getNamedType,
  isAbstractType,
  isObjectType,
  parse,
  specifiedRules,
  validate,
  type GraphQLField,
  type GraphQLNamedType,
  type GraphQLObjectType,
} from 'graphql'
import { join } from 'node:path'
import { pino } from 'pino'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startDemo, type DemoWorld } from '../../../../../e2e/support/running.js'
import { Kernel } from '../../kernel/kernel.js'
import { readOptions } from '../../kernel/options.js'
import { withinLimits } from './limits.js'
import { Reading } from './reading.js'
import { answerQuery, planOf, schemaOf } from './answer.js'
import { runFast } from './fastPath.js'

let demo: DemoWorld
let database: Database
let kernel: Kernel
let site: Site

beforeAll(async () => {
  demo = await startDemo()
  database = await Database.open({ file: join(demo.service.folder, 'wisteria.db') })
  kernel = new Kernel(database, readOptions({ data: demo.service.folder }, {}), pino({ level: 'silent' }))
  kernel.baseUrl = demo.service.baseUrl
  site = (await siteNamed(database, 'marram'))!
}, 120_000)
afterAll(async () => {
  await database.close()
  await demo.service.end()
})

/** The same numbers for the same seed, from 0 to below 1. */
function numbers(seed: number): () => number {
  let state = seed
  return () => {
    state = (state * 1_664_525 + 1_013_904_223) % 2 ** 32
    return state / 2 ** 32
  }
}

/** A random query of the schema, with fragments, other names, directives and selections that merge. */
function randomQuery(seed: number): { query: string; variables: Record<string, unknown> } {
  const schema = schemaOf(site.model)
  const next = numbers(seed)
  const chance = (share: number): boolean => next() < share
  const oneOf = <One>(all: readonly One[]): One => all[Math.floor(next() * all.length)]!
  const fragments: string[] = []
  const variables = { yes: true, no: false, maybe: chance(0.5) }
  let names = 0

  const fieldText = (field: GraphQLField<unknown, unknown>, depth: number): string => {
    const named = getNamedType(field.type)
    const isLeaf = !isObjectType(named) && !isAbstractType(named)
    const alias = chance(0.2) ? `a${names++}: ` : ''
    const directive = chance(0.1) ? ` @${oneOf(['skip', 'include'])}(if: $${oneOf(['yes', 'no', 'maybe'])})` : ''
    const args = field.args.some(({ name }) => name === 'first') ? `(first: ${1 + Math.floor(next() * 4)})` : ''
    return `${alias}${field.name}${args}${directive}${isLeaf ? '' : ` ${selection(named, depth - 1)}`}`
  }
  const selection = (type: GraphQLNamedType, depth: number): string => {
    const parts: string[] = chance(0.3) ? ['__typename'] : []
    if (isAbstractType(type)) {
      parts.push('__typename')
      const possible = schema.getPossibleTypes(type)
      for (const type of possible.filter(() => chance(0.7))) parts.push(`... on ${type.name} ${selection(type, depth)}`)
      return `{ ${parts.join(' ')} }`
    }
    const object = type as GraphQLObjectType
    const all = Object.values(object.getFields()).filter(
      (field) => depth > 0 || (!isObjectType(getNamedType(field.type)) && !isAbstractType(getNamedType(field.type))),
    )
    const chosen = all.filter(({ name }) => chance(name === 'usedBy' || name === 'paths' ? 0.03 : 0.4)).slice(0, 8)
    for (const field of chosen) parts.push(fieldText(field, depth))
    // The same field again, under the same key: the selections are merged.
    const again = chosen.find((field) => isObjectType(getNamedType(field.type)) && field.args.length === 0)
    if (again && chance(0.3)) parts.push(`${again.name} ${selection(getNamedType(again.type), Math.max(0, depth - 1))}`)
    if (parts.length === 0) parts.push('__typename')
    if (chance(0.2)) {
      const name = `F${names++}`
      fragments.push(`fragment ${name} on ${object.name} { ${parts.join(' ')} }`)
      return `{ ...${name} ${chance(0.5) ? `... @include(if: $maybe) { __typename }` : ''} }`
    }
    return `{ ${parts.join(' ')} }`
  }

  const roots = Object.values(schema.getQueryType()!.getFields()).filter((field) => field.name !== 'at')
  const parts = Array.from({ length: chance(0.2) ? 2 : 1 }, (_, index) => {
    const field = oneOf(roots)
    const isList = field.args.some(({ name }) => name === 'first')
    const needsId = field.args.some(({ name }) => name === 'id')
    const locale = `locale: "${oneOf(['en', 'nl', 'ar'])}"`
    const edition = chance(0.2) ? ', edition: DRAFT' : ''
    const type = site.model.types.find(({ graphql }) => graphql.one === field.name)
    const how = isList
      ? `(first: ${1 + Math.floor(next() * 6)}, ${locale}${edition}${chance(0.3) ? ', sort: ["-entry.updated"]' : ''})`
      : needsId
        ? `(id: "${oneOf(ids.get(type!.name) ?? ['0'])}", ${locale}${edition})`
        : `(${locale}${edition})`
    return `r${index}: ${field.name}${how} ${selection(getNamedType(field.type), 4)}`
  })
  const query = `query ($yes: Boolean! = true, $no: Boolean! = false, $maybe: Boolean!) {
    unused: __typename @skip(if: $yes) other: __typename @include(if: $no) last: __typename @skip(if: $maybe) ${parts.join('\n')} }\n${fragments.join('\n')}`
  return { query, variables: { maybe: variables.maybe } }
}

const ids = new Map<string, string[]>()
beforeAll(async () => {
  for (const { type, entry } of await database.all<{ type: string; entry: string }>(
    'select distinct type, entry from published where projection = ?',
    [site.projection],
  )) {
    const { name } = site.model.types.find(({ id }) => id === type)!
    ids.set(name, [...(ids.get(name) ?? []), entry])
  }
})

const readingFor = () => new Reading(kernel, site, { is: 'key', key: 'k', scope: 'draft' })

describe('the fast way of answering GraphQL', () => {
  it('answers as the reference executor does, and depends on the same, whatever is asked', async () => {
    const schema = schemaOf(site.model)
    let covered = 0
    let asked = 0
    for (let seed = 1; seed <= 400; seed++) {
      const { query, variables } = randomQuery(seed)
      const document = parse(query)
      // Selections that cannot be merged are refused before either of them runs.
      if (validate(schema, document, [...specifiedRules, withinLimits]).length > 0) continue
      asked++
      const args = { schema, document, variableValues: variables, operationName: null }
      const plan = planOf(args)
      const reading = readingFor()
      const fast = plan && (await runFast(schema, plan, reading, variables))
      if (!fast) continue
      covered++
      const reference = readingFor()
      const wanted = await execute({ ...args, contextValue: reference })
      expect(JSON.stringify(fast.data), query).toBe(JSON.stringify(wanted.data))
      expect(wanted.errors, query).toBeUndefined()
      const dependsOn = ({ depends, drafts, until }: Reading) => ({
        groups: depends.groups().sort(),
        drafts,
        until,
      })
      expect(dependsOn(reading), query).toEqual(dependsOn(reference))
    }
    expect(asked).toBeGreaterThan(250)
    expect(covered / asked).toBeGreaterThan(0.5)
  }, 120_000)

  it('leaves what it does not cover, and what goes wrong, to the reference executor', async () => {
    const schema = schemaOf(site.model)
    const planned = (query: string) => planOf({ schema, document: parse(query), variableValues: {} })
    expect(planned('{ museums { nodes { name } } }')).toBeDefined()
    expect(planned('{ museums { count } }')).toBeUndefined()
    expect(planned('{ museums { nodes { paths { path } } } }')).toBeUndefined()
    expect(planned('{ __schema { queryType { name } } }')).toBeUndefined()
    const answered = await answerQuery({
      schema,
      document: parse('{ museums(after: "nonsense") { nodes { name } } }'),
      contextValue: readingFor(),
    })
    expect(answered.errors?.[0]?.message).toMatch(/`after` is not a cursor/)
    const forbidden = await answerQuery({
      schema,
      document: parse('{ museums(edition: DRAFT) { nodes { name } } }'),
      contextValue: new Reading(kernel, site, { is: 'nobody' }),
    })
    expect(forbidden.errors).toHaveLength(1)
  })

  it('notes the fields that are read, under the names they were asked by', async () => {
    const reading = readingFor()
    const noted: string[] = []
    reading.noteKept = ({ type, field, name }) => void noted.push(`${type} ${field} ${name}`)
    await answerQuery({
      schema: schemaOf(site.model),
      document: parse('{ activities(first: 1) { nodes { heading: title museum { name } } } }'),
      contextValue: reading,
    })
    const [activity, museum] = ['activity', 'museum'].map((name) => typeNamed(site.model, name)!)
    const idOf = (type: typeof activity, name: string) => type!.fields.find((field) => field.name === name)!.id
    expect([...new Set(noted)].sort()).toEqual(
      [
        `${activity!.id} ${idOf(activity, 'title')} title`,
        `${activity!.id} ${idOf(activity, 'museum')} museum`,
        `${museum!.id} ${idOf(museum, 'name')} name`,
      ].sort(),
    )
  })
})
