import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Database, endJob, insertJob, insertSite, jobWithId, type Job } from '@wisteria/store'
import { afterAll, beforeAll, beforeEach, expect, it, vi } from 'vitest'
import type { Kernel } from '../kernel/kernel.js'
import { Loop } from '../worker/loop.js'
import { Jobs, type JobKind } from './jobs.js'

const folder = mkdtempSync(join(tmpdir(), 'wisteria-jobs-'))
let database: Database
beforeAll(async () => {
  database = await Database.open({ file: join(folder, 'wisteria.db') })
  const settings = { label: 'Test', defaultLocale: 'en', locales: [], timeZone: 'UTC' }
  await database.write(async (transaction) => {
    for (const id of ['one', 'two'])
      await insertSite(transaction, { id, name: id, epoch: 'e', settings }, '2031-01-01', 'a')
  })
})
afterAll(async () => {
  await database.close()
  rmSync(folder, { recursive: true })
})
beforeEach(() => void steps.splice(0))

const steps: string[] = []
const left = new Map<string, number>()
const kernel = {
  get database() {
    return database
  },
  at: '2031-01-02',
  write: (work: Parameters<Database['write']>[0]) => database.write(work),
} as unknown as Kernel
/** A kind whose jobs take a number of steps. */
const counting: JobKind = {
  name: 'counting',
  permission: 'entry.write',
  step: async ({ id }) => {
    steps.push(id)
    const more = left.get(id)! - 1
    left.set(id, more)
    if (more === 0) await database.write((transaction) => endJob(transaction, id, { state: 'done', at: kernel.at }))
    return more > 0
  },
  abandon: () => Promise.resolve(),
}

async function begin(id: string, site: string, takes: number, kind = 'counting'): Promise<void> {
  left.set(id, takes)
  const job: Job = {
    id,
    site,
    kind,
    state: 'running',
    done: 0,
    total: takes,
    task: '{}',
    cursor: '',
    message: '',
    actor: 'a',
    createdAt: id,
    finishedAt: null,
  }
  await database.write((transaction) => insertJob(transaction, job))
}

async function runAll(...ids: string[]): Promise<void> {
  const loop = new Loop(new Jobs(kernel, [counting]), { logger: { error: vi.fn() }, now: Date.now })
  loop.wake()
  await vi.waitFor(async () => {
    for (const id of ids) expect((await jobWithId(database, id))!.state).not.toBe('running')
  })
  await loop.stop()
}

it('a job of one site does not wait for a long one of another', async () => {
  await begin('a1', 'one', 40)
  await begin('a2', 'two', 3)
  await runAll('a1', 'a2')
  expect(steps.lastIndexOf('a2')).toBeLessThan(12)
  expect(steps).toHaveLength(43)
})

it('the jobs of a site are done one after the other, the oldest first', async () => {
  await begin('b2', 'one', 3)
  await begin('b1', 'one', 3)
  await runAll('b1', 'b2')
  expect(steps).toEqual(['b1', 'b1', 'b1', 'b2', 'b2', 'b2'])
})

it('a job of an unknown kind fails, and says why', async () => {
  await begin('c1', 'one', 1, 'importing')
  await runAll('c1')
  expect(await jobWithId(database, 'c1')).toMatchObject({
    state: 'failed',
    message: expect.stringContaining('`importing`') as unknown,
  })
})
