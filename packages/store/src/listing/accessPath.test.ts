import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { readCondition, type Condition, type WisteriaError } from '@wisteria/core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { model, refusal, type } from '../../../../e2e/support/models.js'
import { Database } from '../connection/database.js'
import type { Binding, Reader } from '../connection/reader.js'
import { factExpression } from '../projections/editionTables.js'
import { countEntries, listEntries } from './listing.js'
import type { ListQuery, Position, SortKey } from './query.js'
import { fewRows, accessPathOf } from './accessPath.js'

const folder = mkdtempSync(join(tmpdir(), 'wisteria-serving-'))
const activity = type('activity')
const fieldOf = (name: string) => activity.fields.find((field) => field.name === name)!.id
const [price, title, format] = ['price', 'title', 'format'].map(fieldOf) as [string, string, string]
const count = fewRows + 1_500
const entryAt = (index: number): string => `entry${String(index).padStart(6, '0')}`
let database: Database

/** Seven rows share a price, and every third is a walk; titles repeat every thousand rows. */
const factsOf = (index: number) => ({
  [price]: Math.floor(index / 7),
  [title]: `find ${index % 1000}`,
  [format]: index % 3 === 0 ? 'walk' : 'talk',
})

beforeAll(async () => {
  database = await Database.open({ file: join(folder, 'test.db') })
  await database.write(async ({ run }) => {
    await run('pragma defer_foreign_keys = on')
    await run("insert into sites values ('site1', 'test', 0, 1, 1, 0, 0, 'e', '', 'site1', null)")
    for (let index = 0; index < count; index++) {
      await run(
        "insert into entries (id, site, type, version, revision, created_at, created_by, updated_at, updated_by, mergeable_from) values (?, 'site1', ?, 1, 1, '', '', '', '', 1)",
        [entryAt(index), activity.id],
      )
      await run(
        `insert into published (assets, projection, type, entry, locale, doc, facts, refs, path, title, published_at, updated_at) values ('[]', 'site1', ?, ?, 'en', '{}', ?, '[]', null, '', '2031', '2031')`,
        [activity.id, entryAt(index), JSON.stringify(factsOf(index))],
      )
    }
    for (const [name, field] of [
      ['price', price],
      ['title', title],
    ])
      await run(
        `create index fact_test_${name} on published (projection, locale, ${factExpression(field!)}, entry) where type = '${activity.id}'`,
      )
    await run(`create index fact_test_entry on published (projection, locale, entry) where type = '${activity.id}'`)
  })
})
afterAll(async () => {
  await database.close()
  rmSync(folder, { recursive: true, force: true })
})

const where = (text: string): Condition =>
  readCondition(text, { model, owners: [activity], systemFacts: ['id'], timeZone: 'UTC' }).condition
const by = (field: string, descending = false): SortKey => ({ by: { field }, descending, name: field })
const query = (more: Partial<Omit<ListQuery, 'edition'>>): ListQuery & { edition: 'published' } => ({
  edition: 'published',
  projection: 'site1',
  type: activity.id,
  locale: 'en',
  moment: { now: 0, timeZone: 'UTC' },
  sort: [],
  limit: 20,
  indexed: new Set([price, title]),
  budget: 1_000,
  ...more,
})

/** A reader that prints SQLite's plan of a query. */
function watched(plans: string[]): Reader {
  return {
    tables: database.tables,
    all: async <Row>(sql: string, bindings?: readonly Binding[]) => {
      plans.push(
        ...(await database.all<{ detail: string }>('explain query plan ' + sql, bindings)).map(({ detail }) => detail),
      )
      return database.all<Row>(sql, bindings)
    },
  }
}

describe('how a list is found', () => {
  it.each([
    ['as it stands, in the order of an index', {}, 'plain'],
    [
      'as it stands, where the sorted field is all that is asked',
      { condition: where('price > 3'), sort: [by(price)] },
      'plain',
    ],
    [
      'from the few that an index finds',
      { condition: where('title = "find 7" and format = "talk"'), sort: [by(price)] },
      'few',
    ],
    [
      'from the entries that it names',
      { condition: where(`format = "talk" and entry.id in ["${entryAt(3)}", "${entryAt(9)}"]`), sort: [by(price)] },
      'few',
    ],
    ['by walking, where no index serves what is asked', { condition: where('format = "walk"') }, 'walk'],
    [
      'by walking, where the index finds too many',
      { condition: where('title starts with "find"'), sort: [by(price)] },
      'walk',
    ],
    ['as it stands, without a budget', { condition: where('format = "walk"'), budget: undefined }, 'plain'],
  ] as const)('is %s', async (_, more, is) => {
    expect((await accessPathOf(database, query(more as Partial<ListQuery>))).is).toBe(is)
  })

  it('looks the few up by their ids, and sorts only those', async () => {
    const plans: string[] = []
    const { rows } = await listEntries(
      watched(plans),
      query({ condition: where('title = "find 7"'), sort: [by(format), by(price)] }),
    )
    expect(rows.map(({ entry }) => entry)).toHaveLength(Math.ceil((count - 7) / 1000))
    expect(
      plans.some((step) =>
        /SEARCH p USING INDEX sqlite_autoindex_published_1 \(projection=\? AND entry=\? AND locale=\?\)/.test(step),
      ),
    ).toBe(true)
    expect(plans.filter((step) => /^SCAN p\b/.test(step))).toEqual([])
  })

  it('walks in the order of the list and stops, without sorting what it walked', async () => {
    const plans: string[] = []
    await listEntries(watched(plans), query({ condition: where('format = "walk"'), sort: [by(price)] }))
    expect(plans.some((step) => step.startsWith('CO-ROUTINE'))).toBe(true)
    expect(plans.filter((step) => step.includes('TEMP B-TREE'))).toEqual([])
  })
})

describe('pages that end because so much was looked at', () => {
  it.each([
    ['by the entry', []],
    ['by an indexed field', [by(price)]],
    ['downwards', [by(price, true)]],
  ] as const)('go on until everything has been found, each once and in order, %s', async (_, sort) => {
    const asked = query({
      condition: where('title = "find 77" or title = "find 78" or format = "walk" and price < 40'),
      sort,
      budget: 500,
      limit: 30,
    })
    const wanted = Array.from({ length: count }, (__, index) => index).filter(
      (index) => [77, 78].includes(index % 1000) || (index % 3 === 0 && Math.floor(index / 7) < 40),
    )
    const seen: string[] = []
    let partial = 0
    let after: Position | undefined
    do {
      const page = await listEntries(database, { ...asked, after })
      seen.push(...page.rows.map(({ entry }) => entry))
      if (page.isPartial) partial++
      after = page.next
    } while (after)
    const inOrder = wanted.map(entryAt)
    expect(seen).toEqual(sort[0]?.descending ? inOrder.reverse() : inOrder)
    expect(partial).toBeGreaterThan(2)
  })
})

describe('what would look through everything', () => {
  it('is refused where an order or a count would need it, and says what would help', async () => {
    const sorted = await refusal<WisteriaError>(() => listEntries(database, query({ sort: [by(format)] })))
    expect([sorted.code, sorted.message]).toEqual([
      'tooCostly',
      expect.stringMatching(/no index serves it.*`indexed: true`/),
    ])
    const counted = await refusal<WisteriaError>(() =>
      countEntries(database, query({ condition: where('format = "walk"') })),
    )
    expect(counted.code).toBe('tooCostly')
  })
  it('is counted where an index does it', async () => {
    expect(await countEntries(database, query({ condition: where('price >= 3 ') }))).toBe(count - 21)
    expect(await countEntries(database, query({}))).toBe(count)
    expect(
      await countEntries(database, query({ condition: where('title = "find 7" and format = "talk"') })),
    ).toBeGreaterThan(0)
  })
})
