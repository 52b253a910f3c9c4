// The waiting times of an editor, with few entries and with many, and their growth.
import { performance } from 'node:perf_hooks'
import { startCatalogue, step, words } from './catalogue.mjs'
import { median, percentile, ratio } from './figures.mjs'

const rounds = 30

/** Milliseconds that each of some rounds took; the first few warm up and do not count. */
async function timed(work) {
  const took = []
  for (let round = -5; round < rounds; round++) {
    const began = performance.now()
    await work(round)
    if (round >= 0) took.push(performance.now() - began)
  }
  return took
}

async function measure(count) {
  const { editor, baseUrl, end } = await startCatalogue(count)
  try {
    step(`measuring at ${count} entries`)
    const { id } = await editor.create({ type: 'artefact', values: { title: { en: 'Tide table' }, made: 1900 } })
    let { version } = await editor.publish(id)
    const save = async (round) => {
      const value = `${words} ${round} ${count}`
      const saved = await editor.edit(id, version, [{ do: 'set', at: ['about'], locale: 'en', value }])
      version = saved.version
    }
    return {
      floor: await timed(() => fetch(`${baseUrl}/health`).then((answer) => answer.text())),
      'opening the editor': await timed(() =>
        Promise.all([editor.entry(id), editor.consequences(id), editor.schedules({ entry: id }), editor.presence(id)]),
      ),
      saving: await timed(save),
      publishing: await (async () => {
        const took = []
        for (let round = 0; round < rounds; round++) {
          await save(round)
          const began = performance.now()
          version = (await editor.publish(id, { version })).version
          took.push(performance.now() - began)
        }
        return took
      })(),
      'listing 50, newest first': await timed(() => editor.entries({ type: 'artefact', first: 50 })),
      'listing 50, all types': await timed(() => editor.entries({ first: 50 })),
      'listing 50 by a field, with columns': await timed(() =>
        editor.entries({ type: 'artefact', sort: 'inventory', columns: 'made,inventory', first: 50 }),
      ),
      'a far page': await (async () => {
        let after
        for (let page = 0; page < Math.min(20, count / 50 - 1); page++)
          after = (await editor.entries({ type: 'artefact', sort: 'made', first: 50, ...(after ? { after } : {}) }))
            .next
        return timed(() => editor.entries({ type: 'artefact', sort: 'made', first: 50, after }))
      })(),
      'finding by a rare word': await timed(() => editor.search('tide')),
      'a condition on an indexed field': await timed(() =>
        editor.entries({ type: 'artefact', where: 'inventory = "SH-77"', first: 50 }),
      ),
      'counting all that a list finds': await timed(() => editor.entries({ type: 'artefact', first: 1, count: true })),
    }
  } finally {
    await end()
  }
}

/** @param entries the largest number. */
export async function benchEditing({ entries }) {
  const few = await measure(1000)
  const many = await measure(entries)
  const times = (figures, name) => median(figures[name]) / median(figures.floor)
  console.log(
    `\nAn editor's day: median time as a multiple of a bare request to the same service, at 1,000 and at ${entries.toLocaleString('en')} entries in 3 locales`,
  )
  for (const name of Object.keys(few).filter((one) => one !== 'floor')) {
    const [small, large] = [times(few, name), times(many, name)]
    const tail = percentile(many[name], 0.95) / median(many[name])
    console.log(
      `  ${name.padEnd(40)} ${ratio(small)} ${ratio(large)}   grows by ${ratio(large / small)}   p95 to median ${ratio(tail)}`,
    )
  }
}
