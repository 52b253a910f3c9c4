// Webhooks, imports and automations, compared with the same requests, rows and saves without them.
import { createServer } from 'node:http'
import { createRequire } from 'node:module'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { performance } from 'node:perf_hooks'
import { startCatalogue, step, words } from './catalogue.mjs'
import { median, ratio } from './figures.mjs'

// The driver of the store, which the bench has none of its own of.
const require = createRequire(new URL('../packages/store/package.json', import.meta.url))
const sqlite3 = require('sqlite3')

const rounds = 40
/** Requests that run to one address at once: as many as the service allows itself. */
const atOnce = 4

const timed = async (work) => {
  const from = performance.now()
  await work()
  return performance.now() - from
}

/** A receiver that accepts everything, in this process. */
async function startReceiver() {
  let count = 0
  let waiting = []
  const server = createServer((request, response) => {
    request.resume().on('end', () => {
      response.writeHead(204).end()
      count++
      waiting = waiting.filter(({ at, done }) => (count >= at ? done() : true))
    })
  })
  await new Promise((resolve) => server.listen(0, '127.0.0.1', resolve))
  return {
    address: `http://127.0.0.1:${server.address().port}/hooks`,
    get count() {
      return count
    },
    until: (at) => new Promise((done) => (count >= at ? done() : waiting.push({ at, done }))),
    stop: () => {
      server.closeAllConnections()
      server.close()
    },
  }
}

/** The time from asking for a publish to the webhook, against the publish and a plain request one after the other. */
async function publishToReceived(editor, receiver) {
  const { entries } = await editor.entries({ type: 'artefact', first: rounds })
  const times = []
  const floors = []
  for (const { id } of entries) {
    const { version } = await editor.entry(id)
    await editor.patch(id, version, { inventory: `T-${id}` })
    const at = receiver.count + 1
    let published = 0
    const whole = await timed(async () => {
      const from = performance.now()
      await editor.publish(id)
      published = performance.now() - from
      await receiver.until(at)
    })
    times.push(whole)
    floors.push(published + (await timed(() => fetch(receiver.address, { method: 'POST', body: '{}' }))))
  }
  return median(times) / median(floors)
}

/** Events that are sent again, against the same bodies posted by hand, as many at once. */
async function outbox(editor, receiver, webhook) {
  const body = JSON.stringify((await editor.webhooks.preview({ events: ['entry.saved'] })).body)
  for (let after, page = 0; page < 5; page++) {
    const { entries, next } = await editor.entries({ type: 'artefact', first: 100, after })
    for (const { id } of entries) {
      const { version } = await editor.entry(id)
      await editor.patch(id, version, { inventory: `S-${id}` })
    }
    after = next
  }
  let resent = 0
  const before = receiver.count
  const own = await timed(async () => {
    resent = (await editor.webhooks.resendSpan(webhook, { from: new Date(0).toISOString() })).resent
    await receiver.until(before + resent)
  })
  let left = resent
  const floor = await timed(() =>
    Promise.all(
      Array.from({ length: atOnce }, async () => {
        while (left-- > 0) await fetch(receiver.address, { method: 'POST', body })
      }),
    ),
  )
  return { resent, share: floor / own }
}

/** Rows of a file that become entries, against a bare insert of many rows at once. */
async function importRows(editor, count) {
  const lines = Array.from({ length: count }, (_, index) => `Imported ${index},I-${index},${1700 + (index % 250)}`)
  const { id } = await editor.imports.read(new Blob([['title:en,inventory,made', ...lines].join('\n')]), {
    type: 'artefact',
  })
  const own = await timed(async () => editor.waitFor(await editor.imports.run(id)))
  const folder = mkdtempSync(join(tmpdir(), 'wisteria-rows-'))
  const database = new sqlite3.Database(join(folder, 'rows.db'))
  const run = (sql, values = []) =>
    new Promise((resolve, reject) => database.run(sql, values, (error) => (error ? reject(error) : resolve())))
  await run('pragma journal_mode = wal')
  await run('pragma synchronous = full')
  await run('create table entries (id text primary key, document text not null) strict')
  const floor = await timed(async () => {
    for (let from = 0; from < count; from += 1000) {
      const rows = lines.slice(from, from + 1000).map((line, index) => [`i${from + index}`, JSON.stringify({ line })])
      await run('insert into entries select value ->> 0, value ->> 1 from json_each(?)', [JSON.stringify(rows)])
    }
  })
  await new Promise((resolve) => database.close(resolve))
  rmSync(folder, { recursive: true, force: true })
  return floor / own
}

/** Items of a run that each create an entry, against a request for each. */
async function automationItems(editor, count) {
  const values = (index) => ({ title: { en: `Made ${index}` }, inventory: `A-${index}`, about: { en: words } })
  const floor = await timed(async () => {
    for (let index = 0; index < count; index++) await editor.create({ type: 'artefact', values: values(index) })
  })
  const names = JSON.stringify(Array.from({ length: count }, (_, index) => String(index)))
  await editor.automations.set({
    automation: 'bench',
    label: 'Bench',
    starts: { by: 'hand', on: 'site' },
    steps: [
      { do: 'compute', name: 'all', values: JSON.parse(names).map((name) => `"${name}"`) },
      {
        do: 'each',
        in: 'steps.all',
        steps: [
          {
            do: 'create',
            type: 'artefact',
            values: {
              title: { en: '"Made by itself " & item' },
              inventory: '"B-" & item',
              about: { en: `"${words}"` },
            },
          },
        ],
      },
    ],
  })
  const [id] = (await editor.automations.run('bench')).runs
  const own = await timed(async () => {
    while ((await editor.automations.getRun(id)).state === 'open') await new Promise((go) => setTimeout(go, 20))
  })
  return floor / own
}

export async function benchTelling({ rows }) {
  console.log('Telling the world, and taking in')
  const { editor, end } = await startCatalogue(1000, { allowPrivateAddresses: true })
  const receiver = await startReceiver()
  try {
    step('publishing with a webhook')
    const { id } = await editor.webhooks.create({ label: 'Bench', address: receiver.address })
    const received = await publishToReceived(editor, receiver)
    step('sending events again')
    await editor.webhooks.change(id, { events: ['entry.saved'] })
    const { resent, share } = await outbox(editor, receiver, id)
    await editor.webhooks.remove(id)
    step(`importing ${rows} rows`)
    const imported = await importRows(editor, rows)
    step('running an automation')
    const items = await automationItems(editor, 500)
    console.log(`${ratio(received)}  publish until a webhook is received, to the publish and a plain request`)
    console.log(`${ratio(share)}  events a second through the outbox, to the same requests by hand (${resent} events)`)
    console.log(
      `${imported.toFixed(4).padStart(6)}  rows a second of an import, to a bare insert of the rows (aim at least 0.25)`,
    )
    console.log(`${ratio(items)}  entries a second that an automation creates, to a request for each`)
  } finally {
    receiver.stop()
    await end()
  }
}
