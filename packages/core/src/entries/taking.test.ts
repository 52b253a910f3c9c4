import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { locales, model, randomBytes, type } from '../../../../e2e/support/models.js'
import { sameContent, type Document } from '../documents/document.js'
import { printValues, readValues } from '../documents/names.js'
import { changesToTake, takeChanges, type Copied, type SourceChange } from './taking.js'

const activity = type('activity')
type Values = Record<string, unknown>
const heading = (id: string, en: string) => ({ id, block: 'heading', values: { text: { en } } })
const quote = (id: string, en: string, by = 'A keeper') => ({ id, block: 'quote', values: { text: { en }, by } })
const read = (values: Values): Document => readValues(model, activity, values, locales, randomBytes()).document
const blocks = [heading('h1', 'One'), quote('q1', 'Two'), heading('h2', 'Three')]
const start: Values = { title: { en: 'Night Walk', nl: 'Nachtwandeling' }, price: 9, body: blocks }

const copied = (source: Values, copy: Values, base: Values = start): Copied => ({
  base: read(base),
  source: read(source),
  copy: read(copy),
})
const changes = (of: Copied) => changesToTake(model, activity, of, locales)
const take = (of: Copied, takes: (change: SourceChange) => boolean) => takeChanges(model, activity, of, locales, takes)
const short = (all: readonly SourceChange[]) =>
  all.map(({ how, at, locale, own }) => [how, at.join('/'), locale, own.map((mine) => mine.at.join('/'))])
const printed = (values: Values) => printValues(model, activity, read(values))
const order = (values: Values) => (values['body'] as { id: string }[]).map(({ id }) => id)

describe('taking the changes of a source', () => {
  // The source moved its last block to the front and edited one; the copy moved another, and edited two.
  const source = { ...start, price: 12, body: [heading('h2', 'Three'), heading('h1', 'Uno'), quote('q1', 'Two')] }
  const copy = {
    ...start,
    title: { en: 'Northern Walk', nl: 'Nachtwandeling' },
    body: [quote('q1', 'Due', 'A pilot'), heading('h1', 'Ein'), heading('h2', 'Three')],
  }

  it('says what changed in the source, and what the copy changed at the same place', () => {
    expect(short(changes(copied(source, copy)))).toEqual([
      ['changed', 'price', null, []],
      ['moved', 'body/h2', null, []],
      ['changed', 'body/h1/text', 'en', ['body/h1/text']],
    ])
  })
  it('keeps what both moved and edited at different places', () => {
    const now = take(copied(source, copy), ({ own }) => own.length === 0)
    expect(order(now)).toEqual(['h2', 'q1', 'h1'])
    expect(now).toMatchObject({ price: 12, title: { en: 'Northern Walk' } })
    expect(now['body']).toContainEqual(quote('q1', 'Due', 'A pilot'))
    expect(now['body']).toContainEqual(heading('h1', 'Ein'))
  })
  it('takes what is chosen where both changed a place, and leaves single changes out', () => {
    const now = take(copied(source, copy), ({ how, at }) => how !== 'moved' && at[0] !== 'price')
    expect(order(now)).toEqual(['q1', 'h1', 'h2'])
    expect(now['price']).toBe(9)
    expect(now['body']).toContainEqual(heading('h1', 'Uno'))
  })
  it('asks about a block that the source removed and the copy edited, and about the reverse', () => {
    const less = { ...start, body: [blocks[0], blocks[2]] }
    const edited = { ...start, body: [blocks[0], quote('q1', 'Due'), blocks[2]] }
    expect(short(changes(copied(less, edited)))).toEqual([['removed', 'body/q1', null, ['body/q1/text']]])
    expect(order(take(copied(less, edited), () => false))).toEqual(['h1', 'q1', 'h2'])
    expect(order(take(copied(less, edited), () => true))).toEqual(['h1', 'h2'])
    expect(short(changes(copied(edited, less)))).toEqual([['changed', 'body/q1/text', 'en', ['body/q1']]])
    expect(take(copied(edited, less), () => true)['body']).toContainEqual(quote('q1', 'Due'))
    expect(order(take(copied(edited, less), () => false))).toEqual(['h1', 'h2'])
  })
  it('leaves out what the copy has already', () => {
    expect(changes(copied(source, source))).toEqual([])
    const same = { ...copy, price: 12 }
    expect(short(changes(copied(source, same))).map(([, at]) => at)).toEqual(['body/h2', 'body/h1/text'])
  })
  it('takes a list that the source cleared, item by item', () => {
    const { body: _, ...cleared } = start
    expect(short(changes(copied(cleared, start))).map(([how]) => how)).toEqual(['removed', 'removed', 'removed'])
    expect(take(copied(cleared, start), () => true)).not.toHaveProperty('body')
    expect(order(take(copied(cleared, start), () => false))).toEqual(['h1', 'q1', 'h2'])
  })

  it('keeps the order of a copy that moved an item elsewhere, where nothing is taken', () => {
    const of = (...ids: string[]): Values => ({ body: ids.map((id) => heading(id, 'x')) })
    const nothing = (base: Values, source: Values, copy: Values) => order(take(copied(source, copy, base), () => false))
    expect(nothing(of('a', 'c', 'e'), of('b', 'e', 'a'), of('a', 'e', 'c'))).toEqual(['a', 'e', 'c'])
    expect(nothing(of('a', 'e', 'c'), of('e', 'a', 'c'), of('e', 'x2', 'a', 'c'))).toEqual(['e', 'x2', 'a', 'c'])
  })

  const block = fc.record({ id: fc.constantFrom('a', 'b', 'c', 'd', 'e'), en: fc.constantFrom('x', 'y', 'z') })
  const values = fc
    .record({
      price: fc.integer({ min: 0, max: 2 }),
      en: fc.constantFrom('one', 'two'),
      body: fc.uniqueArray(block, { selector: ({ id }) => id, maxLength: 5 }),
    })
    .map(({ price, en, body }): Values => ({ price, title: { en }, body: body.map(({ id, en }) => heading(id, en)) }))

  /** Ids are made once: a block that the copy put in is none of the source's. */
  const inCopy = (copy: Values, base: Values): Values => {
    const known = new Set(order(base))
    const body = (copy['body'] as { id: string }[]).map((item) =>
      known.has(item.id) ? item : { ...item, id: `${item.id}2` },
    )
    return { ...copy, body }
  }

  it('is the source where the copy is as it was taken, and the copy where nothing is taken', () => {
    fc.assert(
      fc.property(values, values, values, (base, source, drawn) => {
        const copy = inCopy(drawn, base)
        expect(
          sameContent(
            take(copied(source, base, base), () => true),
            printed(source),
          ),
        ).toBe(true)
        expect(
          sameContent(
            take(copied(source, copy, base), () => false),
            printed(copy),
          ),
        ).toBe(true)
      }),
    )
  })
  it('has all of the source’s own changes where everything is taken, and none of a place that is left', () => {
    fc.assert(
      fc.property(values, values, values, fc.nat(), (base, source, drawn, seed) => {
        const copy = inCopy(drawn, base)
        const of = copied(source, copy, base)
        const all = changes(of)
        const left = all.length === 0 ? undefined : all[seed % all.length]
        const now = take(of, (change) => left === undefined || change.at.join() !== left.at.join())
        const wasLeft = (at: string) => left?.at.join() === at
        if (!sameContent(base['price'], source['price']))
          expect(now['price']).toBe(wasLeft('price') ? copy['price'] : source['price'])
        if (all.every((change) => change.own.length === 0) && !wasLeft('price') && left?.at[0] !== 'body') {
          const sources = new Map((source['body'] as { id: string }[]).map((item) => [item.id, item]))
          const bases = new Map((base['body'] as { id: string }[]).map((item) => [item.id, item]))
          for (const [id, item] of sources)
            if (!sameContent(bases.get(id), item)) expect(now['body']).toContainEqual(item)
        }
      }),
    )
  })
})
