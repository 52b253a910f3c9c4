import { describe, expect, it } from 'vitest'
import { locales, makeModel, randomBytes, settings, richText } from '../../../../e2e/support/models.js'
import { documentOf, ref, shapedModel, shapedType } from '../../../../e2e/support/shaped.js'
import { typeNamed, type Model } from '../model/model.js'
import { changesBetween } from '../publishing/changes.js'
import { withDefaults } from '../documents/defaults.js'
import { namedEditsBetween } from './difference.js'
import { applyEdits, readEdits, type NamedEdit } from './edits.js'
import { lockedEdits } from './locks.js'
import { conflictsBetween } from './merge.js'
import { printValues, readValues } from '../documents/names.js'
import { project } from '../documents/project.js'
import { resolveReferences } from '../documents/resolveReferences.js'
import { withoutHidden } from '../documents/shown.js'
import { statesOf } from '../publishing/state.js'
import { upgradeDocument, type Lost } from '../documents/upgrade.js'
import { layersAfter, referencesOf, validate } from '../publishing/validate.js'

const tour = shapedType('tour')
const chain = ['nl', 'en']
const problemsOf = (values: object, tags = ['en']) =>
  validate(shapedModel, tour, layersAfter(documentOf('tour', values), tags, undefined), settings).map(
    ({ pointer, code }) => `${pointer} ${code}`,
  )
const fine = { title: { en: 'Night walk' }, format: 'talk' }

describe('what a rule hides', () => {
  const walk = { ...fine, format: 'walk', place: { latitude: 1, longitude: 1 } }
  it('is neither needed nor looked at, and is kept', () => {
    expect(problemsOf(fine)).toEqual([])
    expect(problemsOf({ ...fine, format: 'walk' })).toEqual(['/values/place required'])
    expect(problemsOf({ ...fine, format: 'walk', forAll: true })).toEqual([])
    // The section of the price is not there for a talk, nor is its rule.
    expect(problemsOf({ ...fine, format: 'concert' })).toEqual(['/values/price required'])
  })
  it('is not in what readers get, and comes back with what it hangs on', () => {
    const talk = documentOf('tour', { ...walk, format: 'talk' })
    expect(project(shapedModel, tour, talk, chain).values['place']).toBeNull()
    expect(printValues(shapedModel, tour, talk)['place']).toEqual({ latitude: 1, longitude: 1 })
    expect(project(shapedModel, tour, documentOf('tour', walk), chain).values['place']).toEqual({
      latitude: 1,
      longitude: 1,
    })
  })
  it('does not make an entry differ from public', () => {
    const published = documentOf('tour', fine)
    const history = { layers: layersAfter(published, ['en'], undefined), withdrawn: [] }
    const changed = documentOf('tour', { ...fine, place: { latitude: 1, longitude: 1 } })
    expect(statesOf(shapedModel, tour, changed, history, settings)['en']).toBe('public')
    expect(
      changesBetween(
        shapedModel,
        tour,
        withoutHidden(shapedModel, tour, published, settings),
        withoutHidden(shapedModel, tour, changed, settings),
        locales,
      ),
    ).toEqual([])
  })
  it('is asked inside blocks and elements of groups, by the fields around it', () => {
    const body = (tone: string, loudness?: number) => [
      { id: 'w', block: 'words', values: { text: { en: 'x' }, tone, ...(loudness ? { loudness } : {}) } },
    ]
    expect(problemsOf({ ...fine, body: body('plain') })).toEqual([])
    expect(problemsOf({ ...fine, body: body('loud') })).toEqual(['/values/body/0/values/loudness required'])
    const { values } = project(
      shapedModel,
      tour,
      documentOf('tour', {
        ...fine,
        body: body('plain', 3),
        sessions: [{ id: 's', values: { weekday: 'friday', seats: 2, note: { en: 'n' } } }],
      }),
      chain,
    )
    expect(values['body']).toMatchObject([{ values: { loudness: null } }])
    expect(values['sessions']).toMatchObject([{ values: { note: null } }])
    expect(problemsOf({ ...fine, sessions: [{ id: 's', values: { weekday: 'friday' } }] })).toEqual([
      '/values/sessions/0/values/from required',
    ])
  })
  it('may be a whole section', () => {
    const talk = documentOf('tour', { ...fine, price: 4 })
    expect(project(shapedModel, tour, talk, chain).values['price']).toBeNull()
    expect(Object.keys(withoutHidden(shapedModel, tour, talk, settings))).toHaveLength(2)
  })
})

describe('counts and patterns', () => {
  it('of blocks and of each of their types', () => {
    const box = (id: string) => ({ id, block: 'box', values: {} })
    expect(problemsOf({ ...fine, body: ['a', 'b', 'c'].map(box) })).toEqual(['/values/body tooMany'])
    expect(
      problemsOf({
        ...fine,
        lead2: [
          { block: 'words', values: { text: { en: 'x' } } },
          { block: 'words', values: { text: { en: 'y' } } },
        ],
      }),
    ).toEqual(['/values/lead2 tooMany'])
  })
  it('of values', () =>
    expect(problemsOf({ ...fine, code: 'sh-1', takes: 'PT9H', extra: { seats: 'x' } })).toEqual([
      '/values/code pattern',
      '/values/takes tooLarge',
      '/values/extra schema',
    ]))
})

describe('groups', () => {
  const venue = { ...fine, venue: { room: { en: 'Lamp room' }, seats: 3, door: { code: 'A' } } }
  it('are read, printed and told apart by their fields', () => {
    const document = documentOf('tour', venue)
    expect(printValues(shapedModel, tour, document)).toEqual(venue)
    expect(project(shapedModel, tour, document, chain).values['venue']).toEqual({
      room: 'Lamp room',
      seats: 3,
      door: { code: 'A', keeper: null },
    })
    expect(project(shapedModel, tour, documentOf('tour', fine), chain).values).toMatchObject({
      venue: { room: null, door: { code: null } },
      sessions: [],
    })
    const { problems } = readValues(
      shapedModel,
      tour,
      { venue: { rom: 1 }, sessions: [{ weekday: 'x' }, { values: { seats: 'x' } }] },
      locales,
      randomBytes(),
    )
    expect(problems.map(({ pointer, code }) => `${pointer} ${code}`)).toEqual([
      '/values/venue/rom unknownField',
      '/values/sessions/0/weekday unknownMember',
      '/values/sessions/1/values/seats wrongForm',
    ])
  })
  const read = (document: object, edits: NamedEdit[]) =>
    readEdits(shapedModel, tour, document as never, edits, locales, randomBytes())
  it('are edited a field at a time, by a path', () => {
    const start = documentOf('tour', venue)
    const merged = read(start, [
      { do: 'set', at: ['venue.seats'], value: 9 },
      { do: 'set', at: ['venue.room'], locale: 'nl', value: 'Lampkamer' },
      { do: 'clear', at: ['venue.door.code'] },
      { do: 'insert', at: ['sessions'], item: { id: 'one', values: { weekday: 'monday' } }, after: null },
      { do: 'set', at: ['sessions', 'one', 'note'], locale: 'en', value: 'Bring a lamp' },
      {
        do: 'insert',
        at: ['sessions', 'one', 'stops'],
        item: { id: 'gate', values: { name: 'Gate' } },
        after: null,
      },
    ])
    expect(merged.problems).toEqual([])
    expect(printValues(shapedModel, tour, merged.document)).toEqual({
      ...fine,
      venue: { room: { en: 'Lamp room', nl: 'Lampkamer' }, seats: 9 },
      sessions: [
        {
          id: 'one',
          values: {
            weekday: 'monday',
            note: { en: 'Bring a lamp' },
            stops: [{ id: 'gate', values: { name: 'Gate' } }],
          },
        },
      ],
    })
    expect(applyEdits(start, merged.edits)).toEqual(merged.document)
  })
  it('say where an edit has no place', () => {
    const told = (at: string[]) => read(documentOf('tour', venue), [{ do: 'set', at, value: 1 }]).problems[0]?.message
    expect(told(['venue.seat'])).toMatch(/`seat` is not a field of venue. Did you mean `seats`\?/)
    expect(told(['venue', 'seats'])).toMatch(/write `venue.seats`/)
    expect(told(['sessions.seats'])).toMatch(/name an element by its id/)
    expect(told(['sessions', 'nobody', 'seats'])).toMatch(/no item `nobody`/)
  })
  it('merge place by place: two fields of one group do not collide, the group as a whole with either does', () => {
    const start = documentOf('tour', venue)
    const edits = (...all: NamedEdit[]) => read(start, all).edits
    const seats = edits({ do: 'set', at: ['venue.seats'], value: 9 })
    expect(conflictsBetween(seats, edits({ do: 'set', at: ['venue.door.code'], value: 'B' }))).toEqual([])
    expect(conflictsBetween(seats, edits({ do: 'clear', at: ['venue'] }))).toHaveLength(1)
    expect(conflictsBetween(seats, edits({ do: 'set', at: ['venue.seats'], value: 8 }))).toHaveLength(1)
  })
  it('make edits between two forms of an entry', () => {
    const sessions = [
      { id: 'a', values: { weekday: 'monday' } },
      { id: 'b', values: { weekday: 'friday', from: '10:00' } },
    ]
    const before = { ...venue, sessions }
    const after = {
      ...fine,
      venue: { seats: 4, door: { code: 'A' } },
      sessions: [{ id: 'b', values: { weekday: 'friday', from: '11:00' } }, sessions[0]!],
    }
    const named = namedEditsBetween(shapedModel, tour, before, after)
    expect(named.map((edit) => [edit.do, edit.at.join('/')])).toEqual([
      ['clear', 'venue.room'],
      ['set', 'venue.seats'],
      ['move', 'sessions/b'],
      ['set', 'sessions/b/from'],
    ])
    expect(printValues(shapedModel, tour, read(documentOf('tour', before), named).document)).toEqual(after)
  })
})

describe('defaults', () => {
  const moment = { now: Date.parse('2031-05-04T23:30:00Z'), timeZone: 'Europe/Amsterdam' }
  const begun = (values: object) =>
    printValues(
      shapedModel,
      tour,
      withDefaults(shapedModel, tour, documentOf('tour', values), settings, moment, randomBytes()),
    )
  it('fill what was not sent: values, moments where the site is, conditions', () => {
    expect(begun({})).toEqual({ format: 'walk', day: '2031-05-12', forAll: false })
    expect(begun({ format: 'talk', day: null, price: 0 })).toEqual({
      format: 'talk',
      day: null,
      price: 0,
      forAll: true,
    })
  })
})

describe('locks', () => {
  const document = documentOf('tour', { ...fine, code: 'SH-1' })
  const locked = (state: 'new' | 'public', ...edits: NamedEdit[]) =>
    lockedEdits(
      shapedModel,
      tour,
      document,
      readEdits(shapedModel, tour, document, edits, locales, randomBytes()).edits,
      { en: state, nl: 'new', 'nl-BE': 'new', ar: 'new' },
      settings,
    )
  it('hold by the state, and name what they hang on', () => {
    expect(locked('new', { do: 'set', at: ['code'], value: 'SH-2' })).toEqual([])
    expect(
      locked('public', { do: 'set', at: ['title'], locale: 'en', value: 'x' }, { do: 'clear', at: ['code'] }),
    ).toEqual([
      {
        code: 'locked',
        pointer: '/edits/1',
        message: 'Code is locked: it cannot be changed while `entry.state != "new"`.',
        parameters: { field: 'Code' },
      },
    ])
  })
})

describe('what a document holds of others', () => {
  it('is found in every kind that refers', () => {
    const references = referencesOf(
      shapedModel,
      tour,
      documentOf('tour', {
        ...fine,
        lead: ref('a'),
        cover: ref('p'),
        gallery: [ref('q')],
        meta: { en: { image: ref('m') } },
        venue: { door: { keeper: ref('k') } },
        story: {
          en: {
            type: 'root',
            children: [
              { type: 'paragraph', children: [{ type: 'link', url: '', data: { entry: ref('s') }, children: [] }] },
              { type: 'paragraph', children: [{ type: 'image', url: '', data: { asset: ref('t') } }] },
            ],
          },
        },
        body: [{ block: 'box', values: { guide: ref('g') } }],
      }),
      locales,
    )
    expect(
      references
        .map(
          (reference) =>
            `${reference.pointer} ${reference.to} ${reference.target.replace(/0+$/, '')} ${reference.accepts.join()}`,
        )
        .sort(),
    ).toEqual([
      '/values/body/0/values/guide entry g guide',
      '/values/cover asset p image/*',
      '/values/gallery/0 asset q image/*',
      '/values/lead entry a guide',
      '/values/meta/en asset m image/*',
      '/values/story/en asset t guide,tour'.replace('guide,tour', ''),
      '/values/story/en entry s guide,tour',
      '/values/venue/door/keeper entry k guide',
    ])
  })
  it('is null for a reader where it is gone, and otherwise what it is', () => {
    const { values } = project(
      shapedModel,
      tour,
      documentOf('tour', {
        ...fine,
        lead: ref('a'),
        gallery: [ref('q'), ref('r')],
        cover: ref('q'),
        venue: { door: { keeper: ref('a') } },
        lead2: [{ id: 'x', block: 'words', values: { text: { en: 'One' } } }],
      }),
      chain,
    )
    const resolve = (ids: string[]) =>
      resolveReferences(shapedModel, tour, values, {
        typeOf: (id) => (ids.includes(id) ? 'guide' : undefined),
        asset: (id) => (id === ref('q') ? { id, alt: 'x' } : undefined),
        listed: () => [],
        richText: 'html',
        links: { entry: () => undefined, asset: () => undefined },
      })
    expect(resolve([ref('a')])).toMatchObject({
      lead: { id: ref('a'), type: 'guide' },
      gallery: [{ id: ref('q') }],
      cover: { alt: 'x' },
      venue: { door: { keeper: { type: 'guide' } } },
      lead2: { block: 'words', values: { text: 'One', tone: null } },
      // Search and social texts fall back to the fields that the model names.
      meta: { title: 'Night walk', description: null, image: { alt: 'x' }, hidden: false },
    })
    expect(resolve([])).toMatchObject({ lead: null, venue: { door: { keeper: null } } })
  })
})

describe('documents of older models', () => {
  const thing = (x: string, before?: Model): Model =>
    makeModel({ thing: `type: thing\nnamedBy: name\nfields:\n  name: { kind: text }\n  x: ${x}\n` }, before)
  /** A value that was written under one form of the field, read under later ones. */
  const read = (value: unknown, from: string, ...to: string[]) => {
    const lost: Lost[] = []
    const first = thing(from)
    const { document, problems } = readValues(first, first.types[0]!, { x: value }, locales, randomBytes())
    expect(problems).toEqual([])
    const now = to.reduce((model, form) => thing(form, model), first)
    const owner = now.types[0]!
    const upgraded = upgradeDocument(now, owner, document, first.version, (loss) => lost.push(loss))
    return {
      x: printValues(now, owner, upgraded)['x'],
      lost: lost.map((loss) => loss.because),
      again: upgradeDocument(now, owner, upgraded, now.version) === upgraded,
    }
  }
  it.each<[string, string, unknown, unknown]>([
    ['{ kind: number }', '{ kind: text }', 4.5, '4.5'],
    ['{ kind: text }', '{ kind: number }', '4.5', 4.5],
    ['{ kind: text }', '{ kind: longText }', 'SH-1', 'SH-1'],
    ['{ kind: longText }', '{ kind: slug }', 'night-walk', 'night-walk'],
    ['{ kind: choice, options: [walk] }', '{ kind: text }', 'walk', 'walk'],
    ['{ kind: boolean }', '{ kind: text }', true, 'true'],
    ['{ kind: text }', '{ kind: boolean }', 'Yes', true],
    ['{ kind: text }', '{ kind: email }', 'ask@marram.example', 'ask@marram.example'],
    ['{ kind: date }', '{ kind: dateTime }', '2031-05-04', '2031-05-04T00:00:00+02:00'],
    ['{ kind: dateTime }', '{ kind: date }', '2031-05-04T23:30:00Z', '2031-05-05'],
    [
      '{ kind: dateTime }',
      '{ kind: dateTime, withZone: true }',
      '2031-05-04T18:30:00Z',
      '2031-05-04T20:30:00+02:00[Europe/Amsterdam]',
    ],
    [
      '{ kind: dateTime, withZone: true }',
      '{ kind: dateTime }',
      '2031-05-04T20:30:00+02:00[Europe/Amsterdam]',
      '2031-05-04T20:30:00+02:00',
    ],
    ['{ kind: longText }', '{ kind: richText }', 'one\n\ntwo', richText('one', 'two')],
    ['{ kind: richText }', '{ kind: text }', richText('one'), 'one'],
    [
      '{ kind: choice, options: [walk, talk] }',
      '{ kind: choice, options: [{ value: stroll, was: walk }, talk] }',
      'walk',
      'stroll',
    ],
    [
      '{ kind: choice, many: true, options: [walk, talk] }',
      '{ kind: choice, many: true, options: [{ value: stroll, was: [walk, hike] }, talk] }',
      [
        { id: 'a', value: 'talk' },
        { id: 'b', value: 'walk' },
      ],
      [
        { id: 'a', value: 'talk' },
        { id: 'b', value: 'stroll' },
      ],
    ],
    ['{ kind: location }', '{ kind: json }', { latitude: 1, longitude: 2 }, { latitude: 1, longitude: 2 }],
    ['{ kind: text }', '{ kind: text, localized: true }', 'x', { en: 'x' }],
    ['{ kind: text, localized: true }', '{ kind: text }', { en: 'x' }, 'x'],
    ['{ kind: text, localized: true }', '{ kind: text }', { nl: 'x' }, 'x'],
    ['{ kind: colour }', '{ kind: colour, many: true }', '#aabbcc', [{ id: 'f2-all', value: '#aabbcc' }]],
    [
      '{ kind: text, localized: true }',
      '{ kind: number, localized: true, many: true }',
      { en: '1', nl: '2' },
      { en: [{ id: 'f2-en', value: 1 }], nl: [{ id: 'f2-nl', value: 2 }] },
    ],
    ['{ kind: text, many: true }', '{ kind: text }', ['x'], 'x'],
    [
      '{ kind: group, fields: { a: { kind: text } } }',
      '{ kind: group, many: true, fields: { a: { kind: text } } }',
      { a: 'x' },
      [{ id: 'f2-all', values: { a: 'x' } }],
    ],
    [
      '{ kind: group, many: true, fields: { a: { kind: text } } }',
      '{ kind: group, fields: { a: { kind: text } } }',
      [{ values: { a: 'x' } }],
      { a: 'x' },
    ],
    [
      '{ kind: group, fields: { a: { kind: text } } }',
      '{ kind: group, fields: { a: { kind: number } } }',
      { a: '7' },
      { a: 7 },
    ],
    ['{ kind: text, localized: true }', '{ kind: longText, localized: true }', { en: null }, { en: null }],
  ])('%s becomes %s', (from, to, value, expected) =>
    expect(read(value, from, to)).toEqual({ x: expected, lost: [], again: true }),
  )

  it.each<[string, string, unknown, RegExp]>([
    ['{ kind: text }', '{ kind: number }', 'SH-1', /"SH-1" has no such form/],
    ['{ kind: text }', '{ kind: date }', 'tomorrow', /"tomorrow" must be a day/],
    ['{ kind: longText }', '{ kind: text }', 'one\ntwo', /must be one line/],
    ['{ kind: number }', '{ kind: number, integer: true }', 1.5, /1.5 is not whole/],
    [
      '{ kind: richText }',
      '{ kind: text }',
      { type: 'root', children: [{ type: 'thematicBreak' }] },
      /has no such form/,
    ],
    ['{ kind: text, many: true }', '{ kind: text }', ['x', 'y'], /holds 2 values, and one fits/],
    [
      '{ kind: text, localized: true }',
      '{ kind: text }',
      { en: 'x', nl: 'y' },
      /holds values in en, nl, and one fits for all locales/,
    ],
  ])('%s becomes %s, which %j does not survive', (from, to, value, because) =>
    expect(read(value, from, to).lost[0]).toMatch(because),
  )

  it('are converted once for each change, in order', () => {
    expect(read(4, '{ kind: number }', '{ kind: text }', '{ kind: longText }', '{ kind: number }')).toMatchObject({
      x: 4,
      lost: [],
    })
    expect(read(4, '{ kind: number }', '{ kind: number, unit: EUR }')).toMatchObject({ x: 4, lost: [] })
  })
  it('find their fields under new names, with nothing to convert', () => {
    const first = thing('{ kind: text }')
    const renamed = makeModel(
      { thing: 'type: thing\nnamedBy: name\nfields:\n  name: { kind: text }\n  y: { kind: text, was: x }\n' },
      first,
    )
    expect(renamed.conversions).toBeUndefined()
    const owner = typeNamed(renamed, 'thing')!
    const { document } = readValues(first, first.types[0]!, { x: 'kept' }, locales, randomBytes())
    expect(printValues(renamed, owner, document)).toEqual({ y: 'kept' })
    // It is read, and written, under both.
    expect(project(renamed, owner, document, chain).values).toMatchObject({ x: 'kept', y: 'kept' })
    expect(readValues(renamed, owner, { x: 'new' }, locales, randomBytes()).document).toEqual({ f2: 'new' })
    expect(readValues(renamed, owner, { x: 'a', y: 'b' }, locales, randomBytes()).problems[0]?.code).toBe('twice')
  })
})
