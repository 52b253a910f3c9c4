// The cost of comparing and adopting a change over many entries, and how long other writes wait for it.
import { join } from 'node:path'
import { performance } from 'node:perf_hooks'
import { Database } from '@wisteria/store'
import { model, site, startCatalogue, step, words } from './catalogue.mjs'
import { median, percentile, ratio } from './figures.mjs'

/** @param entries their number. */
export async function benchAdopting({ entries: count }) {
  const { editor, folder, end } = await startCatalogue(count)
  try {
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
    const proposal = await editor.compareModel(model('{ kind: text, indexed: true }'))
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
    await end()
  }
}
