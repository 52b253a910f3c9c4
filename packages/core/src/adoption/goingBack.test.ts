import { describe, expect, it } from 'vitest'
import { makeModel, modelSite, settings } from '../../../../e2e/support/models.js'
import { goneFrom } from '../publishing/gone.js'
import { printValues } from '../documents/names.js'
import { upgradeDocument } from '../documents/upgrade.js'
import { consequencesOf } from '../modelFiles/consequences.js'
import { readModelFiles, withNamesOf } from '../modelFiles/files.js'
import type { Model } from '../model/model.js'
import { resolveModel } from '../modelFiles/resolve.js'
import { ModelImpact } from './modelImpact.js'

const tale = (fields: string, more = '') => ({
  tale: `type: tale\n${more}fields:\n  title: { kind: text, localized: true }\n${fields}`,
})
const first = makeModel(
  tale(
    '  town: { kind: text }\n  price: { kind: number }\n  contact: { kind: group, fields: { phone: { kind: text } } }\n',
  ),
)
/** Renamed without keeping the old name, removed, and removed inside a group. */
const second = makeModel(
  tale('  place: { kind: text, was: town }\n  contact: { kind: group, fields: { mail: { kind: text } } }\n'),
  first,
)
const third = makeModel(
  tale('  place: { kind: text }\n  contact: { kind: group, fields: { mail: { kind: text } } }\n'),
  second,
)
const past = [first, second, third]
const filesOf = (texts: Record<string, string>, version: number) =>
  Object.entries(texts).map(([name, text]) => withNamesOf({ name: `${name}.yaml`, text }, version))
const back = (texts: Record<string, string>, version: number, all: readonly Model[] = past): Model =>
  resolveModel(readModelFiles(filesOf(texts, version)), all.at(-1)!, modelSite, all)
const idIn = (model: Model, name: string) => model.types[0]!.fields.find((field) => field.name === name)!.id
const firstTexts = tale(
  '  town: { kind: text }\n  price: { kind: number }\n  contact: { kind: group, fields: { phone: { kind: text } } }\n',
)
const document = {
  [idIn(first, 'title')]: { en: 'Night' },
  [idIn(first, 'town')]: 'Sanderling',
  [idIn(first, 'price')]: 9,
  [idIn(first, 'contact')]: { [first.types[0]!.fields.at(-1)!.fields![0]!.id]: '555' },
}

describe('going back to an earlier model', () => {
  it('takes up the fields that there were, renamed or removed since', () => {
    const again = back(firstTexts, 1)
    for (const name of ['title', 'town', 'price', 'contact']) expect(idIn(again, name)).toBe(idIn(first, name))
    expect(printValues(again, again.types[0]!, upgradeDocument(again, again.types[0]!, document, 1))).toEqual({
      title: { en: 'Night' },
      town: 'Sanderling',
      price: 9,
      contact: { phone: '555' },
    })
    // Without the version a renamed field would be a new one.
    expect(idIn(makeModel(firstTexts, third), 'town')).not.toBe(idIn(first, 'town'))
  })
  it('says what comes back, and what does not', () => {
    const again = back(firstTexts, 1)
    const told = consequencesOf(third, again, { [again.types[0]!.id]: 1 })
    expect(told.find((consequence) => consequence.place === 'tale.price')?.message).toMatch(/returns, with the values/)
    expect(told.some((consequence) => consequence.code === 'fieldRemoved' && consequence.place === 'tale.place')).toBe(
      false,
    )
    const weighing = new ModelImpact(third, again, settings)
    weighing.add({ id: 'a', type: again.types[0]!.id, copy: { document, modelVersion: 1 } })
    expect(
      weighing
        .consequences()
        .filter((consequence) => consequence.code === 'valuesRestored')
        .map(({ place, message }) => [place, message]),
    ).toEqual([
      ['tale.price', '1 entry has an earlier value for it, which returns.'],
      ['tale.contact.phone', '1 entry has an earlier value for it, which returns.'],
    ])
  })
  it('converts what a field held last, and says what cannot be', () => {
    const texts = tale('  price: { kind: number }\n')
    const asText = makeModel(tale('  price: { kind: text }\n'), makeModel(texts))
    const without = makeModel(tale(''), asText)
    const all = [makeModel(texts), asText, without]
    const again = back(texts, 1, all)
    const type = again.types[0]!
    const price = idIn(again, 'price')
    const lost: string[] = []
    expect(upgradeDocument(again, type, { [price]: '12' }, 2)[price]).toBe(12)
    expect(upgradeDocument(again, type, { [price]: 'much' }, 2, ({ field }) => lost.push(field))[price]).toBeUndefined()
    expect(lost).toEqual([price])
    const weighing = new ModelImpact(without, again, settings)
    weighing.add({ id: 'a', type: type.id, copy: { document: { [price]: 'much' }, modelVersion: 2 } })
    expect(weighing.consequences()[0]).toMatchObject({ code: 'valuesLost', weight: 'breaking' })
  })
  it('gives nothing to a field that is not of that version', () => {
    const again = back(tale('  town: { kind: text }\n  fresh: { kind: text }\n'), 1)
    expect(Number(idIn(again, 'fresh').slice(1))).toBeGreaterThanOrEqual(third.nextId)
    expect(() => back(firstTexts, 9)).toThrow(/no version 9/)
  })
  it('reads what a revision holds in fields that are gone', () => {
    expect(goneFrom(first, first.types[0]!, third, document, ['en']).map(({ label, value }) => [label, value])).toEqual(
      [
        ['Price', 9],
        ['Phone', '555'],
      ],
    )
  })
})

describe('a list that fills itself', () => {
  const texts = (price: string) => ({
    event: `type: event\nfields:\n  title: { kind: text }\n  price: { kind: ${price} }\n`,
    page: 'type: page\nfields:\n  title: { kind: text }\n  body: { kind: block, many: true, accepts: [latest] }\n',
    latest: 'block: latest\nfields:\n  entries: { kind: listing, accepts: [event] }\n',
  })
  const before = makeModel(texts('number'))
  const page = before.types.find((type) => type.name === 'page')!
  const latest = before.blockTypes[0]!
  const holding = (asks: object) => ({
    [page.fields[1]!.id]: [
      { id: 'l', block: latest.id, values: { [latest.fields[0]!.id]: { type: 'event', first: 3, ...asks } } },
    ],
  })
  const weigh = (to: Record<string, string>, asks: object) => {
    const weighing = new ModelImpact(before, makeModel(to, before), settings)
    weighing.add({ id: 'p', type: page.id, copy: { document: holding(asks), modelVersion: 1 } })
    return weighing.consequences().map(({ code, weight, place, entries }) => [code, weight, place, entries?.count])
  }
  it('is named when what it asks for no longer fits', () => {
    const broken = [['listsBroken', 'breaking', 'latest.entries', 1]]
    expect(weigh(texts('text'), { where: 'price > 20' })).toEqual(broken)
    expect(
      weigh({ ...texts('number'), event: 'type: event\nfields:\n  title: { kind: text }\n' }, { sort: '-price' }),
    ).toEqual(broken)
  })
  it('is left in peace when it still fits', () => {
    expect(weigh(texts('text'), { where: 'title = "x"' })).toEqual([])
    expect(
      weigh(
        texts('number').event ? { ...texts('number'), event: texts('number').event + '  more: { kind: text }\n' } : {},
        { where: 'price > 20' },
      ),
    ).toEqual([])
  })
})

describe('a default', () => {
  it.each([
    ['{ kind: choice, options: [a, b], default: c }', /default/],
    ['{ kind: text, length: { max: 3 }, default: toolong }', /at most 3/],
    ["{ kind: text, pattern: { matches: '[0-9]+', message: must be digits }, default: x }", /must be digits/],
    ['{ kind: number, range: { min: 5 }, default: 1 }', /default/],
  ])('that breaks a rule of its field is refused: %s', (field, message) => {
    expect(() => makeModel(tale(`  x: ${field}\n`))).toThrow(message)
  })
})

describe('a wrong `was`', () => {
  it('is told, with what was meant', () => {
    const after = makeModel(
      tale('  town: { kind: text }\n  cost: { kind: number, was: prise }\n'),
      makeModel(tale('  town: { kind: text }\n  price: { kind: number }\n')),
    )
    const before = makeModel(tale('  town: { kind: text }\n  price: { kind: number }\n'))
    expect(consequencesOf(before, after, {}).find((consequence) => consequence.code === 'renameUnknown')?.message).toBe(
      '`was: prise` finds nothing: there is no field `prise`. Did you mean `price`?',
    )
  })
})

describe('model files that are made to be slow', () => {
  const read = (text: string) => {
    try {
      readModelFiles([{ name: 'x.yaml', text }])
    } catch (error) {
      return (error as { problems: { message: string; line?: number }[] }).problems
    }
    return []
  }
  it.each([
    ['a merge of nothing', 'type: x\nfields:\n  <<: *nothing\n'],
    [
      'aliases of aliases',
      `a: &a [x, x]\n${Array.from({ length: 20 }, (_, index) => `a${index}: &b${index} [*a, *a, *a, *a, *a, *a, *a, *a]\n`).join('')}type: x\n`,
    ],
    ['brackets without end', `type: x\nfields: ${'['.repeat(100_000)}`],
    ['maps without end', `type: x\nfields: ${'{a: '.repeat(100_000)}`],
  ])('%s: one sentence', (_, text) => {
    const problems = read(text)
    expect(problems.length).toBe(1)
    expect(problems[0]!.message.length).toBeLessThan(300)
  })
  it('says that a path pattern needs quotes', () => {
    expect(read('type: x\npath: { en: /a/{slug}, nl: /b/{slug} }\nfields: {}\n')).toMatchObject([
      { message: "Put a path pattern in quotes: `'/activities/{slug}'`.", line: 2 },
    ])
  })
})
