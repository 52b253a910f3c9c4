import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Service } from '@wisteria/client'
import { afterAll, expect, it } from 'vitest'
import { setUpProcess, startProcess } from './support/killing.js'
import { often } from './support/length.js'
import { asFiles, files } from './support/models.js'
import { eventually, startReceiver } from './support/running.js'

const items = often(300, 20_000)
const kills = often(4, 6)
const folder = mkdtempSync(join(tmpdir(), 'wisteria-kill-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

it(`a run over ${items} items that is killed ${kills} times does each once, and calls nobody with a second id`, async () => {
  const receiver = await startReceiver()
  let child = await startProcess(folder)
  const token = await setUpProcess(child)
  const editorOf = () => new Service({ baseUrl: child.baseUrl, token }).site('marram')
  let editor = editorOf()
  await editor.adoptModel((await editor.compareModel(asFiles(files))).id)
  await editor.automations.set({
    automation: 'names',
    label: 'Names',
    starts: { by: 'address' },
    steps: [
      {
        do: 'each',
        in: 'trigger.body',
        steps: [
          { do: 'create', name: 'made', type: 'person', values: { name: 'item' } },
          { do: 'call', address: `"${receiver.address}"`, body: { id: 'steps.made.id', name: 'item' } },
        ],
      },
    ],
  })
  const { secret } = await editor.automations.makeSecret('names')
  const names = Array.from({ length: items }, (_, index) => `Keeper ${index}`)
  const answer = await fetch(`${child.baseUrl}/edit/v1/sites/marram/inbound/names`, {
    method: 'POST',
    headers: { Authorization: `Bearer ${secret}`, 'Content-Type': 'application/json' },
    body: JSON.stringify(names),
  })
  const { run } = (await answer.json()) as { run: string }
  for (let kill = 1; kill <= kills; kill++) {
    const least = Math.floor((items * kill) / (kills + 2))
    await eventually(
      () => editor.automations.getRun(run),
      ({ done }) => done >= least,
      600,
    )
    await new Promise((resolve) => setTimeout(resolve, Math.random() * 60))
    child.process.kill('SIGKILL')
    await child.ended
    child = await startProcess(folder)
    editor = editorOf()
  }
  const ended = await eventually(
    () => editor.automations.getRun(run),
    ({ state }) => state !== 'running',
    600,
  )
  expect(ended).toMatchObject({ state: 'done', total: items, done: items, failed: 0 })
  expect((await editor.entries({ type: 'person', count: true, first: 1 })).count).toBe(items)
  // One that was under way when the service was killed is made again, and says so by its id.
  const byKey = new Map<string, Set<string>>()
  for (const { headers, body } of receiver.received) {
    const key = String(headers['idempotency-key'])
    byKey.set(key, (byKey.get(key) ?? new Set()).add(body))
  }
  expect(byKey.size).toBe(items)
  expect([...byKey.values()].every((bodies) => bodies.size === 1)).toBe(true)
  expect(receiver.received.length - items).toBeLessThanOrEqual(kills)
  child.process.kill('SIGTERM')
  await child.ended
  await receiver.stop()
})
