import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Service, type Editor } from '@wisteria/client'
import { Database, replayPublished, siteNamed } from '@wisteria/store'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { asFiles, files, settings } from './support/models.js'
import { startProcess, type KillableService } from './support/killing.js'
import { often } from './support/length.js'
import { eventually, ownerOf, startReceiver } from './support/running.js'

const kills = often(25, 200)
const folder = mkdtempSync(join(tmpdir(), 'wisteria-kill-'))

const editorAt = (child: KillableService, token: string): Editor =>
  new Service({ baseUrl: child.baseUrl, token, timeout: 5000 }).site('marram')

let token = ''
const entries: string[] = []
const people: string[] = []
let receiver: Awaited<ReturnType<typeof startReceiver>>

beforeAll(async () => {
  receiver = await startReceiver()
  const child = await startProcess(folder)
  const { token: ownerToken } = await new Service({ baseUrl: child.baseUrl }).setUp({
    code: new URL(child.setUp!).hash.slice(1),
    ...ownerOf,
    site: { name: 'marram', ...settings },
    as: 'token',
  })
  token = ownerToken!
  const editor = editorAt(child, token)
  await editor.adoptModel((await editor.compareModel(asFiles(files))).id)
  await editor.webhooks.create({ label: 'Site', address: receiver.address })
  for (let index = 0; index < 6; index++)
    entries.push(
      (await editor.create({ type: 'museum', values: { name: { en: `M${index}`, nl: `M${index}` }, town: '0' } })).id,
    )
  for (let index = 0; index < 12; index++)
    people.push((await editor.create({ type: 'person', values: { name: `P${index}` } })).id)
  child.process.kill('SIGTERM')
  await child.ended
})
afterAll(async () => {
  await receiver.stop()
  rmSync(folder, { recursive: true, force: true })
})

describe('killed at random moments of publishing', () => {
  it(`loses nothing acknowledged, has nothing half public, and misses no event, ${kills} times`, async () => {
    /** By entry: the highest number that a publish was acknowledged for. */
    const acknowledged = new Map<string, number>()
    let inside = 0
    let attempts = 0
    let number = 0
    let child = await startProcess(folder)
    for (let kill = 0; kill < kills; kill++) {
      const editor = editorAt(child, token)
      let isOver = false
      const writers = entries.map(async (id) => {
        while (!isOver) {
          const town = ++number
          attempts++
          const now = await editor.entry(id).catch(() => undefined)
          const saved =
            now &&
            (await editor
              .patch(id, now.version, { town: String(town), name: { en: `Museum ${town}`, nl: `Museum ${town}` } })
              .catch(() => undefined))
          const published = saved && (await editor.publish(id, { version: saved.version }).catch(() => undefined))
          if (published) acknowledged.set(id, town)
        }
      })
      // Beside them, many at once, and something that is due in a moment.
      if (kill % 4 === 0) {
        const at = new Date(Date.now() + 60).toISOString()
        writers.push(
          editor.bulk({ do: kill % 8 === 0 ? 'publish' : 'withdraw', ids: people }).then(ignore, ignore),
          editor.schedule(people[kill % people.length]!, { does: 'publish', at }).then(ignore, ignore),
        )
      }
      await new Promise((resolve) => setTimeout(resolve, 20 + Math.random() * 180))
      child.process.kill('SIGKILL')
      isOver = true
      await child.ended
      if (child.phase() === 'begun') inside++
      await Promise.all(writers)
      child = await startProcess(folder)
      const again = editorAt(child, token)
      const key = kill === 0 ? await again.createKey({ label: 'r', scope: 'published' }) : undefined
      if (key) readKey = key.secret
      for (const id of entries) {
        const least = acknowledged.get(id)
        if (least === undefined) continue
        const answers = await Promise.all(
          ['en', 'nl', 'nl-BE', 'ar'].map(
            async (locale) =>
              (
                await fetch(`${child.baseUrl}/read/v1/marram/entries/museum/${id}?locale=${locale}`, {
                  headers: { Authorization: `Bearer ${readKey}` },
                })
              ).json() as Promise<{ values: { town: string; name: string } }>,
          ),
        )
        const towns = new Set(answers.map((answer) => answer.values.town))
        expect(towns.size, 'every locale is of the same publish').toBe(1)
        const town = Number([...towns][0])
        expect(town, 'what was acknowledged is public').toBeGreaterThanOrEqual(least)
        for (const { values } of answers) expect(values.name).toBe(`Museum ${town}`)
      }
    }
    // Interrupted work is finished, each entry of it once; schedules are done, or have a reason.
    const last = editorAt(child, token)
    const ended = await eventually(
      async () => ({ jobs: (await last.jobs()).jobs, plans: (await last.schedules()).schedules }),
      ({ jobs, plans }) => plans.length === 0 && jobs.every((job) => job.state !== 'running'),
      60,
    )
    expect(ended.jobs.length).toBeGreaterThan(0)
    for (const job of ended.jobs) {
      const { items } = await last.bulkItems(job.id)
      expect([job.state, items.length]).toEqual(['done', people.length])
      expect(items.map((item) => item.entry)).toEqual(people)
    }
    child.process.kill('SIGTERM')
    await child.ended

    const database = await Database.open({ file: join(folder, 'wisteria.db') })
    const site = (await siteNamed(database, 'marram'))!
    expect(await database.all('pragma integrity_check')).toEqual([{ integrity_check: 'ok' }])
    const events = await database.all<{ sequence: number }>('select sequence from events order by sequence')
    expect(events.map((event) => event.sequence)).toEqual(
      Array.from({ length: site.sequence }, (_, index) => index + 1),
    )
    expect(
      await database.all(
        'select id from publications p where not exists (select 1 from events e where e.sequence = p.sequence and e.entry = p.entry)',
      ),
    ).toEqual([])
    expect(
      await database.all(
        "select sequence from events where type = 'entry.published' and sequence not in (select sequence from publications)",
      ),
    ).toEqual([])
    expect(
      await database.all(
        "select sequence from events e where type = 'entry.published' and not exists (select 1 from deliveries d where d.sequence = e.sequence)",
      ),
    ).toEqual([])
    expect(
      await database.all(
        'select e.id from entries e where not exists (select 1 from revisions r where r.entry = e.id and r.number = e.revision)',
      ),
    ).toEqual([])
    const replayed = (await replayPublished(database, site))
      .map(({ entry, locale, doc, updated_at }) => [entry, locale, doc, updated_at].join(' '))
      .sort()
    const stored = (
      await database.all<{ entry: string; locale: string; doc: string; updated_at: string }>(
        'select entry, locale, doc, updated_at from published',
      )
    )
      .map(({ entry, locale, doc, updated_at }) => [entry, locale, doc, updated_at].join(' '))
      .sort()
    expect(stored).toEqual(replayed)
    await database.close()

    console.log(`${kills} kills during ${attempts} tries to publish; ${inside} of them in the middle of a transaction`)
    expect(inside, 'some kills must hit the middle of a transaction, or this tests nothing').toBeGreaterThan(0)
  })
})

let readKey = ''
const ignore = (): void => undefined
