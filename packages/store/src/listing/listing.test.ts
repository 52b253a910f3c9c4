import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { id, type } from '../../../../e2e/support/models.js'
import { Database } from '../connection/database.js'
import { countEntries, listEntries } from './listing.js'
import type { ListQuery, Position, SortKey } from './query.js'
import { often } from '../../../../e2e/support/length.js'

const folder = mkdtempSync(join(tmpdir(), 'wisteria-listing-'))
let database: Database
const site = 'site1'
const museum = type('activity')

interface Row {
  readonly entry: string
  readonly price: number | undefined
  readonly day: string | undefined
}

async function store(rows: readonly Row[]): Promise<void> {
  await database.write(async ({ run }) => {
    await run('delete from published')
    await run('delete from entries')
    for (const { entry, price, day } of rows) {
      await run(
        'insert into entries (id, site, type, version, revision, created_at, created_by, updated_at, updated_by, mergeable_from) values (?, ?, ?, 1, 1, ?, ?, ?, ?, 1)',
        [entry, site, museum.id, '', '', '', ''],
      )
      const facts = {
        ...(price === undefined ? {} : { [id('activity', 'price')]: price }),
        ...(day === undefined ? {} : { [id('activity', 'day')]: day }),
      }
      await run(
        `insert into published (assets, projection, type, entry, locale, doc, facts, refs, path, title, published_at, updated_at) values ('[]', ?, ?, ?, ?, ?, ?, ?, null, ?, ?, ?)`,
        [site, museum.id, entry, 'en', '{}', JSON.stringify(facts), '[]', '', '2031', '2031'],
      )
    }
  })
}

beforeAll(async () => {
  database = await Database.open({ file: join(folder, 'test.db') })
  await database.write(({ run }) =>
    run("insert into sites values (?, 'test', 0, 1, 1, 0, 0, 'e', '', 'site1', null)", [site]),
  )
})
afterAll(async () => {
  await database.close()
  rmSync(folder, { recursive: true })
})

const query = (sort: SortKey[], limit: number, after?: Position): ListQuery & { edition: 'published' } => ({
  edition: 'published',
  projection: site,
  type: museum.id,
  locale: 'en',
  moment: { now: 0, timeZone: 'UTC' },
  sort,
  limit,
  after,
})

/**
 * The expected result of page after page: sorted, missing values last in either direction, ties by entry in the direction of the
 * first key.
 */
function sorted(rows: readonly Row[], keys: readonly { name: 'price' | 'day'; descending: boolean }[]): string[] {
  const backwards = keys[0]?.descending ?? false
  return [...rows]
    .sort((a, b) => {
      for (const { name, descending } of keys) {
        const [left, right] = [a[name], b[name]]
        if (left === right) continue
        if (left === undefined) return 1
        if (right === undefined) return -1
        return (left < right ? -1 : 1) * (descending ? -1 : 1)
      }
      return (a.entry < b.entry ? -1 : 1) * (backwards ? -1 : 1)
    })
    .map((row) => row.entry)
}

describe('lists', () => {
  it('come page by page, each entry once and in order, whatever is sorted by and missing', async () => {
    const row = fc.record({
      price: fc.option(fc.constantFrom(1, 2, 3), { nil: undefined }),
      day: fc.option(fc.constantFrom('2031-01-01', '2031-01-02'), { nil: undefined }),
    })
    const key = fc.record({ name: fc.constantFrom('price' as const, 'day' as const), descending: fc.boolean() })
    await fc.assert(
      fc.asyncProperty(
        fc.array(row, { maxLength: 14 }),
        fc.uniqueArray(key, { maxLength: 2, selector: (sort) => sort.name }),
        fc.integer({ min: 1, max: 5 }),
        async (values, keys, limit) => {
          const rows = values.map((value, index) => ({ entry: `e${String(index).padStart(3, '0')}`, ...value }))
          await store(rows)
          const sort = keys.map(({ name, descending }) => ({ by: { field: id('activity', name) }, descending }))
          const seen: string[] = []
          let after: Position | undefined
          for (let pages = 0; pages < 30; pages++) {
            const page = await listEntries(database, query(sort, limit, after))
            seen.push(...page.rows.map((row) => row.entry))
            expect(page.rows.length).toBeLessThanOrEqual(limit)
            after = page.next
            if (!after) break
          }
          expect(seen).toEqual(sorted(rows, keys))
          const { sort: _, limit: __, after: ___, ...counted } = query(sort, limit)
          expect(await countEntries(database, counted)).toBe(rows.length)
        },
      ),
      { numRuns: often(120, 600) },
    )
  }, 120_000)

  it('go on where they were when entries come and go in between', async () => {
    await store([1, 2, 3, 4].map((price) => ({ entry: `e${price}`, price, day: undefined })))
    const sort = [{ by: { field: id('activity', 'price') }, descending: false }]
    const first = await listEntries(database, query(sort, 2))
    await store([0, 2, 3, 4].map((price) => ({ entry: `e${price}`, price, day: undefined })))
    const second = await listEntries(database, query(sort, 2, first.next))
    expect(second.rows.map((row) => row.entry)).toEqual(['e3', 'e4'])
  })
})

describe('the write queue', () => {
  it('runs one at a time, and leaves nothing of what fails', async () => {
    await store([])
    let inside = 0
    const insert = (entry: string, fails: boolean) =>
      database.write(async ({ run }) => {
        expect(++inside).toBe(1)
        await run(
          'insert into entries (id, site, type, version, revision, created_at, created_by, updated_at, updated_by, mergeable_from) values (?, ?, ?, 1, 1, ?, ?, ?, ?, 1)',
          [entry, site, museum.id, '', '', '', ''],
        )
        await new Promise((resolve) => setImmediate(resolve))
        inside--
        if (fails) throw new Error('no')
      })
    const results = await Promise.allSettled(
      Array.from({ length: 20 }, (_, index) => insert(`w${index}`, index % 3 === 0)),
    )
    expect(results.filter((result) => result.status === 'rejected')).toHaveLength(7)
    expect(await database.all("select id from entries where id like 'w%'")).toHaveLength(13)
  })

  it('is not seen by readers before it commits', async () => {
    await database.write(async ({ run }) => {
      await run(
        'insert into entries (id, site, type, version, revision, created_at, created_by, updated_at, updated_by, mergeable_from) values (?, ?, ?, 1, 1, ?, ?, ?, ?, 1)',
        ['unseen', site, museum.id, '', '', '', ''],
      )
      expect(await database.all("select id from entries where id = 'unseen'")).toEqual([])
    })
    expect(await database.all("select id from entries where id = 'unseen'")).toHaveLength(1)
  })
})
