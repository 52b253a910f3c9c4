import { mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Service } from '@wisteria/client'
import { strFromU8, unzipSync } from 'fflate'
import { afterAll, expect, it } from 'vitest'
import { setUpProcess, startProcess } from './support/killing.js'
import { often } from './support/length.js'
import { startSmall } from './support/running.js'

const entries = often(400, 4_000)
const kills = often(4, 12)
const folder = mkdtempSync(join(tmpdir(), 'wisteria-kill-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const partsOf = async (site: ReturnType<Service['site']>) =>
  Object.fromEntries(
    Object.entries(unzipSync(new Uint8Array(await (await site.archives.export()).arrayBuffer()))).map(
      ([name, bytes]) => [name, strFromU8(bytes).replace(/"account:\w+"|"elsewhere:[^"]*"/g, '""')],
    ),
  )

it(`an import of an archive with ${entries} entries that is killed ${kills} times ends whole`, async () => {
  const source = await startSmall()
  const { owner } = source
  for (let index = 0; index < entries; index += 1)
    await owner.create({ type: 'museum', values: { name: { en: `Museum ${index}` }, slug: { en: `m-${index}` } } })
  await owner.waitFor(await owner.bulk({ do: 'publish', type: 'museum', where: 'town has no value' }))
  for (let index = 0; index < 12; index++) await owner.uploadAsset(`${index}.txt`, new Blob([`Note ${index}.`]))
  const archive = await (await owner.archives.export()).blob()

  let child = await startProcess(folder)
  const token = await setUpProcess(child)
  const siteOf = () => new Service({ baseUrl: child.baseUrl, token }).site('marram')
  let site = siteOf()
  const { job } = await site.archives.import(archive)
  for (let kill = 1; kill <= kills; kill++) {
    const least = (job.total * kill) / (kills + 1)
    for (let now = await site.job(job.id); now.done < least && now.state === 'running'; now = await site.job(job.id))
      continue
    child.process.kill('SIGKILL')
    await child.ended
    child = await startProcess(folder)
    site = siteOf()
  }
  expect(await site.waitFor(job)).toMatchObject({ state: 'done' })
  const [before, after] = [await partsOf(owner), await partsOf(site)]
  for (const part of Object.keys(before).filter((name) => !/^(people.jsonl|archive.json)$/.test(name)))
    expect(after[part] === before[part], part).toBe(true)
  expect(readdirSync(join(folder, 'archives'))).toEqual([])
  child.process.kill('SIGTERM')
  await child.ended
  await source.service.end()
})
