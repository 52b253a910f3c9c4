// Reading a large site without cached answers, against floors measured in the same run, on the same data.
import { readFileSync, rmSync, writeFileSync, mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { performance } from 'node:perf_hooks'
import { buildClientSchema, getIntrospectionQuery, printSchema } from 'graphql'
import { Database, siteNamed } from '@wisteria/store'
import { child } from './child.mjs'
import { median, percentile, ratio } from './figures.mjs'
import { artefactId, makeLarge } from './large.mjs'
import { loader, rateOf } from './load.mjs'

const rounds = 5
const step = (text) => console.error(`  ${new Date().toISOString().slice(11, 19)} ${text}`)

/** Conditions that all find 20, each of them another: no cache has answered them before. */
const spans = Array.from({ length: 240 }, (_, from) =>
  Array.from({ length: 8 }, (_, more) => [1700 + from, 1702 + from + more]),
).flat()

const line = (name, ratios, more = '') =>
  console.log(
    `  ${name.padEnd(48)}${ratio(median(ratios))}   (from${ratio(Math.min(...ratios))} to${ratio(Math.max(...ratios))})${more}`,
  )

async function compare(own, floor, seconds) {
  const ratios = []
  await rateOf(own, 1)
  await rateOf(floor, 1)
  for (let round = 0; round < rounds; round++)
    ratios.push((await rateOf(own, seconds)) / (await rateOf(floor, seconds)))
  return ratios
}

async function typesOf(folder) {
  const database = await Database.open({ file: join(folder, 'wisteria.db') })
  const { projection, model } = await siteNamed(database, 'marram')
  await database.close()
  const type = model.types.find(({ name }) => name === 'artefact')
  return { projection, type, made: type.fields.find(({ name }) => name === 'made').id }
}

/** Milliseconds of one read after another, each for the first time. */
async function timesOf(urls, headers) {
  const times = []
  for (const url of urls) {
    const began = performance.now()
    const answer = await fetch(url, { headers })
    await answer.arrayBuffer()
    if (!answer.ok) throw new Error(`${url}: ${answer.status}`)
    times.push(performance.now() - began)
  }
  return times
}

const memoryOf = (pid) => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))[1]) / 1024

/** Words that some thousands of entries contain, and a number that few contain. */
const exactWords = ['lantern', 'anchor', 'ledger', 'sextant'].map((thing) => (number) => `${thing} ${number}`)
const typoWords = ['lantren', 'anchro', 'legder', 'sexatnt'].map((thing) => (number) => `${thing} ${number}`)

const questions = (base) => ({
  'by condition and sort': ([from, to]) =>
    `${base}/entries/artefact?where=${encodeURIComponent(`made >= ${from} and made <= ${to}`)}&sort=made&first=20`,
  'with two references included': ([from, to]) =>
    `${base}/entries/artefact?where=${encodeURIComponent(`made >= ${from} and made <= ${to}`)}&sort=made&first=20&pick=${encodeURIComponent('*,museum(*),maker(*)')}`,
})
const graphqlQuery =
  '{ artefacts(where: { made: { atLeast: FROM, atMost: TO } }, sort: ["made"], first: 20) { nodes { entryId path title inventory material made length museum { name town summary } maker { name born works { name town } } } } }'

/** The input of the reference executor: the service's schema, one query, and the objects that answer it. */
async function executorOf(base, headers, folder) {
  const ask = async (query) => {
    const answer = await fetch(`${base}/graphql`, {
      method: 'POST',
      headers: { ...headers, 'content-type': 'application/json' },
      body: JSON.stringify({ query }),
    })
    return (await answer.json()).data
  }
  const query = graphqlQuery.replace('FROM', spans[0][0]).replace('TO', spans[0][1])
  const [schema, data] = [join(folder, 'schema.graphql'), join(folder, 'objects.json')]
  writeFileSync(schema, printSchema(buildClientSchema(await ask(getIntrospectionQuery()))))
  writeFileSync(data, JSON.stringify(await ask(query)))
  return { schema, data, query }
}

/** @param entries how many artefacts; `keep` a folder in which the data is, or is to be, for further runs. */
export async function benchLarge({ entries, seconds, keep }) {
  const folder = keep ?? mkdtempSync(join(tmpdir(), 'wisteria-large-'))
  const small = mkdtempSync(join(tmpdir(), 'wisteria-small-'))
  const servers = []
  const started = async (kind, options) => {
    const server = await child(kind, options)
    servers.push(server)
    return server
  }
  try {
    step(`making ${entries} artefacts in 3 locales, unless they are there`)
    await makeLarge(folder, entries)
    await makeLarge(small, 1_000)
    const { key } = JSON.parse(readFileSync(join(folder, 'large.json'), 'utf8'))
    const headers = { authorization: `Bearer ${key}` }
    const { projection, type, made } = await typesOf(folder)
    const began = performance.now()
    const baseOf = (server) => `${server.baseUrl}/read/v1/marram`
    const first = await started('service', { data: folder })
    await fetch(`${baseOf(first)}/entries/artefact?first=1`, { headers })
    const ready = performance.now() - began
    // A folder has one service at a time.
    await first.stop()
    const fact = `json_extract(facts, '$.${made}')`
    const sql = `select doc from published where projection = '${projection}' and type = '${type.id}' and locale = 'en' and ${fact} >= cast(? as integer) and ${fact} <= cast(? as integer) order by ${fact}, entry limit 20`
    const floor = await started('handwritten', { data: folder, sql })

    console.log(
      `\nReading ${entries} entries in 3 locales, nothing of it from a cache (median of ${rounds} rounds, ${loader})`,
    )
    console.log('List of 20: ratio to the same rows by a hand-written, indexed, prepared query, sent by Express')
    const handwritten = spans.map(([from, to]) => ({ url: `${floor.baseUrl}/?from=${from}&to=${to}` }))
    for (const name of Object.keys(questions(''))) {
      // So little memory that every answer is dropped before its next request.
      const fresh = await started('service', { data: folder, responseCache: 1 })
      const urlOf = questions(baseOf(fresh))[name]
      line(
        name,
        await compare(
          spans.map((span) => ({ url: urlOf(span), headers })),
          handwritten,
          seconds,
        ),
      )
      await fresh.stop()
    }
    console.log(
      'GraphQL list of 20 with two levels of references, one text, other variables each time: ratio to the reference executor on objects in memory',
    )
    const variables = 'query ($from: Float!, $to: Float!) ' + graphqlQuery.replace('FROM', '$from').replace('TO', '$to')
    // Each is another key of the cache, and there are more of them than it holds.
    const postsTo = (on) =>
      Array.from({ length: 20_000 }, (_, index) => {
        const [from, to] = spans[index % spans.length]
        return {
          url: `${on}/graphql`,
          method: 'POST',
          headers: { ...headers, 'content-type': 'application/json' },
          body: JSON.stringify({ query: variables, variables: { from, to }, extensions: { asked: index } }),
        }
      })
    const uncached = await started('service', { data: folder, responseCache: 0 })
    const executor = await started('executor', await executorOf(baseOf(uncached), headers, small))
    line('documents from disk', await compare(postsTo(baseOf(uncached)), { url: `${executor.baseUrl}/` }, seconds))
    await uncached.stop()
    const service = await started('service', { data: folder })
    const base = baseOf(service)
    const posts = postsTo(base)
    line('documents in memory', await compare(posts, { url: `${executor.baseUrl}/` }, seconds))

    console.log(`Time at ${entries} entries to that at 1,000, each question asked for the first time (median)`)
    const few = await started('service', { data: small })
    const { key: fewKey } = JSON.parse(readFileSync(join(small, 'large.json'), 'utf8'))
    const forms = {
      ...questions(base),
      'one entry': ([from, to]) => `${base}/entries/artefact/${artefactId((from * 8 + to) % 1000)}`,
      'by a reference and sort': ([from, to]) =>
        `${base}/entries/artefact?where=${encodeURIComponent(`museum.name = "House ${from % 40} on the coast" and made > ${to}`)}&sort=made&first=20`,
      'by words': ([from, to]) => `${base}/entries/artefact?search=${from - 1700}+${to}&first=20`,
    }
    for (const [name, urlOf] of Object.entries(forms)) {
      const asked = spans.slice(0, 300).map(urlOf)
      const many = await timesOf(asked, headers)
      const little = await timesOf(
        asked.map((url) => url.replace(service.baseUrl, few.baseUrl)),
        { authorization: `Bearer ${fewKey}` },
      )
      console.log(
        `  ${name.padEnd(48)}${ratio(median(many) / median(little))}   (p99${ratio(percentile(many, 0.99) / percentile(little, 0.99))})`,
      )
    }

    console.log(`Search over all types to a search of one type by its words, at ${entries} entries (median)`)
    const looked = (words) =>
      spans.slice(0, 100).map(([from, to], index) => words[index % words.length](from - 1700 + to))
    const todayUrls = looked(exactWords).map(
      (words) => `${base}/entries/artefact?search=${encodeURIComponent(words)}&first=20`,
    )
    const today = median(await timesOf(todayUrls, headers))
    for (const [name, words] of Object.entries({ 'as it is written': exactWords, 'with a typo': typoWords })) {
      const urls = looked(words).map((words) => `${base}/search?words=${encodeURIComponent(words)}&first=20`)
      console.log(`  ${name.padEnd(48)}${ratio(median(await timesOf(urls, headers)) / today)}`)
    }

    console.log('Start and memory')
    console.log(
      `  from nothing to the first answer: ${(ready / 1000).toFixed(2)} s, of it ${(service.readyAfter / 1000).toFixed(2)} s in the service`,
    )
    const mix = spans.flatMap((span, index) => [
      { url: questions(base)['by condition and sort'](span), headers },
      { url: questions(base)['with two references included'](span), headers },
      posts[index],
      { url: `${base}/entries/artefact/${artefactId(index * 7)}`, headers },
    ])
    const memory = []
    for (let part = 0; part < 12; part++) {
      await rateOf(mix, Math.max(3, seconds))
      memory.push(memoryOf(service.pid))
    }
    const later = memory.slice(4)
    const slope = (later.at(-1) - later[0]) / later.length
    console.log(
      `  memory under a mix of reads: ${memory.map((one) => one.toFixed(0)).join(', ')} MB; after the first third ${slope >= 0 ? '+' : ''}${slope.toFixed(2)} MB for each ${Math.max(3, seconds)} s`,
    )
  } finally {
    for (const server of servers) server.stop()
    rmSync(small, { recursive: true, force: true })
    if (!keep) rmSync(folder, { recursive: true, force: true })
  }
}
