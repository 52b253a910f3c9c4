// The board at two sizes, and files with translations compared with writing and parsing the same XML with the plain libraries.
import { performance } from 'node:perf_hooks'
import { createRequire } from 'node:module'
import { readFileSync } from 'node:fs'
import { median, ratio } from './figures.mjs'
import { startCatalogue, step } from './catalogue.mjs'

// Packages of the service, which the bench has none of its own of.
const require = createRequire(new URL('../packages/service/package.json', import.meta.url))
const { fragment } = require('xmlbuilder2')
const { SaxesParser } = require('saxes')

const rounds = 40

const timed = async (work) => {
  const from = performance.now()
  const result = await work()
  return [performance.now() - from, result]
}

/** The time that a board takes, in milliseconds. */
async function boardTime(editor) {
  const times = []
  for (let round = 0; round < rounds; round++) times.push((await timed(() => editor.translations.board()))[0])
  return median(times)
}

/** The same file, written by the XML library alone. */
function plainlyWritten(units) {
  const texts = []
  for (const { id, source, base, place } of units) {
    const unit = fragment().ele('unit', { id, name: place })
    unit.ele('mda:metadata').ele('mda:metaGroup', { category: 'wisteria' }).ele('mda:meta', { type: 'base' }).txt(base)
    unit.ele('notes').ele('note', { id: 'n1', category: 'place' }).txt(place)
    unit.ele('segment', { id: 's1', state: 'initial' }).ele('source').txt(source)
    texts.push(unit.end({ prettyPrint: false }))
  }
  return texts.join('\n')
}

/** The same file, parsed by the XML library alone. @returns how many elements it has. */
function plainlyParsed(text) {
  let count = 0
  const parser = new SaxesParser({ position: true })
  parser.on('opentag', () => count++)
  parser.on('text', () => undefined)
  parser.write(text).close()
  return count
}

/** The memory of a process, in MB. */
const memoryOf = (pid) => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))[1]) / 1024

/** How much more memory a process takes while something runs than before it, in MB. */
async function memoryDuring(pid, work) {
  const before = memoryOf(pid)
  let most = before
  const timer = setInterval(() => (most = Math.max(most, memoryOf(pid))), 10)
  try {
    await work()
  } finally {
    clearInterval(timer)
  }
  return most - before
}

/** Reads an answer to its end, and keeps nothing of it. */
async function drained(response) {
  const reader = response.body.getReader()
  while (!(await reader.read()).done) continue
}

export async function benchTranslating({ entries }) {
  console.log('Translations')
  const small = await startCatalogue(1000)
  let atSmall
  try {
    atSmall = await boardTime(small.editor)
  } finally {
    await small.end()
  }
  const large = await startCatalogue(entries)
  try {
    console.log(
      `  the board at ${entries} entries, to the board at 1000: ${ratio((await boardTime(large.editor)) / atSmall)}`,
    )
  } finally {
    await large.end()
  }

  // Two texts an entry.
  const middle = await startCatalogue(5000)
  try {
    const { translations } = middle.editor
    const exported = async () => (await translations.export({ locale: 'ar', units: 'all' })).response.text()
    // The first one loads what writes the file: that stays, and is no part of an export.
    const exportingFew = async () => {
      const ids = (await middle.editor.translations.work({ locale: 'ar', first: 100 })).entries.map(
        ({ entry }) => entry,
      )
      await drained((await translations.export({ locale: 'ar', ids, units: 'all' })).response)
    }
    await exportingFew()
    const more = await memoryDuring(middle.pid, async () =>
      drained((await translations.export({ locale: 'ar', units: 'all' })).response),
    )
    console.log(`  memory of an export of 5000 entries, above that before it: ${more.toFixed(0)} MB`)
    const text = await exported()
    const units = [...text.matchAll(/<unit id="([^"]*)"[^]*?<source>([^<]*)<\/source>/g)].map(([, id, source]) => ({
      id,
      source,
      base: '',
      place: 'title',
    }))
    step(`${units.length} texts, ${(text.length / 1e6).toFixed(1)} MB`)
    const writing = []
    const exporting = []
    for (let round = 0; round < 3; round++) {
      writing.push((await timed(() => plainlyWritten(units)))[0])
      exporting.push((await timed(exported))[0])
    }
    console.log(
      `  export of ${units.length} texts, to writing the same XML: ${ratio(median(exporting) / median(writing))}`,
    )
    const back = text.replace(/<source>([^<]*)<\/source>/g, '<source>$1</source><target>ترجمة $1</target>')
    const parsing = []
    for (let round = 0; round < 5; round++) parsing.push((await timed(() => plainlyParsed(back)))[0])
    const [reading, read] = await timed(() => translations.readImport('ar', 'xliff', 'bench.xlf', new Blob([back])))
    const [applying] = await timed(async () => middle.editor.waitFor(await translations.applyImport(read.id)))
    const floor = median(parsing)
    console.log(`  reading and deciding ${units.length} texts, to parsing the same XML: ${ratio(reading / floor)}`)
    console.log(`  saving them in 5000 entries, to parsing the same XML: ${ratio(applying / floor)}`)
  } finally {
    await middle.end()
  }
}
