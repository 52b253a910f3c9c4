// What comparing and adopting a change over many entries costs, and how long others wait for it.
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { performance } from 'node:perf_hooks'
import { Service } from '@wisteria/client'
import { Database } from '@wisteria/store'
import { child } from './child.mjs'
import { median, percentile, ratio } from './figures.mjs'

const model = (place) => [
  {
    name: 'artefact.yaml',
    text: `type: artefact\nfields:\n  title: { kind: text, required: true, localized: true }\n  inventory: { kind: text, index: true }\n  made: ${place}\n  about: { kind: longText, localized: true }\n`,
  },
]
const site = {
  name: 'marram',
  label: 'Marram Coast Museums',
  defaultLocale: 'en',
  locales: [
    { tag: 'en', label: 'English', fallback: [] },
    { tag: 'nl', label: 'Nederlands', fallback: ['en'] },
    { tag: 'ar', label: 'العربية', fallback: ['en'] },
  ],
  timeZone: 'Europe/Amsterdam',
}
const words = 'A thing that the sea gave back, with a label in a hand that nobody knows. '

/** Puts entries with their revisions and publications where the store keeps them; the first adoption makes their rows. */
async function fill(file, count) {
  const database = await Database.open({ file })
  const [{ id: siteId }] = await database.all('select id from sites')
  const [{ model: text }] = await database.all('select model from models order by version desc limit 1')
  const [type] = JSON.parse(text).types
  const [title, inventory, made, about] = type.fields.map((field) => field.id)
  const at = '2021-01-01T00:00:00.000Z'
  for (let from = 0; from < count; from += 2000)
    await database.write(async ({ run }) => {
      for (let index = from; index < Math.min(count, from + 2000); index++) {
        const id = index
          .toString(32)
          .padStart(20, '0')
          .replace(/[^0-9a-z]/g, '0')
        const document = JSON.stringify({
          [title]: { en: `Find ${index}`, ...(index % 2 ? { nl: `Vondst ${index}` } : {}) },
          [inventory]: `SH-${index}`,
          [made]: 1700 + (index % 250),
          [about]: { en: words.repeat(4) },
        })
        await run(
          "insert into entries (id, site, type, version, revision, created_at, created_by, updated_at, updated_by, mergeable_from) values (?, ?, ?, 1, 1, ?, 'bench', ?, 'bench', 1)",
          [id, siteId, type.id, at, at],
        )
        await run("insert into revisions values (?, 1, ?, ?, 1, 1, 'bench', ?, ?, ?)", [
          id,
          siteId,
          document,
          at,
          at,
          at,
        ])
        for (const layer of ['*', 'en'])
          await run("insert into publications (site, entry, layer, revision, model_version, sequence, at, actor, action) values (?, ?, ?, 1, 1, 1, ?, 'bench', 'bench')", [siteId, id, layer, at]) // prettier-ignore
      }
    })
  await database.close()
}

/** On stderr, so that someone who waits for many entries sees how far it is. */
const step = (text) => console.error(`  ${new Date().toISOString().slice(11, 19)} ${text}`)

/** @param entries how many there are. */
export async function benchAdopting({ entries: count }) {
  const folder = mkdtempSync(join(tmpdir(), 'wisteria-adopting-'))
  let service = await child('service', { data: folder })
  try {
    const { token } = await new Service({ baseUrl: service.baseUrl }).begin({
      code: service.beginCode,
      email: 'maren@marram.example',
      name: 'Maren Aldous',
      password: 'wind-from-the-west',
      site,
      as: 'token',
    })
    const begun = new Service({ baseUrl: service.baseUrl, token }).site('marram')
    await begun.adoptModel((await begun.compareModel(model('{ kind: number, integer: true }'))).id)
    await service.stop()
    step(`filling ${count} entries`)
    await fill(join(folder, 'wisteria.db'), count)
    service = await child('service', { data: folder })
    const editor = new Service({ baseUrl: service.baseUrl, token, timeout: 600_000 }).site('marram')
    const adopt = async (place) => editor.adoptModel((await editor.compareModel(model(place))).id)
    step('building their rows')
    await adopt('{ kind: number, integer: true, index: true }')

    const { id } = await editor.create({ type: 'artefact', values: { title: { en: 'Tide table' }, made: 1900 } })
    const publish = async (number) => {
      const now = await editor.entry(id)
      const saved = await editor.patch(id, now.version, { about: { en: `${words} ${number}` } })
      const began = performance.now()
      await editor.publish(id, { version: saved.version })
      return performance.now() - began
    }
    const alone = []
    for (let number = 0; number < 60; number++) alone.push(await publish(number))

    step('comparing')
    const comparing = performance.now()
    const proposal = await editor.compareModel(model('{ kind: text, index: true }'))
    const compared = performance.now() - comparing
    step('adopting')
    const adopting = performance.now()
    let isRunning = true
    const done = editor.adoptModel(proposal.id).finally(() => (isRunning = false))
    const meanwhile = []
    for (let number = 0; isRunning; number++) meanwhile.push(await publish(number))
    await done
    const adopted = performance.now() - adopting

    step('measuring the floors')
    // A floor for both: reading every document once, and writing as many rows as were built.
    const bare = await Database.open({ file: join(folder, 'wisteria.db') })
    const reading = performance.now()
    let letters = 0
    for (let from = ''; ;) {
      const rows = await bare.all('select entry, document from revisions where entry > ? order by entry limit 500', [
        from,
      ])
      if (rows.length === 0) break
      for (const row of rows) letters += Object.keys(JSON.parse(row.document)).length
      from = rows.at(-1).entry
    }
    const read = performance.now() - reading
    await bare.write(({ run }) => run('create table bare (id integer primary key, text text)'))
    const text = words.repeat(8)
    const rows = count * site.locales.length * 2
    const writing = performance.now()
    for (let from = 0; from < rows; from += 1000)
      await bare.write(async ({ run }) => {
        for (let row = from; row < Math.min(rows, from + 1000); row++)
          await run('insert into bare (text) values (?)', [text])
      })
    const wrote = performance.now() - writing
    await bare.close()
    if (letters === 0) throw new Error('nothing was read')
    console.log(
      `\nA change of kind over ${count.toLocaleString('en')} entries in ${site.locales.length} locales (${rows.toLocaleString('en')} rows of both editions)`,
    )
    console.log(
      `  comparing: time as a multiple of reading and parsing every document once     ${ratio(compared / read)}`,
    )
    console.log(
      `  adopting, as a job: time as a multiple of inserting as many bare rows         ${ratio(adopted / wrote)}`,
    )
    console.log(
      `  a publish meanwhile: as a multiple of one alone   p50 ${ratio(median(meanwhile) / median(alone))}   p99 ${ratio(percentile(meanwhile, 0.99) / median(alone))}   longest ${ratio(Math.max(...meanwhile) / median(alone))}   (${meanwhile.length} publishes)`,
    )
    console.log(
      `  the longest publish took this share of the whole adoption                     ${ratio(Math.max(...meanwhile) / adopted)}`,
    )
  } finally {
    await service.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}
