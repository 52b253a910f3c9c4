import { cpSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { Reader, Service, type Editor } from '@wisteria/client'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { runIn } from './support/commands.js'
import { start, startSmall, type Running, type SmallSite } from './support/running.js'

let small: SmallSite
let service: Running
let copy = ''

beforeAll(async () => {
  small = await startSmall()
  service = small.service
  copy = `${service.folder}.copy`
})
afterAll(async () => {
  await service.end()
  rmSync(copy, { recursive: true, force: true })
})

const owner = (): Editor => new Service({ baseUrl: service.baseUrl, token: small.token }).site('marram')
const publish = async (title: string) =>
  owner().publish((await owner().create({ type: 'page', values: { title: { en: title } } })).id)
const epoch = async () => (await owner().settings()).publicGeneration.split('.')[0]!
const again = async () => (service = await start({}, service.folder))
let secret = ''
const reader = () => new Reader({ baseUrl: service.baseUrl, site: 'marram', token: secret })

describe('a database that is restored from a copy', () => {
  it('is noticed: generations are of another epoch, and every position that was lost hears that everything changed', async () => {
    secret = (await owner().createKey({ label: 'Site', scope: 'published' })).secret
    await publish('Before the copy')
    const before = await epoch()
    await service.stop()
    cpSync(service.folder, copy, { recursive: true })
    await again()
    expect(await epoch()).toBe(before)
    for (let count = 0; count < 5; count++) await publish(`Lost ${count}`)
    const { sequence: lost } = await owner().settings()
    await service.stop()
    cpSync(join(copy, 'wisteria.db'), join(service.folder, 'wisteria.db'))
    await again()
    expect(await epoch()).not.toBe(before)
    const { sequence } = await owner().settings()
    // More events than were lost: no position is used again.
    for (let count = 0; count < 7; count++) await publish(`After ${count}`)
    const { changes } = await reader().changes(lost)
    expect(changes[0]).toMatchObject({ change: 'everything', position: sequence })
    expect(changes.length).toBe(8)
    const { events } = await owner().events(sequence - 1, 1)
    expect(events[0]).toMatchObject({ type: 'site.restored' })
  })
  it('is not seen in a start after a crash, or in any other', async () => {
    const before = await epoch()
    await service.stop()
    await again()
    await publish('Another')
    await service.stop()
    rmSync(join(service.folder, 'positions.json'))
    await again()
    expect(await epoch()).toBe(before)
  })
  it('is told by a command where the whole folder was restored, while the service runs or not', async () => {
    const before = await epoch()
    const said = await runIn(copy, ['restored', '--data', service.folder])
    expect([said.code, said.out]).toEqual([0, 'Readers of one site are told to read everything again.\n'])
    const running = await epoch()
    expect(running).not.toBe(before)
    await service.stop()
    expect((await runIn(copy, ['restored', '--data', service.folder, '--json'])).json()).toEqual({ sites: 1 })
    await again()
    expect([before, running]).not.toContain(await epoch())
    await publish('It goes on')
  })
})
