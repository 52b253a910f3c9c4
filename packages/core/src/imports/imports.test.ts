import { describe, expect, it } from 'vitest'
import { makeModel, settings } from '../../../../e2e/support/models.js'
import type { WisteriaError } from '../base/errors.js'
import { fieldNamed } from '../model/model.js'
import { aimOf, problemAt } from './aims.js'
import { readCell, type Formats } from './cells.js'
import { guessMapping, guessType, placesOf } from './guessing.js'
import { importMapping, readMapping, type ImportMapping } from './mapping.js'
import { keyOf, readRow, wantedIn, type Find } from './rows.js'

const model = makeModel({
  artefact: `type: artefact
namedBy: name
fields:
  name: { kind: text, localized: true, label: Name }
  number: { kind: text, unique: true, label: Inventory number }
  weight: { kind: number, unit: kg }
  found: { kind: date }
  seen: { kind: dateTime }
  shown: { kind: boolean }
  condition: { kind: choice, options: [good, { value: worn, label: { en: Worn, nl: Versleten } }] }
  tags: { kind: text, many: true }
  story: { kind: richText, localized: true }
  place: { kind: location }
  takes: { kind: timeSpan }
  extra: { kind: json }
  museum: { kind: entry, accepts: [museum] }
  near: { kind: entry, many: true, accepts: [museum] }
  picture: { kind: asset, accepts: [image/*] }
  meta: { kind: metadata, localized: true }
  contact: { kind: group, fields: { phone: { kind: text }, note: { kind: text, localized: true } } }
  hours: { kind: group, many: true, fields: { day: { kind: text } } }
  more: { kind: listing, accepts: [museum] }
`,
  museum: 'type: museum\nnamedBy: title\nfields:\n  title: { kind: text, localized: true }\n  code: { kind: text }\n',
  about: 'type: about\ncardinality: one\nfields:\n  title: { kind: text }\n',
})
const type = model.types.find(({ name }) => name === 'artefact')!
const formats: Formats = { dates: 'dmy', decimal: '.', timeZone: 'Europe/Amsterdam' }
const nothing: Find = ({ text }) => ({ problem: `There is no ${text}.` })

const mapping = (columns: ImportMapping['columns'], more: Partial<ImportMapping> = {}): ImportMapping =>
  importMapping.parse({ type: 'artefact', columns, ...more })
const ready = (columns: ImportMapping['columns'], more: Partial<ImportMapping> = {}) =>
  readMapping(
    mapping(columns, more),
    columns.map(({ from }) => from),
    model,
    settings,
  )
const faults = (work: () => unknown): string[] => {
  try {
    work()
    return []
  } catch (error) {
    return (error as WisteriaError).problems.map(({ pointer, message }) => `${pointer}: ${message}`)
  }
}

describe('a cell', () => {
  const cell = (name: string, text: unknown, more: Partial<Formats> = {}) =>
    readCell(fieldNamed(type, name)!, text, { ...formats, ...more })
  const value = (...of: Parameters<typeof cell>): unknown => {
    const read = cell(...of)
    return 'value' in read ? read.value : `! ${read.problem}`
  }

  it.each([
    ['weight', '12', '.', 12],
    ['weight', ' 1,234.5 ', '.', 1234.5],
    ['weight', '1.234,50', ',', 1234.5],
    ['weight', '1 234,5', ',', 1234.5],
    ['weight', '12,5', ',', 12.5],
    ['weight', '-0.5', '.', -0.5],
    ['weight', '−3', '.', -3],
    ['weight', '2e3', '.', 2000],
    ['weight', 7.25, ',', 7.25],
    ['weight', '12,5', '.', '! `12,5` is no number: the decimal sign is `.`, and here it is `,`.'],
    ['weight', '12.345', ',', 12345],
    ['weight', 'heavy', '.', '! `heavy` is no number.'],
    ['weight', '1,23', '.', '! `1,23` is no number: the decimal sign is `.`, and here it is `,`.'],
  ] as const)('reads numbers: %s %s with %s', (name, text, decimal, wanted) =>
    expect(value(name, text, { decimal })).toBe(wanted),
  )

  it.each([
    ['2031-05-04', 'dmy', '2031-05-04'],
    ['4-5-2031', 'dmy', '2031-05-04'],
    ['04/05/2031', 'mdy', '2031-04-05'],
    ['2031/5/4', 'ymd', '2031-05-04'],
    ['2031-05-04T00:00:00.000Z', 'dmy', '2031-05-04'],
    ['31.02.2031', 'dmy', expect.stringMatching(/^! `31\.02\.2031` is no day\./)],
    ['4-5-31', 'dmy', expect.stringMatching(/four digits of the year/)],
    ['May', 'dmy', expect.stringMatching(/^! /)],
  ] as const)('reads days: %s as %s', (text, dates, wanted) => expect(value('found', text, { dates })).toEqual(wanted))

  it('reads times, with the time zone of the site where they have none', () => {
    expect(value('seen', '2031-05-04T20:30:00Z')).toBe('2031-05-04T20:30:00Z')
    expect(value('seen', '4-5-2031 20:30')).toBe('2031-05-04T20:30:00+02:00')
    expect(value('seen', '4-1-2031')).toBe('2031-01-04T00:00:00+01:00')
    expect(value('seen', '4-1-2031 25:00')).toMatch(/^! /)
  })

  it('reads yes and no, choices by value and label, places, spans, JSON and Markdown', () => {
    expect(['Yes', 'ja', 'x', true, 1, 'TRUE'].map((text) => value('shown', text))).toEqual(Array(6).fill(true))
    expect(['no', 'Nee', false, '0'].map((text) => value('shown', text))).toEqual(Array(4).fill(false))
    expect(value('shown', 'maybe')).toBe('! `maybe` is neither yes nor no.')
    expect(['worn', 'Versleten', 'WORN'].map((text) => value('condition', text))).toEqual(['worn', 'worn', 'worn'])
    expect(value('condition', 'wrn')).toBe('! `wrn` is not one of good, worn. Did you mean `worn`?')
    expect(value('place', '52.9, 4.8')).toEqual({ latitude: 52.9, longitude: 4.8 })
    expect(value('place', '52,9; 4,8')).toEqual({ latitude: 52.9, longitude: 4.8 })
    expect(value('place', 'Harle')).toMatch(/^! `Harle` is no place/)
    expect(value('takes', '1:30')).toBe('PT1H30M')
    expect(value('extra', '{"a":1}')).toEqual({ a: 1 })
    expect(value('extra', '{a')).toBe('! `{a` is no JSON.')
    expect(value('story', 'The *oldest*')).toEqual({ markdown: 'The *oldest*' })
  })
})

describe('a mapping', () => {
  it('finds its places', () => {
    const { columns } = ready([
      { from: 'A', to: 'name:nl' },
      { from: 'B', to: 'contact.phone' },
      { from: 'C', to: 'meta.title:en' },
      { from: 'D', to: 'entry.id' },
    ])
    expect(
      columns.map(({ index, fields, locale, member }) => [index, fields.map(({ name }) => name), locale, member]),
    ).toEqual([
      [0, ['name'], 'nl', undefined],
      [1, ['contact', 'phone'], undefined, undefined],
      [2, ['meta'], 'en', 'title'],
      [3, [], undefined, undefined],
    ])
  })

  it('says everything that is wrong, each at its place', () => {
    expect(faults(() => readMapping(mapping([], { type: 'artefacts' }), [], model, settings))).toEqual([
      expect.stringMatching(/^\/type: `artefacts` is not a type of .* Did you mean `artefact`\?/),
    ])
    expect(faults(() => readMapping(mapping([], { type: 'about' }), [], model, settings))[0]).toMatch(
      /exactly one entry/,
    )
    expect(
      faults(() =>
        readMapping(
          mapping([
            { from: 'A', to: 'nam' },
            { from: 'Xyzzy', to: 'name' },
            { from: 'A', to: 'weight:nl' },
            { from: 'A', to: 'name:zz' },
            { from: 'A', to: 'hours.day' },
            { from: 'A', to: 'more' },
            { from: 'A', to: 'weight', by: 'code' },
            { from: 'A', to: 'museum', by: 'cod' },
            { from: 'A', to: 'number' },
            { from: 'A', to: 'number' },
          ]),
          ['A'],
          model,
          settings,
        ),
      ),
    ).toEqual([
      '/columns/0/to: `nam` is not a field of Artefact. Did you mean `name`?',
      '/columns/1/from: The table has no column `Xyzzy`.',
      '/columns/2/to: `weight:nl` has a locale, and Weight is the same in all.',
      expect.stringMatching(/^\/columns\/3\/to: `name:zz` is in the locale `zz`, which the site does not have/),
      '/columns/4/to: `hours.day` is inside Hours, which is a list: map that as a whole, with its elements as JSON.',
      '/columns/5/to: `more` fills itself.',
      '/columns/6/to: `weight` is no reference, so it cannot be found `by` a field.',
      '/columns/7/to: `museum` cannot be found by `cod`: Museum has no such field with one comparable value.',
      '/columns/9/to: Two columns go to `number`.',
    ])
    expect(faults(() => ready([{ from: 'A', to: 'tags' }], { key: 'tags' }))).toEqual([
      '/key: Tags cannot be the key: it needs one text, number, date or choice.',
    ])
    expect(faults(() => ready([{ from: 'A', to: 'tags' }], { key: 'number' }))).toEqual([
      '/key: `number` is the key, and no column goes there.',
    ])
    expect(faults(() => ready([{ from: 'A', to: 'name' }], { mode: 'update' }))[0]).toMatch(/^\/key: Without a key/)
    expect(faults(() => ready([]))).toEqual(['/columns: No column goes into a field.'])
  })
})

describe('a row', () => {
  const columns: ImportMapping['columns'] = [
    { from: 'Name', to: 'name' },
    { from: 'Naam', to: 'name:nl' },
    { from: 'No', to: 'number' },
    { from: 'kg', to: 'weight' },
    { from: 'tags', to: 'tags', separator: '|' },
    { from: 'museum', to: 'museum', by: 'title' },
    { from: 'near', to: 'near', by: 'code', separator: ',' },
    { from: 'phone', to: 'contact.phone' },
    { from: 'note', to: 'contact.note:nl' },
    { from: 'meta', to: 'meta.title' },
    { from: 'hours', to: 'hours' },
  ]
  const row = [
    'Lens',
    'Lens',
    'A-1',
    '2,5',
    'glass| old |',
    'Boatyard',
    'b, c',
    '0222',
    'bel',
    'A lens',
    '[{"values":{"day":"Friday"}}]',
  ]

  it('becomes a patch, with what its cells name found', () => {
    const mapped = ready(columns, { decimal: ',', key: 'number' })
    expect(wantedIn(mapped, row).map(({ is, text }) => [is, text])).toEqual([
      ['entry', 'Boatyard'],
      ['entry', 'b'],
      ['entry', 'c'],
    ])
    expect(keyOf(mapped, row)).toBe('a-1')
    expect(readRow(mapped, row, ({ text }) => ({ id: `id of ${text}` }))).toEqual({
      patch: {
        name: { en: 'Lens', nl: 'Lens' },
        number: 'A-1',
        weight: 2.5,
        tags: ['glass', 'old'],
        museum: 'id of Boatyard',
        near: ['id of b', 'id of c'],
        contact: { phone: '0222', note: { nl: 'bel' } },
        meta: { en: { title: 'A lens' } },
        hours: [{ values: { day: 'Friday' } }],
      },
      problems: [],
    })
  })

  it('says what is wrong with each of its cells', () =>
    expect(readRow(ready(columns), row, nothing).problems).toEqual([
      { column: 'kg', message: '`2,5` is no number: the decimal sign is `.`, and here it is `,`.' },
      { column: 'museum', message: 'There is no Boatyard.' },
      { column: 'near', message: 'There is no b.' },
    ]))

  it('leaves out empty cells, or clears their values', () => {
    const some: ImportMapping['columns'] = [
      { from: 'Naam', to: 'name:nl' },
      { from: 'kg', to: 'weight' },
    ]
    expect(readRow(ready(some), [' ', null], nothing).patch).toEqual({})
    expect(readRow(ready(some, { emptyClears: true }), [' ', null], nothing).patch).toEqual({
      name: { nl: null },
      weight: null,
    })
  })

  it('of JSON has its values as they are', () => {
    const some: ImportMapping['columns'] = [
      { from: 'name', to: 'name' },
      { from: 'tags', to: 'tags' },
      { from: 'kg', to: 'weight' },
    ]
    expect(readRow(ready(some), [{ en: 'Lens', nl: 'Lens' }, ['a', 'b'], 3], nothing).patch).toEqual({
      name: { en: 'Lens', nl: 'Lens' },
      tags: ['a', 'b'],
      weight: 3,
    })
  })
})

describe('the entry that a row is about', () => {
  const number: ImportMapping['columns'] = [{ from: 'No', to: 'number' }]
  const keyed = (mode: ImportMapping['mode']) => ready(number, { key: 'number', mode })
  const byId = ready([{ from: 'id', to: 'entry.id' }, ...number], { key: 'entry.id' })
  const id = 'abcdefghij0123456789'

  it('is new without a key, and where nothing has the key; else the one that has it', () => {
    expect(aimOf(ready(number), undefined, [])).toEqual({ is: 'new' })
    expect(aimOf(keyed('both'), 'a-1', [])).toEqual({ is: 'new' })
    expect(aimOf(keyed('both'), 'a-1', ['x'])).toEqual({ is: 'existing', id: 'x' })
    expect(aimOf(byId, id, [])).toEqual({ is: 'new', id })
  })

  it('is none where the mode leaves it out', () => {
    expect(aimOf(keyed('create'), 'a-1', ['x'])).toEqual({ is: 'left', id: 'x' })
    expect(aimOf(keyed('update'), 'a-1', [])).toEqual({ is: 'left', id: null })
  })

  it.each([
    [keyed('both'), undefined, [], 'No', 'Inventory number is the key, and it is empty or wrong here.'],
    [keyed('both'), 'a-1', ['x', 'y'], 'No', '2 entries have this Inventory number: it does not tell them apart.'],
    [byId, 'seven', [], 'id', '`seven` is no id: it has 20 lowercase letters and digits.'],
  ] as const)('is told to be wrong: %#', (mapping, key, matches, column, message) =>
    expect(aimOf(mapping, key, matches)).toEqual({ is: 'wrong', problem: { column, message } }),
  )

  it('tells a problem at the column that the value came from', () => {
    const mapped = ready([
      { from: 'Name', to: 'name' },
      { from: 'Naam', to: 'name:nl' },
      { from: 'phone', to: 'contact.phone' },
      { from: 'note', to: 'contact.note:nl' },
    ])
    const at = (pointer: string) => problemAt(mapped, { code: 'x', message: 'is wrong', pointer }).column
    expect([at('/values/name/nl'), at('/values/name/en'), at('/values/name')]).toEqual(['Naam', 'Name', 'Name'])
    expect([at('/values/contact/phone'), at('/values/contact/note/nl'), at('/values/weight')]).toEqual([
      'phone',
      'note',
      null,
    ])
  })
})

describe('a guess', () => {
  const heads = ['Inventory number', 'name (nl)', 'Name', 'weigth', 'Found', 'tags', 'museum', 'remarks', 'Condition']
  const rows = [
    ['A-1', 'Lens', 'Lens', '1.234,5', '4-5-1931', 'glass; old', 'Boatyard', 'x', 'Worn'],
    ['A-2', 'Lamp', 'Lamp', '12,5', '24-12-1931', 'iron', 'Salt pans', '', 'good'],
  ]

  it('finds the type, places, locales, the key, signs, orders and separators', () => {
    expect(guessType(heads, model, settings)?.name).toBe('artefact')
    expect(guessMapping(heads, rows, type, model, settings)).toEqual({
      type: 'artefact',
      columns: [
        { from: 'Inventory number', to: 'number' },
        { from: 'name (nl)', to: 'name:nl' },
        { from: 'Name', to: 'name:en' },
        { from: 'weigth', to: 'weight' },
        { from: 'Found', to: 'found' },
        { from: 'tags', to: 'tags', separator: ';' },
        { from: 'museum', to: 'museum', by: 'title' },
        { from: 'Condition', to: 'condition' },
      ],
      key: 'number',
      mode: 'both',
      dates: 'dmy',
      decimal: ',',
      emptyClears: false,
    })
  })

  it('knows the order of days by those that allow one only', () => {
    const dates = (...days: string[]) =>
      guessMapping(
        ['found'],
        days.map((day) => [day]),
        type,
        model,
        settings,
      ).dates
    expect([dates('4/13/2031'), dates('13/4/2031'), dates('2031/4/13'), dates('2031-04-13')]).toEqual([
      'mdy',
      'dmy',
      'ymd',
      'ymd',
    ])
  })

  it('fits the model, whatever the heads are', () => {
    const guessed = guessMapping(heads, rows, type, model, settings)
    expect(() => readMapping(guessed, heads, model, settings)).not.toThrow()
    expect(guessType(['x', 'y'], model, settings)).toBeUndefined()
  })

  it('names every place that a column can go to', () => {
    const places = placesOf(type, settings).map(({ to }) => to)
    expect(places.slice(0, 3)).toEqual(['entry.id', 'name:en', 'name:nl'])
    expect(places).toContain('contact.note:nl')
    expect(places).toContain('meta.title:en')
    expect(places).not.toContain('more')
  })
})
