import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { readCondition, type Condition, type EditionRow, type Moment, type Projection } from '@wisteria/core'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import {
  evaluated,
  projected,
  ref,
  shapedCases,
  shapedModel,
  shapedType,
  tours,
  type Sent,
} from '../../../../e2e/support/shaped.js'
import { conditionToSql } from './conditionSql.js'
import { Database } from '../connection/database.js'
import { columnsOf, sideRowsOf } from '../projections/editionColumns.js'
import { addFactIndexes } from '../projections/factIndexes.js'
import { writeSideRows } from '../projections/rowWriting.js'
import { often } from '../../../../e2e/support/length.js'

const folder = mkdtempSync(join(tmpdir(), 'wisteria-agreement-'))
let database: Database
const tour = shapedType('tour')

beforeAll(async () => {
  database = await Database.open({ file: join(folder, 'test.db') })
  await database.write(async (transaction) => {
    await transaction.run("insert into sites values ('site1', 'test', 0, 1, 1, 0, 0, 'e', '', 'projection1', null)")
    await addFactIndexes(transaction, shapedModel)
  })
})
afterAll(async () => {
  await database.close()
  rmSync(folder, { recursive: true })
})

/**
 * Puts entries in a projection set as the store does; another projection set has the same entries with other facts, which must not
 * be found.
 */
async function store(projections: ReadonlyMap<string, Projection & { type: string }>): Promise<void> {
  await database.write(async (transaction) => {
    for (const table of ['draft_values', 'draft_refs', 'drafts', 'entries'])
      await transaction.run(`delete from ${table}`)
    for (const [id, { type }] of projections)
      await transaction.run(
        "insert into entries (id, site, type, version, revision, created_at, created_by, updated_at, updated_by, mergeable_from) values (?, 'site1', ?, 1, 1, '', '', '', '', 1)",
        [id, shapedType(type).id],
      )
    for (const [id, stored] of projections) {
      const row: EditionRow = { ...stored, locale: 'nl', contentLocale: 'nl', doc: '{}', path: null, region: null }
      for (const projection of ['projection1', 'projection2']) {
        const columns = {
          projection,
          type: shapedType(stored.type).id,
          entry: id,
          ...columnsOf(row),
          updated_at: '',
          state: 'new',
          summary: 'new',
          version: 1,
        }
        const values = projection === 'projection1' ? columns : { ...columns, facts: '{}' }
        await transaction.run(
          `insert into drafts (${Object.keys(values).join(', ')}) values (${Object.keys(values)
            .map(() => '?')
            .join(', ')})`,
          Object.values(values),
        )
        if (projection === 'projection1')
          await writeSideRows(transaction, 'draft', projection, [{ entry: id, locale: 'nl', side: sideRowsOf(row) }])
      }
    }
  })
}

/** The matches of a condition, by SQL and by the evaluator. */
async function findIds(condition: Condition, moment: Moment): Promise<string[]> {
  const whole = await foundBy(condition, moment, false)
  expect(await foundBy(condition, moment, true)).toEqual(whole)
  return whole
}

async function foundBy(condition: Condition, moment: Moment, byRow: boolean): Promise<string[]> {
  const { text, bindings } = conditionToSql(condition, {
    edition: 'draft',
    projection: 'projection1',
    locale: 'nl',
    moment,
    byRow,
  })
  const rows = await database.all<{ entry: string }>(
    `select p.entry from drafts p where p.projection = 'projection1' and p.type = '${tour.id}' and p.locale = 'nl' and ${text}`,
    bindings,
  )
  return rows.map((row) => row.entry).sort()
}

const context = (timeZone: string) => ({ model: shapedModel, owners: [tour], systemFacts: [], timeZone })

describe('the table of shaped content, in SQL', () => {
  beforeAll(() => store(projected(tours)))
  const moment = { now: Date.parse('2031-05-04T21:30:00Z'), timeZone: 'Europe/Amsterdam' }
  it.each(shapedCases)('%s', async (text, expected) => {
    const all = (await findIds(readCondition(text, context('Europe/Amsterdam')).condition, moment)).map((id) =>
      id.replace(/0+$/, ''),
    )
    expect(all.sort()).toEqual(expected.split(' ').filter(Boolean).sort())
  })
})

describe('random documents and conditions', () => {
  const optional = <T>(value: fc.Arbitrary<T>) => fc.option(value, { nil: undefined })
  const word = fc.constantFrom('dark', 'café', 'Zee', 'x')
  const guide = fc.constantFrom(ref('g1'), ref('g2'), ref('gone'))
  const localized = <T>(value: fc.Arbitrary<T>) =>
    optional(fc.record({ en: value, nl: fc.oneof(value, fc.constant(null)), ar: value }, { requiredKeys: [] }))
  const small = fc.constantFrom(0, 1, 6, 12)
  const drop = (values: Record<string, unknown>) =>
    Object.fromEntries(Object.entries(values).filter(([, value]) => value !== undefined))
  const times = fc.constantFrom(
    '2031-05-03T10:00:00Z',
    '2031-05-03T23:30:00+14:00',
    '2031-05-04T00:00:00-12:00',
    '2031-05-04T21:59:00Z',
    '2031-05-05T11:00:00+05:45',
  )
  const values = fc
    .record({
      title: localized(word),
      format: optional(fc.constantFrom('talk', 'walk', 'concert')),
      takes: optional(fc.constantFrom('PT30M', 'PT90M', 'P1D')),
      starts: optional(times),
      day: optional(fc.constantFrom('2031-05-03', '2031-05-04', '2031-05-05')),
      price: optional(small),
      forAll: optional(fc.boolean()),
      place: optional(fc.constant({ latitude: 1, longitude: 1 })),
      tags: localized(fc.uniqueArray(word, { maxLength: 2 })),
      themes: fc.uniqueArray(fc.constantFrom('sea', 'salt', 'light'), { maxLength: 2 }),
      guides: fc.uniqueArray(guide, { maxLength: 2 }),
      lead: optional(guide),
      venue: optional(
        fc
          .record({
            room: localized(word),
            seats: optional(small),
            door: optional(fc.record({ code: optional(word), keeper: optional(guide) }).map(drop)),
          })
          .map(drop),
      ),
      sessions: fc.array(
        fc
          .record({
            weekday: optional(fc.constantFrom('monday', 'friday')),
            seats: optional(small),
            note: localized(word),
            host: optional(guide),
            stops: fc.array(
              fc.record({ name: optional(word), minutes: optional(small) }).map((step) => ({ values: drop(step) })),
              { maxLength: 2 },
            ),
          })
          .map((step) => ({ values: drop(step) })),
        { maxLength: 3 },
      ),
    })
    .map(drop)
  const world = fc
    .tuple(
      fc.array(values, { minLength: 1, maxLength: 6 }),
      fc.record({ name: word, partner: optional(guide) }).map(drop),
    )
    .map(([all, last]): Sent[] => [
      { id: ref('g1'), type: 'guide', values: { ...last, speaks: ['en'] } },
      { id: ref('g2'), type: 'guide', values: { name: 'Zee', speaks: [] } },
      ...all.map((step, index) => ({ id: ref(`t${index}`), type: 'tour', values: step })),
    ])
  const test = fc.constantFrom(
    'title = "dark"', 'title has no value', 'tags = "zee"', 'tags != "x"', 'tags has value', 'format != "walk"', 'takes >= "PT90M"', 'takes has no value', 'starts >= now', 'starts < today',
    'starts >= today and starts < today + 1 day', 'starts = 2031-05-04', 'day = today', 'day >= today - 1 day', 'day > 2031-05-03', 'price > 1', 'price <= 0', 'price has value', 'forAll = true', 'forAll != true',
    'place has value', 'place has no value', 'themes in ["sea", "salt"]', 'themes != "light"', 'guides has no value', 'guides.name = "zee"', 'lead.partner has value', 'lead.speaks = "en"', 'any guides (name = "dark" or speaks has no value)',
    'venue has value', 'venue.room contains "a"', 'venue.seats >= 6', 'venue.door.code has no value', 'venue.door.keeper.name = "zee"', 'sessions has no value', 'sessions.weekday = "friday"', 'sessions.seats > 5', 'sessions.note has value',
    'sessions.host.name != "dark"', 'sessions.stops.minutes in [0, 12]', 'any sessions (weekday = "friday" and seats > 5)', 'any sessions (not (note has value) and host has value)', 'any sessions (weekday != "friday")',
    'any sessions (host.name = "zee" or host.partner.speaks = "en")', 'any sessions (any stops (name = "dark" and minutes < 7))', 'any sessions (not any stops (minutes = 0))', 'any sessions (stops.name has no value and seats has value)',
  ) // prettier-ignore
  const condition = fc.letrec<{ all: string }>((tie) => ({
    all: fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      test,
      tie('all').map((text) => `not (${text})`),
      fc.tuple(tie('all'), fc.constantFrom('and', 'or'), tie('all')).map(([a, word, b]) => `(${a} ${word} ${b})`),
    ),
  })).all
  // The first and the last time zone, and one with a half hour.
  const zone = fc.constantFrom('Pacific/Kiritimati', 'Etc/GMT+12', 'Europe/Amsterdam', 'Asia/Kathmandu', 'UTC')
  const now = fc
    .constantFrom('2031-05-03T11:59:00Z', '2031-05-03T12:00:00Z', '2031-05-04T09:30:00Z', '2031-05-04T22:00:00Z')
    .map((at) => Date.parse(at))

  it('agree with the evaluator, wherever the site is', async () => {
    await fc.assert(
      fc.asyncProperty(
        world,
        fc.array(condition, { minLength: 8, maxLength: 8 }),
        zone,
        now,
        async (entries, conditions, timeZone, at) => {
          const projections = projected(entries)
          await store(projections)
          const moment = { now: at, timeZone }
          for (const text of conditions) {
            const { condition: read } = readCondition(text, context(timeZone))
            expect(await findIds(read, moment), text).toEqual(evaluated(read, 'tour', projections, moment))
          }
        },
      ),
      { numRuns: often(50, 500) },
    )
  }, 120_000)
})
