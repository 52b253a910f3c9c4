import { describe, expect, it } from 'vitest'
import { makeModel, modelSite, settings } from '../../../../e2e/support/models.js'
import { readValues } from '../documents/names.js'
import type { Document } from '../documents/document.js'
import { wordsOf } from '../text/segmentText.js'
import { confirm, originsAfter, translationUnits, type Origins } from './origins.js'
import { segmentKey } from './segments.js'

const model = makeModel({
  page: `type: page
fields:
  title: { kind: text, localized: true }
  slug: { kind: slug, localized: true }
  intro: { kind: longText, localized: true }
  body: { kind: block, many: true, accepts: [words] }
`,
  words: 'block: words\nfields:\n  text: { kind: longText, localized: true }\n',
})
const type = model.types[0]!
const at = '2031-03-12T09:00:00.000Z'
const read = (values: unknown): Document =>
  readValues(model, type, values, modelSite.locales, (bytes) => new Uint8Array(bytes)).document
const words = (id: string, text: Record<string, string>) => ({ id, block: 'words', values: { text } })

/** An entry that is saved again and again. */
class Entry {
  document: Document = {}
  origins: Origins = {}
  revision = 0
  save(values: unknown): this {
    const after = read(values)
    this.origins = originsAfter(model, type, this.document, after, this.origins, ++this.revision, at, settings)
    this.document = after
    return this
  }
  units = () => translationUnits(model, type, this.document, this.origins, 'nl', settings)
  states = () => this.units().map(({ source, state }) => `${wordsOf(source.text)}: ${state}`)
  confirm(text: string, needsNone = false): this {
    const keys = new Set(
      this.units().flatMap(({ source }) => (wordsOf(source.text) === text ? [segmentKey(source)] : [])),
    )
    this.origins = confirm(this.units(), this.origins, 'nl', keys, ++this.revision, settings, needsNone)
    return this
  }
}
const start = () =>
  new Entry().save({ title: { en: 'Walk' }, body: [words('a', { en: 'One' }), words('b', { en: 'Two' })] })
const translated = () =>
  start().save({
    title: { en: 'Walk', nl: 'Wandeling' },
    body: [words('a', { en: 'One', nl: 'Een' }), words('b', { en: 'Two' })],
  })

describe('the units of a translation', () => {
  it('are missing until they are written, and current then', () => {
    expect(start().states()).toEqual(['Walk: missing', 'One: missing', 'Two: missing'])
    expect(translated().states()).toEqual(['Walk: current', 'One: current', 'Two: missing'])
  })
  it('are outdated one by one when their source changes, and current again when it changes back', () => {
    const entry = translated().save({
      title: { en: 'Walk', nl: 'Wandeling' },
      body: [words('a', { en: 'The first', nl: 'Een' }), words('b', { en: 'Two' })],
    })
    expect(entry.states()).toEqual(['Walk: current', 'The first: outdated', 'Two: missing'])
    expect(entry.units()[1]!.origin).toMatchObject({ from: 'en', revision: 2 })
    entry.save({
      title: { en: 'Walk', nl: 'Wandeling' },
      body: [words('a', { en: 'One', nl: 'Een' }), words('b', { en: 'Two' })],
    })
    expect(entry.states()).toEqual(['Walk: current', 'One: current', 'Two: missing'])
  })
  it('stay as they are when blocks move, or another unit changes', () => {
    const entry = translated().save({
      title: { en: 'Night walk', nl: 'Wandeling' },
      body: [words('b', { en: 'Two' }), words('a', { en: 'One', nl: 'Een' })],
    })
    expect(entry.states()).toEqual(['Night walk: outdated', 'Two: missing', 'One: current'])
  })
  it('are made from the source as it is when both are written at once', () => {
    const entry = translated().save({ title: { en: 'Night walk', nl: 'Nachtwandeling' }, body: [] })
    expect(entry.states()).toEqual(['Night walk: current'])
    expect(Object.keys(entry.origins['nl']!).length).toBe(1)
  })
  it('are still right when somebody says so, for the source as it is', () => {
    const entry = translated()
      .save({ title: { en: 'A walk', nl: 'Wandeling' }, body: [] })
      .confirm('A walk')
    expect(entry.states()).toEqual(['A walk: current'])
    expect(entry.save({ title: { en: 'The walk', nl: 'Wandeling' } }).states()).toEqual(['The walk: outdated'])
  })
  it('need no translation when somebody says so, until the source changes', () => {
    const entry = start().confirm('One', true)
    expect(entry.states()).toEqual(['Walk: missing', 'One: notNeeded', 'Two: missing'])
    entry.save({ title: { en: 'Walk' }, body: [words('a', { en: 'One' }), words('b', { en: 'Two, too' })] })
    expect(entry.states()).toEqual(['Walk: missing', 'One: notNeeded', 'Two, too: missing'])
    entry.save({ title: { en: 'Walk' }, body: [words('a', { en: 'Only' })] })
    expect(entry.states()).toEqual(['Walk: missing', 'Only: outdated'])
    expect(entry.save({ title: { en: 'Walk' }, body: [words('a', { en: 'Only', nl: 'Slechts' })] }).states()).toEqual([
      'Walk: missing',
      'Only: current',
    ])
  })
  it('that are there cannot be said to need none, nor missing ones to be right', () => {
    const entry = translated()
    const before = entry.states()
    expect(entry.confirm('One', true).confirm('Two').states()).toEqual(before)
  })
  it('may be empty on purpose', () => {
    const entry = new Entry().save({ title: { en: 'Walk', nl: null }, intro: { en: 'Bring a coat.' } })
    expect(entry.states()).toEqual(['Walk: empty', 'Bring a coat.: missing'])
  })
  it('that are slugs stay current, whatever the slug of their source becomes', () => {
    const entry = new Entry()
      .save({ slug: { en: 'walk', nl: 'wandeling' } })
      .save({ slug: { en: 'night-walk', nl: 'wandeling' } })
    expect(entry.states()).toEqual(['night-walk: current'])
  })
  it('are compared with the locale that they were made from, also when that is no fallback any more', () => {
    const [flemish, now] = [{ nl: 'Wandeling', 'nl-BE': 'Tocht' }, { en: 'Walk' }]
    const origins = originsAfter(model, type, {}, read({ title: { ...now, ...flemish } }), {}, 1, at, settings)
    expect(origins['nl-BE']).toMatchObject({ [Object.keys(origins['nl-BE']!)[0]!]: { from: 'nl' } })
    const locales = settings.locales.map((locale) =>
      locale.tag === 'nl-BE' ? { ...locale, fallback: ['en'] } : locale,
    )
    const stateOf = (title: object) =>
      translationUnits(model, type, read({ title }), origins, 'nl-BE', { ...settings, locales })[0]!.state
    expect(stateOf({ ...now, ...flemish })).toBe('current')
    expect(stateOf({ ...now, ...flemish, nl: 'Nachtwandeling' })).toBe('outdated')
  })
  it('count as current where they are older than origins', () => {
    const entry = translated()
    entry.origins = {}
    expect(entry.states()).toEqual(['Walk: current', 'One: current', 'Two: missing'])
  })
})
