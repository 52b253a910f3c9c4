// How reading, checking and evaluating a condition compares with the same test written by hand in JavaScript.
import { performance } from 'node:perf_hooks'
import { emptyModel, meetingOf, readCondition, readModelFiles, resolveModel } from '@wisteria/core'
import { median, ratio } from './figures.mjs'

const text = `
type: activity
fields:
  title: { kind: text }
  format: { kind: choice, options: [talk, walk, concert, workshop] }
  price: { kind: number }
  starts: { kind: dateTime }
  tags: { kind: text, many: true }
`
const count = 100_000
const rounds = 15
const place = { locales: ['en'], defaultLocale: 'en', timeZone: 'Europe/Amsterdam' }

export function benchConditions() {
  const model = resolveModel(readModelFiles([{ name: 'activity.yaml', text }]), emptyModel, place)
  const [type] = model.types
  const id = Object.fromEntries(type.fields.map((field) => [field.name, field.id]))
  const formats = ['talk', 'walk', 'concert', 'workshop']
  const nothing = () => []
  const candidates = Array.from({ length: count }, (_, index) => ({
    id: String(index),
    facts: {
      [id.title]: `tide table ${index % 977} of the boatyard`,
      [id.format]: formats[index % 4],
      ...(index % 5 === 0 ? {} : { [id.price]: index % 40 }),
      [id.starts]: new Date(Date.UTC(2031, 0, 1) + (index % 700) * 43_200_000).toISOString(),
      [id.tags]: index % 3 === 0 ? ['dark', 'outside'] : ['inside'],
    },
    system: {},
    follow: nothing,
    elements: nothing,
  }))
  const context = { model, owners: [type], systemFacts: [], timeZone: 'Europe/Amsterdam' }
  const moment = { now: Date.parse('2031-06-01T12:00:00Z'), timeZone: 'Europe/Amsterdam' }
  const now = new Date(moment.now).toISOString()
  const { title, format, price, starts, tags } = id
  const cases = [
    ['one comparison', 'price < 20', (facts) => facts[price] !== undefined && facts[price] < 20],
    [
      'four, with a moment',
      'format in ["concert", "walk"] and starts >= now and price < 20 and title contains "yard"',
      (facts) =>
        (facts[format] === 'concert' || facts[format] === 'walk') &&
        facts[starts] !== undefined &&
        facts[starts] >= now &&
        facts[price] !== undefined &&
        facts[price] < 20 &&
        facts[title] !== undefined &&
        facts[title].includes('yard'),
    ],
    [
      'many values, or, not',
      'tags = "dark" or not (format = "talk" or price >= 30)',
      (facts) =>
        (facts[tags] !== undefined && facts[tags].some((tag) => tag === 'dark')) ||
        !(facts[format] === 'talk' || (facts[price] !== undefined && facts[price] >= 30)),
    ],
  ]
  console.log(
    `\nConditions on ${count.toLocaleString('en')} values: ratio to the same test written by hand (median of ${rounds} rounds, each reads and checks the condition anew)`,
  )
  for (const [name, condition, byHand] of cases) {
    const ratios = []
    for (let round = 0; round < rounds; round++) {
      const began = performance.now()
      let ours = 0
      const meets = meetingOf(readCondition(condition, context).condition)
      for (const candidate of candidates) if (meets(candidate, moment)) ours++
      const took = performance.now() - began
      const begun = performance.now()
      let theirs = 0
      for (const candidate of candidates) if (byHand(candidate.facts)) theirs++
      ratios.push((performance.now() - begun) / took)
      if (ours !== theirs) throw new Error(`${condition}: ${ours} against ${theirs}`)
    }
    console.log(`  ${name.padEnd(22)} ${ratio(median(ratios))}   ${condition}`)
  }
}
