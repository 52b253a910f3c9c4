import { describe, expect, it } from 'vitest'
import { makeModel, modelSite, richText } from '../../../../e2e/support/models.js'
import { codeFaults, wordsOf, type SegmentText } from '../text/segmentText.js'
import { segmentOfPhrasing, phrasingOfSegment } from '../richtext/segments.js'
import { readValues } from '../documents/names.js'
import type { Document } from '../documents/document.js'
import type { RichText } from '../richtext/document.js'
import { segmentKey, segmentsOf, translate, type Segment } from './segments.js'

const model = makeModel({
  page: `type: page
fields:
  title: { kind: text, localized: true, length: { max: 60 } }
  slug: { kind: slug, from: title, localized: true }
  tags: { kind: text, localized: true, many: true }
  story: { kind: richText, localized: true }
  meta: { kind: metadata, localized: true }
  price: { kind: number, localized: true }
  contact: { kind: group, fields: { phone: { kind: text }, note: { kind: text, localized: true } } }
  hours: { kind: group, many: true, fields: { day: { kind: text, localized: true }, from: { kind: text } } }
  body: { kind: block, many: true, accepts: [words, panel] }
  aside: { kind: block, many: true, localized: true, accepts: [words, panel] }
`,
  words: 'block: words\nfields:\n  text: { kind: longText, localized: true }\n  colour: { kind: colour }\n',
  panel:
    'block: panel\nfields:\n  heading: { kind: text, localized: true }\n  parts: { kind: block, many: true, accepts: [words] }\n',
})
const type = model.types[0]!
const block = (id: string, text: unknown, of = 'words') => ({ id, block: of, values: { text, colour: '#112233' } })
const page = {
  title: { en: 'Night walk' },
  slug: { en: 'night-walk' },
  tags: {
    en: [
      { id: 't1', value: 'sea' },
      { id: 't2', value: 'dark' },
    ],
  },
  story: {
    en: {
      type: 'root',
      children: [
        { type: 'heading', depth: 2, data: { id: 'h' }, children: [{ type: 'text', value: 'Eight rings' }] },
        {
          type: 'paragraph',
          data: { id: 'p' },
          children: [
            { type: 'text', value: 'It turns with ' },
            {
              type: 'strong',
              children: [
                { type: 'emphasis', children: [{ type: 'text', value: 'one' }] },
                { type: 'text', value: ' finger' },
              ],
            },
            { type: 'break' },
            { type: 'link', url: 'https://marram.example/', children: [{ type: 'text', value: 'here' }] },
          ],
        },
        { type: 'code', value: 'x = 1', data: { id: 'c' } },
        {
          type: 'list',
          ordered: false,
          spread: false,
          data: { id: 'l' },
          children: ['One', 'Two'].map((value, index) => ({
            type: 'listItem',
            spread: false,
            data: { id: `i${index}` },
            children: [{ type: 'paragraph', data: { id: `ip${index}` }, children: [{ type: 'text', value }] }],
          })),
        },
      ],
    },
  },
  meta: { en: { title: 'Walk', hidden: true } },
  price: { en: 5 },
  contact: { phone: '1', note: { en: 'Ring twice' } },
  hours: [{ id: 'g1', values: { day: { en: 'Friday' }, from: '9' } }],
  body: [
    block('b1', { en: 'First' }),
    { id: 'b2', block: 'panel', values: { heading: { en: 'Panel' }, parts: [block('b3', { en: 'Inside' })] } },
  ],
  aside: {
    en: [
      block('a1', 'Own words'),
      { id: 'a2', block: 'panel', values: { heading: 'In the margin', parts: [block('a3', 'Deep')] } },
    ],
  },
}
const read = (values: unknown): Document => {
  const { document, problems } = readValues(model, type, values, modelSite.locales, (bytes) =>
    new Uint8Array(bytes).fill(7),
  )
  expect(problems).toEqual([])
  return document
}
const source = read(page)
const english = segmentsOf(model, type, source, 'en')
const texts = (segments: readonly Segment[], change = (text: SegmentText): SegmentText => text) =>
  new Map(segments.map((segment) => [segmentKey(segment), change(segment.text)]))
const inDutch = (document: Document) => segmentsOf(model, type, document, 'nl').map(({ text }) => wordsOf(text))

describe('segments of an entry', () => {
  it('are its texts in the order of the form: of groups, blocks in blocks, lists and rich text by their blocks', () => {
    expect(english.map(({ text }) => wordsOf(text))).toEqual([
      'Night walk',
      'night-walk',
      'sea',
      'dark',
      'Eight rings',
      'It turns with one fingerhere',
      'One',
      'Two',
      'Walk',
      'Ring twice',
      'Friday',
      'First',
      'Panel',
      'Inside',
      'Own words',
      'In the margin',
      'Deep',
    ])
    expect(english[0]!.maxLength).toBe(60)
    expect(new Set(english.map(segmentKey)).size).toBe(english.length)
    expect(inDutch(source)).toEqual([])
  })
  it('have addresses that survive moves', () => {
    const moved = read({ ...page, body: page.body.toReversed(), tags: { en: page.tags.en.toReversed() } })
    const keys = segmentsOf(model, type, moved, 'en').map(segmentKey)
    expect(keys.toSorted()).toEqual(english.map(segmentKey).toSorted())
  })
})

describe('a translation', () => {
  it('of everything has the same units, and its source and shared values are untouched', () => {
    const translated = translate(model, type, source, 'en', 'nl', texts(english))
    const dutch = segmentsOf(model, type, translated, 'nl')
    expect(dutch.map(segmentKey)).toEqual(english.map(segmentKey))
    expect(dutch.map(({ text }) => text)).toEqual(english.map(({ text }) => text))
    expect(segmentsOf(model, type, translated, 'en')).toEqual(english)
    // Values without units are copied inside blocks that belong to the locale, and left alone elsewhere.
    const at = (name: string) => translated[type.fields.find((field) => field.name === name)!.id]
    expect((at('aside') as { nl: { values: object }[] }).nl).toEqual((at('aside') as { en: unknown }).en)
    expect(at('price')).toEqual(source[type.fields.find((field) => field.name === 'price')!.id])
    expect((at('meta') as { nl: unknown }).nl).toEqual({ title: 'Walk', hidden: true })
    expect((at('story') as { nl: RichText }).nl).toEqual((at('story') as { en: RichText }).en)
  })
  it('done twice is the same as once', () => {
    const once = translate(model, type, source, 'en', 'nl', texts(english))
    expect(translate(model, type, once, 'en', 'nl', texts(english))).toEqual(once)
  })
  it('of nothing changes nothing', () => expect(translate(model, type, source, 'en', 'nl', new Map())).toEqual(source))
  it('one unit after the other comes to the same as all at once, in any order', () => {
    const all = translate(model, type, source, 'en', 'nl', texts(english))
    for (const order of [english, english.toReversed()]) {
      let document = source
      for (const segment of order) document = translate(model, type, document, 'en', 'nl', texts([segment]))
      expect(inDutch(document)).toEqual(inDutch(all))
    }
  })
  it('keeps the blocks of its own, and puts new ones where they are in the source', () => {
    const own = read({
      ...page,
      aside: { ...page.aside, nl: [block('x1', 'Alleen hier'), block('a1', 'Eigen woorden')] },
    })
    const deep = english.filter(({ text }) => wordsOf(text) === 'Deep')
    const translated = translate(
      model,
      type,
      own,
      'en',
      'nl',
      texts(deep, () => ['Diep']),
    )
    expect(inDutch(translated)).toEqual(['Alleen hier', 'Eigen woorden', 'Diep'])
  })
  it('keeps paragraphs of its own', () => {
    const own = read({ ...page, story: { ...page.story, nl: richText('Alleen hier') } })
    const heading = english.filter(({ text }) => wordsOf(text) === 'Eight rings')
    const translated = translate(
      model,
      type,
      own,
      'en',
      'nl',
      texts(heading, () => ['Acht ringen']),
    )
    expect(inDutch(translated)).toEqual(['Acht ringen', 'Alleen hier'])
  })
})

describe('inline codes', () => {
  const nodes = page.story.en.children[1]!.children as never
  const { text, codes } = segmentOfPhrasing(nodes)
  it('stand for formats, links and breaks', () => {
    expect(text).toEqual([
      'It turns with ',
      { code: '1', inside: [{ code: '2', inside: ['one'] }, ' finger'] },
      { code: '3' },
      { code: '4', inside: ['here'] },
    ])
    expect(phrasingOfSegment(text, codes)).toEqual(nodes)
  })
  it('may stand elsewhere in a translation, and nest in the one order again', () => {
    const moved: SegmentText = [
      { code: '4', inside: ['Hier'] },
      { code: '3' },
      { code: '2', inside: [{ code: '1', inside: ['draait'] }] },
    ]
    expect(codeFaults(text, moved)).toEqual([])
    expect(phrasingOfSegment(moved, codes)).toEqual([
      { type: 'link', url: 'https://marram.example/', children: [{ type: 'text', value: 'Hier' }] },
      { type: 'break' },
      { type: 'strong', children: [{ type: 'emphasis', children: [{ type: 'text', value: 'draait' }] }] },
    ])
  })
  it('are missed, unknown, there twice or in another form', () => {
    expect(codeFaults(text, ['x', { code: '9' }, { code: '3' }, { code: '3' }, { code: '1' }])).toEqual([
      { is: 'unknown', code: '9' },
      { is: 'twice', code: '3' },
      { is: 'otherForm', code: '1' },
      { is: 'missing', code: '2' },
      { is: 'missing', code: '4' },
    ])
    // An unknown one loses no words.
    expect(phrasingOfSegment([{ code: '9', inside: ['kept'] }], codes)).toEqual([{ type: 'text', value: 'kept' }])
  })
})
