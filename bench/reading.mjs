// How reads and publishes compare with floors measured in the same run, on the same machine, with the same bytes.
import { get } from 'node:http'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { performance } from 'node:perf_hooks'
import { Service } from '@wisteria/client'
import { seedDemo } from '@wisteria/demo'
import { Database } from '@wisteria/store'
import { child } from './child.mjs'
import { loader, rateOf } from './load.mjs'
import { median, percentile, ratio } from './figures.mjs'

const rounds = 3

/** An answer in wire format, without the headers that Node adds: status, names and values of headers in turn, bytes. */
const sent = (url, headers) =>
  new Promise((resolve, reject) => {
    get(url, { headers }, async (response) => {
      const parts = []
      for await (const part of response) parts.push(part)
      const added = ['date', 'connection', 'keep-alive']
      const head = response.rawHeaders.flatMap((name, index, all) =>
        index % 2 === 0 && !added.includes(name.toLowerCase()) ? [name, all[index + 1]] : [],
      )
      resolve({ status: response.statusCode, head, body: Buffer.concat(parts) })
    }).on('error', reject)
  })

/** @param seconds of each round of reading. */
export async function benchReading({ seconds }) {
  const rate = (url, options = {}) => rateOf({ url, ...options }, seconds)
  const folder = mkdtempSync(join(tmpdir(), 'wisteria-bench-'))
  const service = await child('service', { data: folder, readRate: 10_000_000 })
  try {
    const seeded = await seedDemo({ baseUrl: service.baseUrl, setUpCode: service.setUpCode })
    const key = seeded.keys.published
    const { token } = await new Service({ baseUrl: service.baseUrl }).signIn({
      email: seeded.users[0].email,
      password: seeded.users[0].password,
      as: 'token',
    })
    const editor = new Service({ baseUrl: service.baseUrl, token }).site('marram')
    // Twenty of something: the demo has fifteen activities.
    const museum = (await editor.entries({ type: 'museum' })).entries[0].id
    for (let index = 0; index < 20; index++) {
      const values = {
        title: { en: `Tide table ${index}` },
        format: 'talk',
        museum,
        starts: `2032-01-${String(index + 1).padStart(2, '0')}T10:00:00Z`,
        summary: { en: 'High water, low water, and what lies between. '.repeat(5) },
      }
      await editor.publish((await editor.create({ type: 'activity', values })).id)
    }
    const { entries } = await editor.entries({ type: 'activity', where: 'title contains "tide"', sort: 'title' })
    const headers = { authorization: `Bearer ${key}` }
    const base = `${service.baseUrl}/read/v1/marram`
    const list = `${base}/entries/activity?where=${encodeURIComponent('starts > 2031-01-01')}&sort=starts&first=20`
    const fields = 'entryId path title summary format starts price'
    const asked = (query) => ({ url: `${base}/graphql?query=${encodeURIComponent(query)}`, headers })
    const post = (query) => ({
      url: `${base}/graphql`,
      method: 'POST',
      body: JSON.stringify({ query }),
      headers: { ...headers, 'content-type': 'application/json' },
    })
    const listQuery = `{ activities(where: { starts: { moreThan: "2031-01-01" } }, sort: ["starts"], first: 20) { nodes { ${fields} museum { name path } } } }`
    const reads = [
      ['one entry, REST', { url: `${base}/entries/activity/${entries[0].id}`, headers }],
      ['list of 20, REST', { url: list, headers }],
      ['one entry, GraphQL', asked(`{ activity(id: "${entries[0].id}") { ${fields} museum { name path } } }`)],
      ['list of 20, GraphQL', asked(listQuery)],
      ['the same by POST', post(listQuery)],
    ]
    console.log(
      `Reads: ratio to Express sending the same bytes from memory (median of ${rounds} rounds of ${seconds} s, 8 connections, ${loader})`,
    )
    for (const [name, { url, ...request }] of reads) {
      const answer = await fetch(url, request)
      const bytes = Buffer.from(await answer.arrayBuffer())
      if (!answer.ok) throw new Error(`${name}: ${answer.status} ${bytes}`)
      const floor = await child('constant', { text: bytes.toString(), type: answer.headers.get('content-type') })
      const ratios = []
      await rate(url, request)
      for (let round = 0; round < rounds; round++)
        ratios.push((await rate(url, request)) / (await rate(floor.baseUrl + '/')))
      floor.stop()
      console.log(
        `  ${name.padEnd(22)} ${String(bytes.length).padStart(6)} bytes  ${ratio(median(ratios))}   (from${ratio(Math.min(...ratios))} to${ratio(Math.max(...ratios))})`,
      )
    }
    const answer = await fetch(list, { headers })
    const floor = await child('constant', { text: await answer.text(), type: 'application/json' })
    const { head: plainHead } = await sent(list, headers)
    const etag = plainHead[plainHead.indexOf('ETag') + 1]
    const known = { headers: { ...headers, 'if-none-match': etag } }
    const shares = []
    await rate(list, known)
    for (let round = 0; round < rounds; round++)
      shares.push((await rate(list, known)) / (await rate(floor.baseUrl + '/')))
    const notModified = median(shares)
    floor.stop()
    console.log(`  ${'list of 20, 304'.padEnd(22)} ${'0'.padStart(6)} bytes  ${ratio(notModified)}`)

    console.log(
      `\nReads from memory: ratio to node:http sending the same status, headers and bytes (the limit of reads on)`,
    )
    for (const [name, more] of [
      ['list of 20, REST', {}],
      ['list of 20, 304', { 'if-none-match': etag }],
    ]) {
      const request = { headers: { ...headers, ...more } }
      const { status, head, body } = await sent(list, request.headers)
      const bare = await child('bare', { status, head, body: body.toString('base64') })
      const own = []
      await rate(list, request)
      for (let round = 0; round < rounds; round++)
        own.push((await rate(list, request)) / (await rate(bare.baseUrl + '/', request)))
      bare.stop()
      const share = await service.ownShare(() => rate(list, request))
      console.log(
        `  ${name.padEnd(22)} ${String(body.length).padStart(6)} bytes  ${ratio(median(own))}   (from${ratio(Math.min(...own))} to${ratio(Math.max(...own))}; ${Math.round(share * 100)} % of the processor time in our files)`,
      )
    }

    // The rows that a publish writes, counted afterwards: then a bare transaction of as many rows, in the same kind of file.
    const database = await Database.open({ file: join(folder, 'wisteria.db') })
    const count = async () => {
      const [row] = await database.all(
        'select (select count(*) from publications) + (select count(*) from events) + (select count(*) from deliveries) as appended',
      )
      return row.appended
    }
    const publishes = []
    const before = await count()
    const times = 150
    for (let index = 0; index < times; index++) {
      const id = entries[index % entries.length].id
      const now = await editor.entry(id)
      const saved = await editor.patch(id, now.version, { summary: { en: `Tide ${index}` } })
      const began = performance.now()
      await editor.publish(id, { version: saved.version })
      publishes.push(performance.now() - began)
    }
    const savesTell = times // each save before a publish appends one event
    const appended = ((await count()) - before - savesTell) / times
    const locales = 4
    // Besides the appended rows: a row for each reader's locale in both editions, a seal, a version, the site's counters.
    const rows = Math.round(appended + 2 * locales + 3)
    await database.close()
    const bare = await Database.open({ file: join(folder, 'bare.db') })
    await bare.write(({ run }) => run('create table rows (id integer primary key, text text)'))
    const transactions = []
    const text = 'High water, low water, and what lies between. '.repeat(20)
    for (let index = 0; index < times; index++) {
      const began = performance.now()
      await bare.write(async ({ run }) => {
        for (let row = 0; row < rows; row++) await run('insert into rows (text) values (?)', [text])
      })
      transactions.push(performance.now() - began)
    }
    await bare.close()
    console.log(`\nPublish over HTTP: ratio to a bare transaction of as many rows (${rows}; ${times} of each)`)
    for (const [name, share] of [
      ['p50', 0.5],
      ['p99', 0.99],
    ])
      console.log(`  ${name}  ${ratio(percentile(publishes, share) / percentile(transactions, share))}`)
  } finally {
    service.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}
