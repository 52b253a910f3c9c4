import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { model, settings } from '../../../../e2e/support/models.js'
import { asAdopted, buildBatch, unbuilt } from '../adoption/building.js'
import { Database } from '../connection/database.js'
import type { Reader } from '../connection/reader.js'
import { addFactIndexes } from '../projections/factIndexes.js'
import { countEntries, listEntries } from './listing.js'
import { publicHistoriesOf } from '../publications/publicHistory.js'
import { bestMatches } from './search.js'
import type { Site } from '../sites/sites.js'
import { workingCopiesOf } from '../entries/workingCopies.js'

const folder = mkdtempSync(join(tmpdir(), 'wisteria-plans-'))
let database: Database
const museum = model.types.find((type) => type.name === 'museum')!
const site = { id: 'site1', name: 'marram', projection: 'projection1', model, settings } as unknown as Site
const ids = Array.from({ length: 40 }, (_, index) => `entry${String(index).padStart(3, '0')}`)

beforeAll(async () => {
  database = await Database.open({ file: join(folder, 'test.db') })
  await database.write(async ({ run }) => {
    await run('pragma defer_foreign_keys = on')
    await run("insert into sites values ('site1', 'marram', 0, 1, 1, 0, 0, 'e', '', 'projection1', null)")
    for (const id of ids) {
      await run(
        "insert into entries (id, site, type, version, revision, created_at, created_by, updated_at, updated_by, mergeable_from) values (?, 'site1', ?, 1, 1, '', '', '', '', 1)",
        [id, museum.id],
      )
      await run("insert into revisions values (?, 1, 'site1', '{}', 1, 1, '', '', '', '', null)", [id])
      await run(
        "insert into publications (site, entry, layer, revision, model_version, sequence, at, actor, action) values ('site1', ?, '*', 1, 1, 1, '', '', '')",
        [id],
      )
    }
  })
})
afterAll(async () => {
  await database.close()
  rmSync(folder, { recursive: true, force: true })
})

/** Reads SQLite's plan of every query. */
function watched<Own extends Reader>(reader: Own, plans: Set<string>): Own {
  return {
    ...reader,
    all: async <Row>(sql: string, bindings?: readonly (string | number | null)[]) => {
      const steps = await reader.all<{ detail: string }>('explain query plan ' + sql, bindings)
      for (const { detail } of steps) plans.add(detail)
      return reader.all<Row>(sql, bindings)
    },
  }
}

describe('what is named by its id', () => {
  it('is found by its id, and nothing walks the entries of a site, however many there are', async () => {
    const plans = new Set<string>()
    await database.write(async (transaction) => {
      const reader = watched(transaction, plans)
      expect((await workingCopiesOf(reader, site, ids)).size).toBe(40)
      expect(
        (
          await publicHistoriesOf(
            reader,
            site,
            ids.map((id) => ({ id, type: museum })),
          )
        ).size,
      ).toBe(40)
      const built = await buildBatch(reader, site, asAdopted(site, model, settings, 'projection2'), unbuilt, 20, '2031')
      expect(built).toMatchObject({ phase: 'all', after: ids[19], done: 20 })
    })
    const tables = [...plans].filter((step) => /^(SEARCH|SCAN)/.test(step) && !step.includes('VIRTUAL TABLE'))
    expect(tables.length).toBeGreaterThan(3)
    expect(tables.filter((step) => !/\((.* AND )?(id|entry)[=>]\?/.test(step))).toEqual([])
  })
})

describe('archived entries', () => {
  it('is left out of lists and counts without reading a row for it', async () => {
    const query = {
      edition: 'draft',
      projection: site.projection,
      type: museum.id,
      locale: 'en',
      withoutArchived: true,
      moment: { now: 0, timeZone: 'UTC' },
    } as const
    await database.write((transaction) => addFactIndexes(transaction, model))
    const plans = new Set<string>()
    await countEntries(watched(database, plans), query)
    expect([...plans].some((step) => /USING COVERING INDEX fact_drafts/.test(step))).toBe(true)
    const listed = new Set<string>()
    await listEntries(watched(database, listed), {
      ...query,
      sort: [{ by: { system: 'updated' }, descending: true }],
      limit: 5,
    })
    expect([...listed].some((step) => /USING INDEX fact_drafts_\w+_updated/.test(step))).toBe(true)
    expect([...plans, ...listed].filter((step) => /^SCAN (entries|p)\b(?!.*INDEX)/.test(step))).toEqual([])
  })
})

describe('what is found by its words', () => {
  it('is looked up from the words, whatever else a site holds', async () => {
    const plans = new Set<string>()
    const reader = watched(database, plans)
    const asked = { type: undefined, locales: ['en'], limit: 5 }
    await bestMatches(reader, site.projection, '"tide"*', asked)
    await bestMatches(reader, site.projection, '"tide"*', { ...asked, type: museum.id })
    await countEntries(reader, {
      edition: 'draft',
      projection: site.projection,
      type: museum.id,
      locale: 'en',
      words: '"tide"*',
      moment: { now: 0, timeZone: 'UTC' },
    })
    expect([...plans].some((step) => /SEARCH t USING INTEGER PRIMARY KEY/.test(step))).toBe(true)
    // `=` in the plan of a virtual table: read once for each row.
    expect([...plans].filter((step) => /SEARCH t .*projection=|VIRTUAL TABLE INDEX \d+:=/.test(step))).toEqual([])
  })
})
