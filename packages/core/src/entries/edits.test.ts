import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { block, doc, id, locales, model, randomBytes, type } from '../../../../e2e/support/models.js'
import { namedEditsBetween } from './difference.js'
import { isRecord, sameContent, type Document } from '../documents/document.js'
import { applyEdits, readEdits, type Edit, type NamedEdit } from './edits.js'
import { conflictsBetween } from './merge.js'
import { printValues, readValues } from '../documents/names.js'
import { often } from '../../../../e2e/support/length.js'

const activity = type('activity')
const start = doc('activity', {
  title: { en: 'Night Walk', nl: 'Nachtwandeling' },
  price: 9,
  tags: [
    { id: 'a', value: 'dark' },
    { id: 'b', value: 'outside' },
  ],
  body: [
    block('heading', 'h1', { text: { en: 'One' } }),
    block('quote', 'q1', { text: { en: 'Two' }, by: 'A keeper' }),
  ],
})
const read = (edits: readonly NamedEdit[], document: Document = start) =>
  readEdits(model, activity, document, edits, locales, randomBytes(5))
const after = (...edits: NamedEdit[]) => {
  const result = read(edits)
  expect(result.problems).toEqual([])
  return printValues(model, activity, result.document)
}
const ids = (values: Record<string, unknown>) => (values['body'] as { id: string }[]).map((item) => item.id)

describe('edits', () => {
  it('set, clear and empty a value on purpose', () => {
    expect(after({ do: 'set', at: ['title'], locale: 'ar', value: 'نزهة' })['title']).toEqual({
      en: 'Night Walk',
      nl: 'Nachtwandeling',
      ar: 'نزهة',
    })
    expect(after({ do: 'clear', at: ['title'], locale: 'nl' })['title']).toEqual({ en: 'Night Walk' })
    expect(after({ do: 'set', at: ['title'], locale: 'nl', value: null })['title']).toEqual({
      en: 'Night Walk',
      nl: null,
    })
    expect(after({ do: 'clear', at: ['price'] })).not.toHaveProperty('price')
    expect(
      after({ do: 'clear', at: ['title'], locale: 'nl' }, { do: 'clear', at: ['title'], locale: 'en' }),
    ).not.toHaveProperty('title')
  })
  it('write inside a block, found by its id', () => {
    const body = after({ do: 'set', at: ['body', 'h1', 'text'], locale: 'nl', value: 'Een' })['body'] as {
      values: unknown
    }[]
    expect(body[0]?.values).toEqual({ text: { en: 'One', nl: 'Een' } })
    expect(
      (after({ do: 'set', at: ['body', 'q1', 'by'], value: 'Somebody' })['body'] as { values: unknown }[])[1]?.values,
    ).toMatchObject({ by: 'Somebody' })
  })
  it('insert, move and remove items', () => {
    const heading = { id: 'h2', block: 'heading', values: {} }
    expect(ids(after({ do: 'insert', at: ['body'], item: heading }))).toEqual(['h1', 'q1', 'h2'])
    expect(ids(after({ do: 'insert', at: ['body'], item: heading, after: null }))).toEqual(['h2', 'h1', 'q1'])
    expect(ids(after({ do: 'insert', at: ['body'], item: heading, after: 'h1' }))).toEqual(['h1', 'h2', 'q1'])
    expect(ids(after({ do: 'move', at: ['body', 'q1'], after: null }))).toEqual(['q1', 'h1'])
    expect(ids(after({ do: 'remove', at: ['body', 'h1'] }))).toEqual(['q1'])
    expect(after({ do: 'set', at: ['tags', 'a'], value: 'bright' })['tags']).toEqual([
      { id: 'a', value: 'bright' },
      { id: 'b', value: 'outside' },
    ])
  })
  it('may speak of what an earlier one inserted', () => {
    const values = after(
      { do: 'insert', at: ['body'], item: { id: 'h2', block: 'heading' } },
      { do: 'set', at: ['body', 'h2', 'text'], locale: 'en', value: 'New' },
    )
    expect((values['body'] as { values: unknown }[])[2]?.values).toEqual({ text: { en: 'New' } })
  })

  it.each([
    [{ do: 'set', at: ['titel'], locale: 'en', value: 'x' }, '/edits/0/at', /Did you mean `title`\?/],
    [{ do: 'set', at: ['title'], value: 'x' }, '/edits/0', /localized: say which `locale`/],
    [{ do: 'set', at: ['price'], locale: 'en', value: 3 }, '/edits/0/locale', /one value for all locales/],
    [{ do: 'set', at: ['title'], locale: 'fr', value: 'x' }, '/edits/0/locale', /not a locale of this site/],
    [{ do: 'set', at: ['price'] }, '/edits/0', /needs a `value`/],
    [{ do: 'set', at: ['price'], value: 'x' }, '/edits/0/value', /must be a number/],
    [{ do: 'set', at: ['body', 'h1'], value: {} }, '/edits/0/at', /not set as a whole/],
    [{ do: 'set', at: ['body', 'zz', 'text'], locale: 'en', value: 'x' }, '/edits/0/at', /no item `zz` in Body/],
    [{ do: 'set', at: ['price', 'a'], value: 3 }, '/edits/0/at', /holds one value/],
    [{ do: 'set', at: ['tags', 'a', 'x'], value: 3 }, '/edits/0/at', /has no fields/],
    [{ do: 'clear', at: ['body', 'h1'] }, '/edits/0/at', /Use `remove`/],
    [{ do: 'insert', at: ['price'], item: 3 }, '/edits/0/at', /names a field with multiple values/],
    [{ do: 'insert', at: ['body'], item: { id: 'h1', block: 'heading' } }, '/edits/0/item/id', /`h1` is taken/],
    [{ do: 'insert', at: ['body'], item: { block: 'heading' }, after: 'zz' }, '/edits/0/after', /no item `zz`/],
    [{ do: 'move', at: ['body'], after: null }, '/edits/0/at', /names an item/],
    [{ do: 'move', at: ['body', 'h1'] }, '/edits/0', /needs `after`/],
    [{ do: 'remove', at: ['body'] }, '/edits/0/at', /names an item/],
  ] as [NamedEdit, string, RegExp][])('are refused with their place: %j', (edit, pointer, message) => {
    const [problem] = read([edit]).problems
    expect(problem?.pointer).toBe(pointer)
    expect(problem?.message).toMatch(message)
  })
})

describe('merging', () => {
  const collide = (ours: NamedEdit[], theirs: NamedEdit[]) =>
    conflictsBetween(read(ours).edits, read(theirs).edits).length

  it.each([
    [
      'two locales of a field',
      { do: 'set', at: ['title'], locale: 'en', value: 'A' },
      { do: 'set', at: ['title'], locale: 'nl', value: 'B' },
    ],
    ['two fields', { do: 'set', at: ['price'], value: 1 }, { do: 'set', at: ['title'], locale: 'nl', value: 'B' }],
    [
      'moving a block and writing inside it',
      { do: 'move', at: ['body', 'q1'], after: null },
      { do: 'set', at: ['body', 'q1', 'by'], value: 'B' },
    ],
    [
      'two insertions',
      { do: 'insert', at: ['body'], item: { id: 'x', block: 'heading' } },
      { do: 'insert', at: ['body'], item: { id: 'y', block: 'heading' } },
    ],
    ['the same change', { do: 'set', at: ['price'], value: 1 }, { do: 'set', at: ['price'], value: 1 }],
    ['removing the same block', { do: 'remove', at: ['body', 'h1'] }, { do: 'remove', at: ['body', 'h1'] }],
    [
      'removing one block and writing in another',
      { do: 'remove', at: ['body', 'h1'] },
      { do: 'set', at: ['body', 'q1', 'by'], value: 'B' },
    ],
  ] as [string, NamedEdit, NamedEdit][])('lets pass %s', (_, ours, theirs) => expect(collide([ours], [theirs])).toBe(0))

  it.each([
    ['the same value', { do: 'set', at: ['price'], value: 1 }, { do: 'set', at: ['price'], value: 2 }],
    ['setting and clearing', { do: 'set', at: ['price'], value: 1 }, { do: 'clear', at: ['price'] }],
    [
      'removing a block and writing in it',
      { do: 'remove', at: ['body', 'h1'] },
      { do: 'set', at: ['body', 'h1', 'text'], locale: 'en', value: 'B' },
    ],
    [
      'replacing a list and writing in it',
      { do: 'set', at: ['body'], value: [] },
      { do: 'set', at: ['body', 'h1', 'text'], locale: 'en', value: 'B' },
    ],
    [
      'moving a block to two places',
      { do: 'move', at: ['body', 'h1'], after: 'q1' },
      { do: 'move', at: ['body', 'h1'], after: null },
    ],
    [
      'removing a block and moving it',
      { do: 'remove', at: ['body', 'h1'] },
      { do: 'move', at: ['body', 'h1'], after: 'q1' },
    ],
    ['one item', { do: 'set', at: ['tags', 'a'], value: 'x' }, { do: 'set', at: ['tags', 'a'], value: 'y' }],
  ] as [string, NamedEdit, NamedEdit][])('asks about %s', (_, ours, theirs) => {
    expect(collide([ours], [theirs])).toBe(1)
    expect(collide([theirs], [ours])).toBe(1)
  })

  it('comes to the same whoever was first, when nothing collides', () => {
    const edit = fc.oneof(
      fc.record({ do: fc.constant('set' as const), at: fc.constant(['price']), value: fc.integer({ min: 0, max: 3 }) }),
      fc.record({
        do: fc.constant('set' as const),
        at: fc.constant(['title']),
        locale: fc.constantFrom(...locales),
        value: fc.constantFrom('A', 'B', null),
      }),
      fc.record({
        do: fc.constant('set' as const),
        at: fc.constantFrom(['body', 'h1', 'text'], ['body', 'q1', 'text']),
        locale: fc.constantFrom(...locales),
        value: fc.constantFrom('A', 'B'),
      }),
      fc.record({
        do: fc.constant('set' as const),
        at: fc.constantFrom(['tags', 'a'], ['tags', 'b']),
        value: fc.constantFrom('A', 'B'),
      }),
      fc.record({ do: fc.constant('clear' as const), at: fc.constant(['title']), locale: fc.constantFrom(...locales) }),
      fc.record({ do: fc.constant('remove' as const), at: fc.constantFrom(['tags', 'a'], ['body', 'q1']) }),
    )
    fc.assert(
      fc.property(edit, edit, (first, other) => {
        const [ours, theirs] = [read([first]).edits, read([other]).edits]
        fc.pre(conflictsBetween(ours, theirs).length === 0)
        return sameContent(applyEdits(applyEdits(start, ours), theirs), applyEdits(applyEdits(start, theirs), ours))
      }),
      { numRuns: often(1000, 10_000) },
    )
  })

  it('passes over what is gone, and puts at the end what has lost its place', () => {
    const edits: Edit[] = [
      { do: 'set', at: [id('activity', 'body'), 'gone', id('heading', 'text')], locale: 'en', value: 'x' },
      { do: 'insert', at: [id('activity', 'body')], item: block('heading', 'h9', {}), after: 'gone' },
    ]
    expect(ids(printValues(model, activity, applyEdits(start, edits)))).toEqual(['h1', 'q1', 'h9'])
  })
})

/** Values of an activity as in a form; the ids of items are from a small set, so that two share some. */
const formValues = fc.record(
  {
    title: fc.dictionary(fc.constantFrom(...locales), fc.constantFrom('One', 'Two', null), { maxKeys: 3 }),
    price: fc.constantFrom(0, 5, 9, null),
    tags: fc.uniqueArray(
      fc.record({ id: fc.constantFrom('a', 'b', 'c', 'd', 'e'), value: fc.constantFrom('x', 'y') }),
      { selector: (item) => item.id },
    ),
    body: fc.uniqueArray(
      fc.oneof(
        fc.record({
          id: fc.constantFrom('h1', 'h2', 'h3'),
          block: fc.constant('heading'),
          values: fc.record({ text: fc.dictionary(fc.constantFrom('en', 'nl'), fc.constantFrom('A', 'B')) }),
        }),
        fc.record({
          id: fc.constantFrom('q1', 'q2'),
          block: fc.constant('quote'),
          values: fc.record({ by: fc.constantFrom('X', 'Y') }, { requiredKeys: [] }),
        }),
      ),
      { selector: (item) => item.id },
    ),
  },
  { requiredKeys: [] },
)

/** Read values have no empty maps of locales. */
const tidy = (values: unknown): Record<string, unknown> =>
  printValues(model, activity, readValues(model, activity, values, locales, randomBytes()).document)

describe('the edits of a form', () => {
  it('turn any values into any others, place by place', () => {
    fc.assert(
      fc.property(formValues, formValues, (from, to) => {
        const [before, wanted] = [tidy(from), tidy(to)]
        const document = readValues(model, activity, before, locales, randomBytes()).document
        const result = read(namedEditsBetween(model, activity, before, wanted), document)
        expect(result.problems).toEqual([])
        expect(withoutEmpty(printValues(model, activity, result.document))).toEqual(withoutEmpty(wanted))
      }),
      { numRuns: often(600, 6000) },
    )
  })
  it('are none when nothing was changed', () => {
    fc.assert(
      fc.property(
        formValues,
        (values) => namedEditsBetween(model, activity, tidy(values), structuredClone(tidy(values))).length === 0,
      ),
    )
  })
  it('say that a block moved, and do not write it anew', () => {
    const before = printValues(model, activity, start)
    const moved = { ...before, body: [...(before['body'] as unknown[])].reverse() }
    expect(namedEditsBetween(model, activity, before, moved)).toEqual([{ do: 'move', at: ['body', 'q1'], after: null }])
  })
})

/** A missing list and an empty one are the same in a form. */
function withoutEmpty(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withoutEmpty)
  if (!isRecord(value)) return value
  return Object.fromEntries(
    Object.entries(value).flatMap(([key, member]) => {
      const kept = withoutEmpty(member)
      return (Array.isArray(kept) && kept.length === 0) ||
        (isRecord(kept) && Object.keys(kept).length === 0 && key !== 'values')
        ? []
        : [[key, kept]]
    }),
  )
}
