import { describe, expect, it } from 'vitest'
import { locales, makeModel, randomBytes, richText } from '../../../../e2e/support/models.js'
import type { Document } from '../documents/document.js'
import { printValues, readValues } from '../documents/names.js'
import { upgradeDocument } from '../documents/upgrade.js'
import { namedEditsBetween } from './difference.js'
import { applyEdits, readEdits, type NamedEdit } from './edits.js'
import { conflictsBetween } from './merge.js'
import { placeIn } from './places.js'
import { rebase } from './rebase.js'

const model = makeModel({
  tale: 'type: tale\nfields:\n  name: { kind: text }\n  story: { kind: richText, localized: true }\n  notes: { kind: richText, many: true }\n  parts: { kind: block, many: true, accepts: [part] }\n',
  part: 'block: part\nfields:\n  text: { kind: richText, localized: true }\n',
})
const tale = model.types[0]!
const stored = (values: unknown): Document => {
  const { document, problems } = readValues(model, tale, values, locales, randomBytes(3))
  expect(problems).toEqual([])
  return document
}
const values = {
  story: { en: richText('one', 'two', 'three') },
  parts: [{ id: 'p1', block: 'part', values: { text: { en: richText('inside', 'deep') } } }],
}
const start = stored(values)
const read = (edits: readonly NamedEdit[], document = start) =>
  readEdits(model, tale, document, edits, locales, randomBytes(5))
const at = ['story']
const locale = 'en'
const paragraph = (value: string, id?: string) => ({
  type: 'paragraph',
  ...(id ? { data: { id } } : {}),
  children: [{ type: 'text', value }],
})
type Story = { children: { data: { id: string }; children: { value: string }[] }[] }
const texts = (document: Document, of = 'en') =>
  ((printValues(model, tale, document)['story'] as Record<string, Story>)[of]?.children ?? []).map(
    ({ data, children }) => `${data.id} ${children[0]!.value}`,
  )

describe('edits of a rich text', () => {
  it('set, insert, move and remove its blocks, by their ids', () => {
    const { document, problems } = read([
      { do: 'set', at: ['story', 'b2'], locale, value: paragraph('TWO') },
      { do: 'insert', at, locale, item: paragraph('first', 'f'), after: null },
      { do: 'insert', at, locale, item: paragraph('last', 'l') },
      { do: 'move', at: ['story', 'b3'], locale, after: 'b1' },
      { do: 'remove', at: ['story', 'b1'], locale },
    ])
    expect(problems).toEqual([])
    expect(texts(document)).toEqual(['f first', 'b3 three', 'b2 TWO', 'l last'])
  })
  it('go inside blocks of content, and begin a text that is not there yet', () => {
    const { document, problems } = read([
      { do: 'set', at: ['parts', 'p1', 'text', 'b2'], locale, value: paragraph('deeper') },
      { do: 'insert', at, locale: 'nl', item: paragraph('een', 'x') },
    ])
    expect(problems).toEqual([])
    expect(JSON.stringify(document)).toContain('"deeper"')
    expect(texts(document, 'nl')).toEqual(['x een'])
  })
  it.each<[NamedEdit, RegExp]>([
    [{ do: 'set', at: ['story', 'b9'], locale, value: paragraph('x') }, /There is no block `b9` in Story/],
    [{ do: 'set', at: ['story', 'b1'], value: paragraph('x') }, /say which `locale`/],
    [{ do: 'set', at: ['story', 'b1', 'text'], locale, value: 'x' }, /has no fields: set it as a whole/],
    [{ do: 'set', at: ['story', 'b1'], locale, value: 'x' }, /Story is not a rich text document at `children\[0\]`/],
    [{ do: 'insert', at, locale, item: paragraph('x', 'b1') }, /The id `b1` is taken/],
    [{ do: 'insert', at, locale, item: paragraph('x'), after: 'b9' }, /There is no item `b9` in Story/],
    [{ do: 'insert', at, locale, item: { type: 'html', value: '<b>' } }, /children\[0\].*one of/],
    [{ do: 'clear', at: ['story', 'b1'], locale }, /Use `remove`/],
    [{ do: 'set', at: ['notes', 'b1'], value: paragraph('x') }, /no item `b1` in Notes/],
  ])('refuse %j', (edit, says) => {
    const { problems, document } = read([edit])
    expect(problems.map(({ message }) => message).join()).toMatch(says)
    expect(document).toEqual(start)
  })
  it('keep the ids of blocks when a text is sent as a whole without them', () => {
    const whole = { type: 'root', children: [paragraph('three'), paragraph('new'), paragraph('one')] }
    const { document } = read([{ do: 'set', at, locale, value: whole }])
    expect(texts(document).map((text) => text.replace(/^\w{8} /, '? '))).toEqual(['b3 three', '? new', 'b1 one'])
  })
  it('leave nothing when the last block is removed: the field is empty then', () => {
    const { document } = read(['b1', 'b2', 'b3'].map((id) => ({ do: 'remove', at: ['story', id], locale })))
    expect(printValues(model, tale, document)).not.toHaveProperty('story')
  })
  it('move a paragraph into a quote and out again, and never leave an id that stands twice', () => {
    const quote = (...children: unknown[]) => ({ type: 'blockquote', data: { id: 'q' }, children })
    const inside = read([
      { do: 'insert', at, locale, item: quote(paragraph('two', 'b2')) },
      { do: 'remove', at: ['story', 'b2'], locale },
    ])
    expect(inside.problems).toEqual([])
    const outside = read(
      [
        { do: 'insert', at, locale, item: paragraph('two', 'b2'), after: 'b1' },
        { do: 'set', at: ['story', 'q'], locale, value: quote(paragraph('left', 'x')) },
      ],
      inside.document,
    )
    expect(outside.problems).toEqual([])
    const twice = read([{ do: 'insert', at, locale, item: quote(paragraph('two', 'b2')) }])
    expect(twice.problems).toEqual([
      {
        code: 'wrongForm',
        pointer: '/edits/0',
        message: 'Story has two blocks with the id `b2`.',
        parameters: { field: 'Story' },
      },
    ])
  })
})

describe('two people in one rich text', () => {
  const edits = (...named: NamedEdit[]) => read(named).edits
  it('in different blocks do not meet', () => {
    const ours = edits({ do: 'set', at: ['story', 'b1'], locale, value: paragraph('ONE') })
    const theirs = edits(
      { do: 'set', at: ['story', 'b2'], locale, value: paragraph('TWO') },
      { do: 'insert', at, locale, item: paragraph('new', 'n'), after: 'b1' },
      { do: 'move', at: ['story', 'b1'], locale, after: 'b3' },
    )
    expect(conflictsBetween(ours, theirs)).toEqual([])
    expect(texts(applyEdits(applyEdits(start, theirs), ours))).toEqual(['n new', 'b2 TWO', 'b3 three', 'b1 ONE'])
  })
  it('in the same block do, and so does whoever replaces the whole', () => {
    const ours = edits({ do: 'set', at: ['story', 'b1'], locale, value: paragraph('ONE') })
    for (const their of [
      { do: 'set', at: ['story', 'b1'], locale, value: paragraph('Eins') },
      { do: 'remove', at: ['story', 'b1'], locale },
      { do: 'set', at, locale, value: richText('other') },
      { do: 'clear', at, locale },
    ] as NamedEdit[])
      expect(conflictsBetween(ours, edits(their)).length).toBe(1)
  })
  const written = (...all: string[]) => ({ ...values, story: { en: richText(...all) } })
  it('are told apart by the edits of a form', () => {
    expect(namedEditsBetween(model, tale, values, written('one', 'TWO', 'three'))).toEqual([
      { do: 'set', at: ['story', 'b2'], locale, value: paragraph('TWO', 'b2') },
    ])
    expect(namedEditsBetween(model, tale, values, { ...values, story: {} })).toEqual([{ do: 'clear', at, locale }])
    const other = { type: 'root', children: [paragraph('x', 'z')] }
    expect(namedEditsBetween(model, tale, values, { ...values, story: { en: other } })).toEqual([
      { do: 'set', at, locale, value: other },
    ])
  })
  it('keep what both wrote when one is taken to the newest', () => {
    const { values: result, conflicts } = rebase(
      model,
      tale,
      values,
      written('ONE', 'two', 'three'),
      written('one', 'two', 'THREE'),
    )
    expect(conflicts).toEqual([])
    expect(result['story']).toEqual({ en: richText('ONE', 'two', 'THREE') })
    const meeting = rebase(model, tale, values, written('ONE', 'two', 'three'), written('Eins', 'two', 'THREE'))
    expect(meeting.conflicts.map((conflict) => conflict.at)).toEqual([['story', 'b1']])
    expect(meeting.values['story']).toEqual({ en: richText('ONE', 'two', 'THREE') })
  })
  it('are asked about a block by what people call it', () =>
    expect(placeIn(model, tale, values, { at: ['story', 'b2'], locale })).toMatchObject({
      labels: ['Story', 'Paragraph 2'],
      pointer: '/values/story/en/children/1',
    }))
})

describe('rich text of the earlier form', () => {
  const earlier = (text: string) => ({ blocks: [{ is: 'paragraph', spans: [{ text }] }] })
  const id = (name: string) => tale.fields.find((field) => field.name === name)!.id
  const part = model.blockTypes[0]!
  const old: Document = {
    [id('story')]: { en: earlier('one'), nl: earlier('een') },
    [id('notes')]: [{ id: 'n', value: earlier('note') }],
    [id('parts')]: [{ id: 'p', block: part.id, values: { [part.fields[0]!.id]: { en: earlier('deep') } } }],
  }
  it('is read in the form of now, wherever it stands', () => {
    const upgraded = upgradeDocument(model, tale, old, model.version)
    expect(printValues(model, tale, upgraded)).toEqual({
      story: { en: richText('one'), nl: richText('een') },
      notes: [{ id: 'n', value: richText('note') }],
      parts: [{ id: 'p', block: 'part', values: { text: { en: richText('deep') } } }],
    })
    expect(upgradeDocument(model, tale, upgraded, model.version)).toBe(upgraded)
  })
  it('becomes text where the field has become one', () => {
    const now = makeModel({ tale: 'type: tale\nfields:\n  story: { kind: text, localized: true }\n' }, model)
    const upgraded = upgradeDocument(now, now.types[0]!, { [id('story')]: { en: earlier('one') } }, model.version)
    expect(printValues(now, now.types[0]!, upgraded)['story']).toEqual({ en: 'one' })
  })
})
