import { join } from 'node:path'
import { Database } from '@wisteria/store'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { often } from './support/length.js'
import { act, liveThrough } from './support/histories.js'
import { asFiles, files } from './support/models.js'
import { startSmall, type SmallSite } from './support/running.js'

let small: SmallSite
let database: Database

beforeAll(async () => {
  small = await startSmall()
  database = await Database.open({ file: join(small.service.folder, 'wisteria.db') })
})
afterAll(async () => {
  await database.close()
  await small.service.end()
})

/** Everything that readers of the published edition can ever be answered from, byte for byte. */
async function publicBytes(): Promise<string> {
  const tables = ['published', 'published_values', 'published_refs']
  const parts = await Promise.all(
    tables.map(async (table) =>
      (await database.all<object>(`select * from ${table}`)).map((row) => JSON.stringify(row)).sort(),
    ),
  )
  return JSON.stringify(parts, null, 1)
}

describe('the published edition', () => {
  it('comes out the same, byte for byte, when it is thrown away and rebuilt after any history, over two models and settings', async () => {
    const { owner } = small
    let compared = 0
    await fc.assert(
      fc.asyncProperty(
        fc.array(act, { minLength: 15, maxLength: 40 }),
        fc.integer({ min: 0, max: 1000 }),
        async (acts, round) => {
          await liveThrough(owner, acts, round)
          const before = await publicBytes()
          await owner.rebuild()
          expect(await publicBytes()).toBe(before)
          compared += before.length
        },
      ),
      { numRuns: often(6, 40) },
    )
    // In some histories nothing is public at the end; not in all.
    expect(compared).toBeGreaterThan(1000)
  }, 300_000)

  it('also when fields were reshaped between one publish and the next, there and back', async () => {
    const { owner } = small
    const forms = [
      '{ kind: text }',
      '{ kind: number }',
      '{ kind: text, many: true }',
      '{ kind: text, localized: true }',
      '{ kind: longText }',
    ]
    const adopt = async (form: string) => {
      const thing = `type: thing\nfields:\n  name: { kind: text, localized: true }\n  x: ${form}\n  more: { kind: group, many: true, fields: { y: ${form} } }\n`
      const proposal = await owner.compareModel(asFiles({ ...files, thing }))
      expect(proposal.canBeAdopted).toBe(true)
      await owner.adoptModel(proposal.id)
    }
    await adopt(forms[0]!)
    const step = fc.record({
      form: fc.constantFrom(...forms),
      entry: fc.integer({ min: 0, max: 2 }),
      number: fc.integer({ min: 0, max: 99 }),
      locales: fc.constantFrom(['en'], ['nl'], undefined),
    })
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 4, maxLength: 8 }), async (steps) => {
        const ids = await Promise.all(
          [1, 2, 3].map(
            async (number) =>
              (await owner.create({ type: 'thing', values: { name: { en: `Thing ${number}`, nl: `Ding ${number}` } } }))
                .id,
          ),
        )
        for (const { form, entry, number, locales } of steps) {
          await adopt(form)
          const value = form.includes('number') ? number : String(number)
          const wrapped = form.includes('many') ? [value] : form.includes('localized') ? { en: value } : value
          const now = await owner.entry(ids[entry]!)
          await owner.patch(now.id, now.version, {
            x: wrapped,
            more: [{ id: `h${number}`, values: { y: wrapped } }],
          })
          await owner.publish(now.id, locales ? { locales } : {})
        }
        const before = await publicBytes()
        await owner.rebuild()
        expect(await publicBytes()).toBe(before)
      }),
      { numRuns: often(4, 20) },
    )
    await adopt(forms[0]!)
  }, 300_000)

  it('has one current path for every row that has one, and answers to every path that ever was', async () => {
    const rows = await database.all<{ entry: string; locale: string; path: string }>(
      'select entry, locale, path from published where path is not null',
    )
    const paths = await database.all<{ entry: string; locale: string; path: string; current: number }>(
      'select entry, locale, path, current from paths',
    )
    const current = new Map(
      paths.filter((path) => path.current === 1).map((path) => [path.path, `${path.entry} ${path.locale}`]),
    )
    expect(current.size).toBe(rows.length)
    for (const row of rows) expect(current.get(row.path), row.path).toBe(`${row.entry} ${row.locale}`)
  })

  it('tells of every change that a reader could see: no bytes change without an event', async () => {
    const [site] = await database.all<{ sequence: number }>('select sequence from sites')
    const [events] = await database.all<{ count: number; top: number }>(
      'select count(*) as count, max(sequence) as top from events',
    )
    expect([events?.count, events?.top]).toEqual([site?.sequence, site?.sequence])
    const untold = await database.all(
      'select id from publications p where not exists (select 1 from events e where e.site = p.site and e.sequence = p.sequence and e.entry = p.entry)',
    )
    expect(untold).toEqual([])
  })
})
