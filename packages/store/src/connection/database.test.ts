import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Database } from './database.js'
import type { Transaction } from './reader.js'

const folder = mkdtempSync(join(tmpdir(), 'wisteria-database-'))
let database: Database
beforeAll(async () => void (database = await Database.open({ file: join(folder, 'wisteria.db') })))
afterAll(async () => {
  await database.close()
  rmSync(folder, { recursive: true, force: true })
})

/** 1: a commit may still be on its way to the disk; 2: it is on the disk. */
const syncOf = async ({ all }: Transaction): Promise<unknown> =>
  (await all<{ synchronous: number }>('pragma synchronous'))[0]?.synchronous

describe('a transaction', () => {
  it('waits for the disk, but for one that can be done again', async () => {
    expect(await database.write(syncOf)).toBe(2)
    // The next transaction waits for the disk again, also after a failed one.
    const [repeated, next] = await Promise.all([database.write(syncOf, true), database.write(syncOf)])
    expect([repeated, next]).toEqual([1, 2])
    await expect(database.write(() => Promise.reject(new Error('no')), true)).rejects.toThrow('no')
    expect(await database.write(syncOf)).toBe(2)
  })
})
