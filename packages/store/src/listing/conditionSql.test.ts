import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { draftFacts, meets, readCondition, type Candidate, type CheckContext, type Condition } from '@wisteria/core'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { cases, moment, samples, type SampleEntry } from '../../../../e2e/support/conditionCases.js'
import { id, model, type } from '../../../../e2e/support/models.js'
import { conditionToSql } from './conditionSql.js'
import { Database } from '../connection/database.js'
import { addFactIndexes } from '../projections/factIndexes.js'
import { listSql } from './listing.js'
import { often } from '../../../../e2e/support/length.js'

const folder = mkdtempSync(join(tmpdir(), 'wisteria-conditions-'))
let database: Database
const site = 'site1'
const context: CheckContext = {
  model,
  owners: [type('activity')],
  systemFacts: draftFacts,
  timeZone: 'Europe/Amsterdam',
}

/** Puts samples into the rows of drafts, in one locale. */
async function store(entries: readonly SampleEntry[]): Promise<void> {
  await database.write(async ({ run }) => {
    for (const table of ['draft_values', 'draft_refs', 'drafts', 'entries']) await run(`delete from ${table}`)
    for (const entry of entries) {
      await run(
        'insert into entries (id, site, type, version, revision, created_at, created_by, updated_at, updated_by, mergeable_from) values (?, ?, ?, 1, 1, ?, ?, ?, ?, 1)',
        [entry.id, site, type(entry.type).id, '', '', '', ''],
      )
      const single = Object.fromEntries(Object.entries(entry.facts).filter(([, fact]) => !Array.isArray(fact)))
      await run(
        `insert into drafts (assets, projection, type, entry, locale, doc, facts, refs, path, title, published_at, updated_at, state, summary, version) values ('[]', ?, ?, ?, ?, ?, ?, ?, null, ?, ?, ?, ?, ?, 1)`,
        [
          site,
          type(entry.type).id,
          entry.id,
          'en',
          '{}',
          JSON.stringify(single),
          '[]',
          '',
          entry.published,
          entry.updated,
          entry.state,
          entry.state,
        ],
      )
      const references = new Set(
        ['museum', 'speakers'].map((name) => id('activity', name)).concat(id('person', 'home')),
      )
      for (const [field, fact] of Object.entries(entry.facts))
        for (const value of [fact].flat()) {
          if (references.has(field))
            await run('insert into draft_refs values (?, ?, ?, ?, ?, 1)', [site, entry.id, 'en', field, value])
          else if (Array.isArray(fact))
            await run('insert into draft_values values (?, ?, ?, ?, ?)', [site, entry.id, 'en', field, value])
        }
    }
  })
}

/** The matches of a condition, by SQL and by the evaluator. */
async function findIds(condition: Condition): Promise<string[]> {
  const whole = await foundBy(condition, false)
  expect(await foundBy(condition, true)).toEqual(whole)
  return whole
}

async function foundBy(condition: Condition, byRow: boolean): Promise<string[]> {
  const { text, bindings } = conditionToSql(condition, {
    edition: 'draft',
    projection: site,
    locale: 'en',
    moment,
    byRow,
  })
  const rows = await database.all<{ entry: string }>(
    `select p.entry from drafts p where p.projection = '${site}' and p.type = '${type('activity').id}' and p.locale = 'en' and ${text}`,
    bindings,
  )
  return rows.map((row) => row.entry).sort()
}

function evaluated(condition: Condition, entries: readonly SampleEntry[]): string[] {
  const byId = new Map<string, Candidate>()
  for (const entry of entries)
    byId.set(entry.id, {
      id: entry.id,
      facts: entry.facts,
      system: {
        type: type(entry.type).id,
        state: entry.state,
        updated: entry.updated,
        ...(entry.published ? { published: entry.published } : {}),
      },
      elements: () => [],
      follow: (field) => [entry.facts[field] ?? []].flat().flatMap((target) => byId.get(String(target)) ?? []),
    })
  return entries
    .filter((entry) => entry.type === 'activity' && meets(condition, byId.get(entry.id)!, moment))
    .map((entry) => entry.id)
    .sort()
}

beforeAll(async () => {
  database = await Database.open({ file: join(folder, 'test.db') })
  await database.write(async (transaction) => {
    await transaction.run("insert into sites values (?, 'test', 0, 1, 1, 0, 0, 'e', '', 'site1', null)", [site])
    await addFactIndexes(transaction, model)
  })
})
afterAll(async () => {
  await database.close()
  rmSync(folder, { recursive: true })
})

describe('conditions as SQL', () => {
  beforeAll(() => store(samples))
  it.each(cases)('%s', async (text, expected) => {
    expect((await findIds(readCondition(text, context).condition)).map((id) => id.replace(/0+$/, '')).sort()).toEqual(
      expected.split(' ').filter(Boolean).sort(),
    )
  })

  it('never lets a text out of its place', async () => {
    for (const text of ["' or 1=1 --", '%', '_', '"; drop table drafts; --', '\\'])
      expect(await findIds(readCondition(`title contains ${JSON.stringify(text)}`, context).condition)).toEqual([])
  })
})

describe('random entries and conditions', () => {
  const word = fc.constantFrom('dark', 'inside', 'outside', 'café', 'Zee', '')
  const key = fc.constantFrom('p1', 'p2', 'p3', 'm1', 'm2', 'none').map((id) => id + '0'.repeat(20 - id.length))
  const optional = <T>(value: fc.Arbitrary<T>) => fc.option(value, { nil: undefined })
  const sample = (typeName: SampleEntry['type'], fields: Record<string, fc.Arbitrary<unknown>>) =>
    fc.record(fields).map((values) => ({
      type: typeName,
      state: 'public',
      updated: '2031-01-01T10:00:00.000Z',
      published: null,
      facts: Object.fromEntries(
        Object.entries(values).flatMap(([name, value]) => (value === undefined ? [] : [[id(typeName, name), value]])),
      ) as SampleEntry['facts'],
    }))
  const world = fc
    .tuple(
      fc.array(
        sample('activity', {
          title: word,
          format: optional(fc.constantFrom('talk', 'walk')),
          price: optional(fc.constantFrom(0, 0.5, 9)),
          free: optional(fc.constantFrom(0, 1)),
          day: optional(fc.constantFrom('2031-05-04', '2031-05-05')),
          museum: optional(key),
          speakers: fc.uniqueArray(key, { maxLength: 3 }),
          tags: fc.uniqueArray(word, { maxLength: 3 }),
        }),
        { minLength: 1, maxLength: 8 },
      ),
      fc.array(sample('person', { name: word, home: optional(key) }), { minLength: 3, maxLength: 3 }),
      fc.array(sample('museum', { name: word, town: optional(word) }), { minLength: 2, maxLength: 2 }),
    )
    .map(([activities, people, museums]) => {
      const named = (list: Omit<SampleEntry, 'id'>[], letter: string) =>
        list.map((entry, index) => ({ ...entry, id: `${letter}${index + 1}` + '0'.repeat(18) }))
      return [...named(activities, 'a'), ...named(people, 'p'), ...named(museums, 'm')]
    })
  const test = fc.constantFrom(
    'title = "dark"', 'title contains "a"', 'title starts with "d"', 'title has value', 'format = "talk"', 'format != "walk"', 'format in ["talk", "walk"]', 'format has no value',
    'price > 0', 'price <= 0.5', 'price has value', 'free = true', 'free != true', 'day >= today', 'day < today + 1 day', 'museum has value', 'museum.name = "zee"', 'museum.town has no value',
    'museum.town != "dark"', 'speakers has value', 'speakers.name contains "e"', 'speakers.home.name = "cafe"', 'tags = "dark"', 'tags != "inside"', 'tags contains "side"', 'tags has no value',
    'any speakers (name = "dark" and home has value)', 'any speakers (not home.town = "zee")', 'any museum (name != "dark")',
  ) // prettier-ignore
  const condition = fc.letrec<{ all: string }>((tie) => ({
    all: fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      test,
      tie('all').map((text) => `not (${text})`),
      fc.tuple(tie('all'), fc.constantFrom('and', 'or'), tie('all')).map(([a, word, b]) => `(${a} ${word} ${b})`),
    ),
  })).all

  it('agree with the evaluator', async () => {
    await fc.assert(
      fc.asyncProperty(world, fc.array(condition, { minLength: 6, maxLength: 6 }), async (entries, conditions) => {
        await store(entries)
        for (const text of conditions) {
          const read = readCondition(text, context).condition
          expect(await findIds(read), text).toEqual(evaluated(read, entries))
        }
      }),
      { numRuns: often(60, 600) },
    )
  }, 120_000)
})

describe('query plans', () => {
  const plan = async (
    where: string | undefined,
    sort: Parameters<typeof listSql>[0]['sort'] = [],
    phase: 'all' | 'with' | 'without' = 'all',
    after?: Parameters<typeof listSql>[0]['after'],
  ) => {
    const condition = where === undefined ? undefined : readCondition(where, context).condition
    const { text, bindings } = listSql(
      {
        edition: 'published',
        projection: site,
        type: type('activity').id,
        locale: 'en',
        condition,
        moment,
        sort,
        limit: 20,
        after,
      },
      phase,
      21,
    )
    return (await database.all<{ detail: string }>('explain query plan ' + text, bindings))
      .map((row) => row.detail)
      .join('\n')
  }
  const by = (name: string, descending = false) => [{ by: { field: id('activity', name) }, descending }]

  it.each([
    ['format = "walk"', 'format'],
    ['price >= 3 and price < 9', 'price'],
    ['free = true', 'free'],
    ['day = today', 'day'],
    ['starts > now', 'starts'],
  ])('%s seeks in the index of the field', async (where, name) => {
    expect(await plan(where)).toMatch(
      new RegExp(
        `SEARCH p USING INDEX fact_published_${type('activity').id}_${id('activity', name)} \\(projection=\\? AND locale=\\? AND <expr>`,
      ),
    )
  })
  it('a list of values seeks too, when sorted by the field', async () => {
    expect(await plan('day in [2031-05-04, 2031-05-05]', by('day'), 'with')).toMatch(
      /SEARCH p USING INDEX fact_.*\(projection=\? AND locale=\? AND <expr>=\?\)/,
    )
  })
  it('prefixes seek too', async () => {
    const museum = { ...context, owners: [type('museum')] }
    const condition = readCondition('town starts with "oy"', museum).condition
    const { text, bindings } = listSql(
      {
        edition: 'published',
        projection: site,
        type: type('museum').id,
        locale: 'en',
        condition,
        moment,
        sort: [],
        limit: 20,
      },
      'all',
      21,
    )
    const rows = await database.all<{ detail: string }>('explain query plan ' + text, bindings)
    expect(rows[0]?.detail).toMatch(/SEARCH p USING INDEX fact_.*<expr>>\? AND <expr><\?/)
  })
  it.each([
    ['tags = "dark"', 'published_values_by_value'],
    ['museum.name = "x"', 'published_refs'],
    [`museum = "${'0'.repeat(20)}"`, 'published_refs'],
  ])('%s uses a side table', async (where, index) => {
    expect(await plan(where)).toContain(index)
  })
  it.each([false, true])(
    'sorting by an indexed field walks its index without sorting (downwards: %s)',
    async (descending) => {
      const text = await plan(undefined, by('starts', descending), 'with')
      expect(text).toMatch(/USING INDEX fact_published/)
      expect(text).not.toContain('TEMP B-TREE')
    },
  )
  it('paging seeks to where the last page ended', async () => {
    const text = await plan(undefined, by('starts'), 'with', { values: ['2031-01-01'], entry: 'x' })
    expect(text).toMatch(/SEARCH p USING INDEX fact_.*\(projection=\? AND locale=\? AND <expr>>\?\)/)
    expect(text).not.toContain('TEMP B-TREE')
  })
  it('rows without the value are read by the same index', async () => {
    expect(await plan(undefined, by('starts'), 'without')).toMatch(/USING (COVERING )?INDEX fact_/)
  })
  it('a list that is not sorted is in the order of its index', async () => {
    const text = await plan(undefined)
    expect(text).toMatch(/USING (COVERING )?INDEX fact_published_\w+_entry/)
    expect(text).not.toContain('TEMP B-TREE')
  })
})
