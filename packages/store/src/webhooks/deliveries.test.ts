import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { Database, watchStatements } from '../connection/database.js'
import { outgoingDelivery } from './deliveries.js'

const folder = mkdtempSync(join(tmpdir(), 'wisteria-deliveries-'))
const asked: string[] = []
watchStatements((sql) => void asked.push(sql))
const database = await Database.open({ file: join(folder, 'wisteria.db') })
afterAll(async () => {
  watchStatements(undefined)
  await database.close()
  rmSync(folder, { recursive: true, force: true })
})

it('a delivery finds what was missed before it by indexes of its queue, however many others there are', async () => {
  asked.length = 0
  expect(await outgoingDelivery(database, 'none')).toBe(undefined)
  const [sql] = asked
  const plan = await database.all<{ detail: string }>(`explain query plan ${sql}`)
  const ofDeliveries = plan.map(({ detail }) => detail).filter((detail) => /^(SEARCH|SCAN) [dfo] /.test(detail))
  expect(ofDeliveries).toEqual([
    expect.stringMatching(/^SEARCH d USING INDEX sqlite_autoindex_deliveries_1 \(id=\?\)$/),
    expect.stringMatching(/^SEARCH f USING .*INDEX deliveries_failed \(webhook=\? AND entry=\? AND sequence>/),
    expect.stringMatching(/^SEARCH o USING .*INDEX deliveries_delivered \(webhook=\? AND entry=\? AND sequence</),
  ])
})
