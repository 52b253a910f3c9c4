import { describe, expect, it } from 'vitest'
import { block, doc, locales, makeModel, model, randomBytes, type } from '../../../../e2e/support/models.js'
import { itemIdsIn } from './document.js'
import { printValues, readValues } from './names.js'
import { upgradeDocument } from './upgrade.js'

const read = (typeName: string, values: unknown) => readValues(model, type(typeName), values, locales, randomBytes())
const person = '01hz0000000000000000'

describe('reading values', () => {
  it('keys them by internal ids and mints ids that were left out', () => {
    const { document, problems } = read('activity', {
      title: { en: 'Night Walk', nl: null },
      format: 'walk',
      speakers: [person],
      tags: [{ id: 'mine', value: 'dark' }, 'outside'],
      body: [{ block: 'heading', values: { text: { en: 'Bring' } } }],
    })
    expect(problems).toEqual([])
    expect(document).toMatchObject(
      doc('activity', {
        title: { en: 'Night Walk', nl: null },
        format: 'walk',
        tags: [{ id: 'mine', value: 'dark' }, { value: 'outside' }],
      }),
    )
    expect(itemIdsIn(model, type('activity'), document, locales).size).toBe(4)
  })

  it('prints what it read', () => {
    const values = {
      title: { en: 'Night Walk' },
      price: 9,
      free: false,
      speakers: [{ id: 's1', value: person }],
      body: [{ id: 'h1', block: 'heading', values: { text: { en: 'Bring', nl: 'Neem mee' } } }],
    }
    expect(printValues(model, type('activity'), read('activity', values).document)).toEqual(values)
  })

  it('leaves out what the model no longer has', () => {
    expect(printValues(model, type('museum'), { ...doc('museum', { town: 'Greyflats' }), f999: 'old' })).toEqual({
      town: 'Greyflats',
    })
    expect(
      printValues(
        model,
        type('activity'),
        doc('activity', { body: [{ ...block('heading', 'h', {}), block: 'b999' }] }),
      ),
    ).toEqual({ body: [] })
  })

  it.each([
    [{ titel: { en: 'x' } }, '/values/titel', /`titel` is not a field of activity. Did you mean `title`\?/],
    [{ title: 'x' }, '/values/title', /holds a value per locale: write `\{ "en": … \}`/],
    [{ title: { fr: 'x' } }, '/values/title/fr', /`fr` is not a locale of this site/],
    [{ title: { en: 3 } }, '/values/title/en', /Title must be a text/],
    [{ title: { en: 'a\u0000b' } }, '/values/title/en', /a character in it that is none/],
    [{ title: { en: 'a\ud800b' } }, '/values/title/en', /a character in it that is none/],
    [{ summary: { en: 'x'.repeat(1_000_001) } }, '/values/summary/en', /at most 1000000 fit/],
    [{ price: '9' }, '/values/price', /Price must be a number/],
    [{ speakers: person }, '/values/speakers', /must be a list/],
    [{ speakers: ['x'] }, '/values/speakers/0', /must be the id of an entry/],
    [{ speakers: [{ id: 'a', value: null }] }, '/values/speakers/0/value', /needs a value/],
    [
      {
        tags: [
          { id: 'a', value: 'x' },
          { id: 'a', value: 'y' },
        ],
      },
      '/values/tags/1/id',
      /`a` is there twice/,
    ],
    [{ tags: [{ id: 'not an id', value: 'x' }] }, '/values/tags/0/id', /1 to 40 letters/],
    [{ tags: [{ value: 'x', colour: 'blue' }] }, '/values/tags/0/colour', /does not belong here/],
    [{ tags: Array.from({ length: 1001 }, () => 'x') }, '/values/tags', /at most 1000 fit/],
    [
      { body: [{ block: 'headin', values: {} }] },
      '/values/body/0/block',
      /takes heading, quote, not `headin`. Did you mean `heading`\?/,
    ],
    [{ body: ['text'] }, '/values/body/0', /A block is/],
    [
      { body: [{ block: 'heading', values: { text: { en: 3 } } }] },
      '/values/body/0/values/text/en',
      /Text must be a text/,
    ],
    [{ 'a/b~c': 1 }, '/values/a~1b~0c', /is not a field/],
    [[], '/values', /must be an object/],
    ['x', '/values', /must be an object/],
  ])('says where and what would be right: %j', (values, pointer, message) => {
    const { problems } = read('activity', values)
    expect(problems[0]?.pointer).toBe(pointer)
    expect(problems[0]?.message).toMatch(message)
  })

  it('tells of every mistake at once', () => {
    expect(read('activity', { titel: 1, price: 'x', body: [{ block: 'nope' }] }).problems).toHaveLength(3)
  })

  it('lets lists of different locales share ids, and nothing else', () => {
    const notes = makeModel({
      note: 'type: note\nfields:\n  title: { kind: text }\n  tags: { kind: text, many: true, localized: true }\n  all: { kind: text, many: true }\n',
    })
    const problems = (values: unknown) =>
      readValues(notes, notes.types[0]!, values, locales, randomBytes()).problems.map(({ pointer }) => pointer)
    const tag = (id: string) => ({ id, value: 'dark' })
    expect(problems({ tags: { en: [tag('a')], nl: [tag('a')] } })).toEqual([])
    expect(problems({ tags: { en: [tag('a')], nl: [tag('b'), tag('b')] } })).toEqual(['/values/tags/nl/1/id'])
    expect(problems({ tags: { en: [tag('a')] }, all: [tag('a')] })).toEqual(['/values/all/0/id'])
    expect(problems({ all: [tag('a')], tags: { nl: [tag('a')] } })).toEqual(['/values/tags/nl/0/id'])
  })

  it('reads items whose id was called handle, at any depth, and otherwise is the same object', () => {
    const written = { tags: ['dark'], body: [{ block: 'heading', values: { text: { en: 'Bring' } } }] }
    const { document } = read('activity', written)
    const before = JSON.parse(JSON.stringify(document).replaceAll('"id":', '"handle":')) as typeof document
    expect(before).not.toEqual(document)
    expect(upgradeDocument(model, type('activity'), before, model.version)).toEqual(document)
    expect(upgradeDocument(model, type('activity'), document, model.version)).toBe(document)
  })

  it('brings text into one normal form', () => {
    expect(read('museum', { town: 'Cafe\u0301' }).document).toEqual(doc('museum', { town: 'Café' }))
  })
})
