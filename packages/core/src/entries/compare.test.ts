import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { block, doc, locales, makeModel, model, randomBytes, type } from '../../../../e2e/support/models.js'
import { compareWords } from '../text/compareWords.js'
import { compareDocuments, type Difference } from './compare.js'
import { editsTowards } from './difference.js'
import type { Document } from '../documents/document.js'
import { readEdits } from './edits.js'
import { printValues, readValues } from '../documents/names.js'

const activity = type('activity')
const compare = (before: Document, after: Document) => compareDocuments(model, activity, before, after, locales)
const short = (all: readonly Difference[]) =>
  all.map(({ how, at, locale, from, to }) => [
    how,
    at.join('/'),
    ...(locale ? [locale] : []),
    ...(from ? [from] : []),
    ...(to ? [to] : []),
  ])
const shown = (before: string, after: string, locale?: string) =>
  compareWords(before, after, locale)
    .map(({ is, text }) => (is === 'same' ? text : is === 'added' ? `+${text}+` : `-${text}-`))
    .join('')

describe('words', () => {
  it.each([
    ['nothing', '', '', ''],
    ['the same', 'Bring a torch.', 'Bring a torch.', 'Bring a torch.'],
    ['a word replaced', 'Bring a torch.', 'Bring a lamp.', 'Bring a -torch-+lamp+.'],
    ['a word put in', 'Bring a torch.', 'Bring a small torch.', 'Bring a +small +torch.'],
    ['a word taken out', 'Bring a small torch.', 'Bring a torch.', 'Bring a -small -torch.'],
    ['neighbours as one', 'the old lamp burns', 'the new light burns', 'the -old lamp-+new light+ burns'],
    ['all of it', 'one', 'two', '-one-+two+'],
    ['the beginning', 'Night Walk', 'Dawn Walk', '-Night-+Dawn+ Walk'],
    ['from nothing', '', 'New', '+New+'],
    ['to nothing', 'Old', '', '-Old-'],
    ['lines', 'one\n\ntwo', 'one\n\nthree', 'one\n\n-two-+three+'],
    ['a figure as one sign', '👩‍🚀 and 🌊', '👩‍🚀 or 🌊', '👩‍🚀 -and-+or+ 🌊'],
  ])('shows %s', (_, before, after, wanted) => expect(shown(before, after)).toBe(wanted))
  it('divides words as the language does', () => {
    expect(shown('متحف المنارة القديم', 'متحف المنارة الجديد', 'ar')).toBe('متحف المنارة -القديم-+الجديد+')
    expect(shown('灯塔博物馆', '灯塔图书馆', 'zh')).not.toBe('-灯塔博物馆-+灯塔图书馆+')
  })
  it('keeps both texts whole, whatever they are', () => {
    const text = fc
      .array(fc.constantFrom('sea', 'wind', ' ', '\n', '.', 'é', 'م'), { maxLength: 30 })
      .map((all) => all.join(''))
    fc.assert(
      fc.property(text, text, (before, after) => {
        const pieces = compareWords(before, after)
        const side = (left: string) =>
          pieces
            .filter(({ is }) => is !== left)
            .map((piece) => piece.text)
            .join('')
        expect([side('added'), side('removed')]).toEqual([before, after])
        expect(pieces.every(({ text: text }) => text !== '')).toBe(true)
      }),
    )
  })
  it('tells texts with nothing in common as one change between their ends', () => {
    const many = (word: string) => Array.from({ length: 4000 }, (_, index) => `${word}${index}`).join(' ')
    const pieces = compareWords(`Start ${many('a')} end`, `Start ${many('b')} end`)
    expect(pieces.map(({ is }) => is)).toEqual(['same', 'removed', 'added', 'same'])
    expect(pieces[0]!.text + pieces[3]!.text).toBe('Start  end')
  })
})

const start = doc('activity', {
  title: { en: 'Night Walk', nl: 'Nachtwandeling' },
  price: 9,
  summary: { en: 'Along the dike in the dark.' },
  tags: [
    { id: 'a', value: 'dark' },
    { id: 'b', value: 'outside' },
  ],
  body: [
    block('heading', 'h1', { text: { en: 'Bring' } }),
    block('quote', 'q1', { text: { en: 'Dark is not empty.' }, by: 'A keeper' }),
    block('heading', 'h2', { text: { en: 'Meet' } }),
  ],
})
const change = (values: Record<string, unknown>): Document => ({ ...start, ...doc('activity', values) })
const body = start[activity.fields.find((field) => field.name === 'body')!.id] as { id: string }[]

describe('comparing', () => {
  it('finds nothing in what is the same, and does not take empty for different from missing', () => {
    expect(compare(start, structuredClone(start))).toEqual([])
    expect(compare(start, change({ speakers: [], starts: '', day: undefined }))).toEqual([])
  })
  it('says of each value how it differs, in which locale, and which words', () => {
    const differences = compare(start, change({ title: { en: 'Dawn Walk', ar: 'نزهة' }, price: null, format: 'walk' }))
    expect(short(differences)).toEqual([
      ['changed', 'title', 'en'],
      ['removed', 'title', 'nl'],
      ['added', 'title', 'ar'],
      ['added', 'format'],
      ['removed', 'price'],
    ])
    expect(differences[0]).toMatchObject({
      labels: ['Title'],
      before: 'Night Walk',
      after: 'Dawn Walk',
      words: [
        { is: 'removed', text: 'Night' },
        { is: 'added', text: 'Dawn' },
        { is: 'same', text: ' Walk' },
      ],
    })
    expect(differences[4]).toEqual({
      how: 'removed',
      at: ['price'],
      fieldId: activity.fields.find((field) => field.name === 'price')!.id,
      labels: ['Price'],
      kind: 'number',
      locale: null,
      before: 9,
      after: null,
    })
  })
  it('tells a moved block as moved, and as few as can be', () => {
    expect(short(compare(start, change({ body: [body[2], body[0], body[1]] })))).toEqual([['moved', 'body/h2', 3, 1]])
    expect(short(compare(start, change({ body: [body[1], body[2], body[0]] })))).toEqual([['moved', 'body/h1', 1, 3]])
    const [moved] = compare(start, change({ body: [body[2], body[0], body[1]] }))
    expect(moved!.words!.map(({ is }) => is)).toEqual(['same'])
    expect(compare(start, change({ body: [...body].reverse() }))).toHaveLength(2)
  })
  it('tells what came and went with its words, and looks inside what stayed', () => {
    const quote = block('quote', 'q1', { text: { en: 'Dark is never empty.' }, by: 'A keeper' })
    const fresh = block('quote', 'q2', { text: { en: 'Mind the step.', nl: 'Let op de trede.' } })
    const differences = compare(start, change({ body: [quote, body[2], fresh] }))
    expect(short(differences)).toEqual([
      ['removed', 'body/h1', 1],
      ['changed', 'body/q1/text', 'en'],
      ['added', 'body/q2', 3],
    ])
    expect(differences[0]).toMatchObject({
      labels: ['Body', 'Heading'],
      before: { id: 'h1', block: 'heading', values: { text: { en: 'Bring' } } },
      words: [{ is: 'removed', text: 'Bring' }],
    })
    expect(differences[1]).toMatchObject({
      labels: ['Body', 'Quote', 'Text'],
      words: [{ text: 'Dark is ' }, { text: 'not' }, { text: 'never' }, { text: ' empty.' }],
    })
    expect(differences[2]!.words).toEqual([{ is: 'added', text: 'Mind the step.\nLet op de trede.' }])
  })
  it('compares lists of values item by item', () => {
    const tags = [
      { id: 'b', value: 'outdoors' },
      { id: 'c', value: 'walk' },
    ]
    expect(short(compare(start, change({ tags })))).toEqual([
      ['removed', 'tags/a', 1],
      ['changed', 'tags/b'],
      ['added', 'tags/c', 2],
    ])
  })
  it('looks into single groups and elements of repeated ones, and tells marks of rich text without words', () => {
    const shaped = makeModel({
      place: `
type: place
fields:
  title: { kind: text }
  contact: { kind: group, fields: { phone: { kind: text }, hours: { kind: group, many: true, fields: { day: { kind: text } } } } }
  about: { kind: richText, localized: true }
`,
    })
    const place = shaped.types[0]!
    const read = (values: unknown) => {
      const { document, problems } = readValues(shaped, place, values, locales, randomBytes())
      expect(problems).toEqual([])
      return document
    }
    const rich = (value: string, isStrong = false) => {
      const text = { type: 'text', value }
      const children = isStrong ? [{ type: 'strong', children: [text] }] : [text]
      return { en: { type: 'root', children: [{ type: 'paragraph', data: { id: 'b1' }, children }] } }
    }
    const hours = (day: string) => ({ id: 'm', values: { day } })
    const differences = compareDocuments(
      shaped,
      place,
      read({ contact: { phone: '1', hours: [hours('Mon')] }, about: rich('Low tide') }),
      read({ contact: { phone: '2', hours: [hours('Tue')] }, about: rich('Low tide', true) }),
      locales,
    )
    expect(short(differences)).toEqual([
      ['changed', 'contact.phone'],
      ['changed', 'contact.hours/m/day'],
      ['changed', 'about', 'en'],
    ])
    expect(differences[2]!.words).toBeUndefined()
  })
})

describe('going back', () => {
  const back = (from: Document, to: Document, places?: Parameters<typeof editsTowards>[4]) => {
    const edits = editsTowards(model, activity, from, to, places)
    const { document, problems } = readEdits(model, activity, from, edits, locales, randomBytes())
    expect(problems).toEqual([])
    return document
  }
  const later = change({
    title: { en: 'Dawn Walk', nl: 'Ochtend' },
    price: 4,
    body: [body[2], block('quote', 'q1', { text: { en: 'Light.' }, by: 'Nobody' })],
  })

  it('leads all the way, so that nothing differs', () => {
    expect(compare(back(later, start), start)).toEqual([])
    expect(compare(back(start, later), later)).toEqual([])
  })
  it('leads back only at the places named', () => {
    const title = back(later, start, [{ at: ['title'], locale: 'nl' }])
    expect(short(compare(title, later))).toEqual([['changed', 'title', 'nl']])
    expect(printValues(model, activity, title)['title']).toEqual({ en: 'Dawn Walk', nl: 'Nachtwandeling' })
    expect(short(compare(back(later, start, [{ at: ['body', 'q1', 'by'] }]), later))).toEqual([
      ['changed', 'body/q1/by'],
    ])
    expect(short(compare(back(later, start, [{ at: ['body'] }]), start))).toEqual([
      ['changed', 'title', 'en'],
      ['changed', 'title', 'nl'],
      ['changed', 'price'],
    ])
    expect(back(later, start, [{ at: ['nothing'] }])).toEqual(later)
  })
  it('gives back a block that went to another list', () => {
    const paired = makeModel({
      sheet:
        'type: sheet\nfields:\n  title: { kind: text }\n  front: { kind: block, many: true, accepts: [note] }\n  back: { kind: block, many: true, accepts: [note] }\n',
      note: 'block: note\nfields:\n  text: { kind: text }\n',
    })
    const sheet = paired.types[0]!
    const note = { id: 'n', block: 'note', values: { text: 'Tide' } }
    const read = (values: unknown) => readValues(paired, sheet, values, locales, randomBytes()).document
    const [was, is] = [read({ front: [note] }), read({ front: [], back: [note] })]
    const { document, problems } = readEdits(
      paired,
      sheet,
      is,
      editsTowards(paired, sheet, is, was),
      locales,
      randomBytes(),
    )
    expect(problems).toEqual([])
    expect(compareDocuments(paired, sheet, document, was, locales)).toEqual([])
  })
})
