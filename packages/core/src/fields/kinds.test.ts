import { describe, expect, it } from 'vitest'
import { fieldKinds, kindNamed } from './kinds.js'

const optionsOf: Record<string, Record<string, unknown>> = {
  choice: { options: ['talk', { value: 'walk', label: 'A walk' }] },
  entry: { accepts: ['museum'] },
  listing: { accepts: ['museum'], max: 5 },
  block: { accepts: ['heading'] },
  text: { length: { min: 2, max: 5 } },
  longText: { length: { max: 12 } },
  number: { integer: true, range: { min: 0, max: 10 }, unit: 'EUR' },
  group: { fields: {} },
  timeSpan: { range: { min: 'PT10M', max: 'PT8H' } },
  date: { range: { min: '1900-01-01', max: '2100-01-01' } },
  json: {
    schema: {
      type: 'object',
      properties: {
        height: { type: 'number', minimum: 0 },
        parts: { type: 'array', items: { enum: ['lens', 'lamp'] } },
      },
      required: ['height'],
    },
  },
  asset: { accepts: ['image/*'] },
  richText: { accepts: ['museum'], length: { max: 400 } },
  metadata: { from: { title: 'title' } },
}

const right: Record<string, unknown[]> = {
  text: ['Night Walk', ''],
  longText: ['Two\nlines', ''],
  slug: ['night-walk', 'نزهة-ليلية', '1900'],
  number: [0, -3, 12],
  boolean: [true, false],
  date: ['2031-05-04'],
  dateTime: ['2031-05-04T20:30:00+02:00'],
  choice: ['talk', 'anything'],
  listing: [
    { type: 'museum', first: 3 },
    { type: 'museum', where: 'town = "Greyflats"', sort: '-name', first: 1 },
  ],
  entry: ['01hz0000000000000000'],
  asset: ['01hz0000000000000000'],
  timeSpan: ['PT90M', 'P2D', 'P3W', 'P1DT2H3M4S', 'PT0S'],
  colour: ['#1e6843', '#1E6843CC'],
  email: ['ask@marram.example', 'a.b+c@sub.marram.example'],
  webAddress: ['https://marram.example/tickets?day=1#top', 'http://localhost:3000/x'],
  location: [
    { latitude: 52.95, longitude: 4.76 },
    { latitude: -90, longitude: 180 },
  ],
  json: [{ height: 3 }, [], 'text', 0],
  metadata: [{}, { title: 'Night Walk', hidden: true, image: '01hz0000000000000000' }],
  richText: [
    { type: 'root', children: [] },
    {
      type: 'root',
      children: [
        {
          type: 'heading',
          depth: 2,
          children: [{ type: 'strong', children: [{ type: 'text', value: 'Room 1' }] }],
        },
        { type: 'list', ordered: true, children: [{ type: 'listItem', children: [{ type: 'thematicBreak' }] }] },
        {
          type: 'paragraph',
          children: [{ type: 'link', url: '', data: { entry: '01hz0000000000000000' }, children: [] }],
        },
      ],
    },
  ],
}

const wrong: Record<string, unknown[]> = {
  text: [1, true, null, ['a'], 'two\nlines'],
  longText: [1, {}],
  slug: ['Night Walk', '-a', 'a--b', 'a/b', '', 'a'.repeat(121)],
  number: ['1', Number.NaN, Number.POSITIVE_INFINITY, 1.5],
  boolean: ['yes', 0],
  date: ['2031-02-29', '4 May', 20310504],
  dateTime: ['2031-05-04T20:30:00', '2031-05-04'],
  choice: [1, null],
  entry: ['abc', 1, '01HZ0000000000000000'],
  listing: ['museum', {}, { type: 'museum' }, { type: 'museum', first: 0 }, { type: 'museum', first: 1, all: true }],
  asset: ['abc', 1],
  timeSpan: ['90 minutes', 'P', 'PT', 'P1M', 'P1Y', 'PT1.5H', 5400],
  colour: ['red', '#fff', '#1e684', 0],
  email: ['ask', 'ask@marram', 'a b@marram.example', '@marram.example'],
  webAddress: [
    'marram.example',
    'javascript:alert(1)',
    'ftp://marram.example',
    'https://',
    'https://a b',
    '//marram.example',
  ],
  location: [
    { latitude: 91, longitude: 0 },
    { latitude: 1 },
    '52,4',
    [52, 4],
    { latitude: 1, longitude: 2, height: 3 },
  ],
  metadata: ['title', { titel: 'x' }, { image: 'abc' }, { hidden: 'yes' }],
}

describe('every field kind', () => {
  it.each(fieldKinds.map((kind) => kind.name))('%s takes what fits it and says what does not', (name) => {
    const kind = kindNamed(name)
    const options = kind.options.parse(optionsOf[name] ?? {})
    for (const value of right[name] ?? []) expect([value, kind.checkForm(value, options)]).toEqual([value, undefined])
    for (const value of wrong[name] ?? [])
      expect(kind.checkForm(value, options), JSON.stringify(value)).toMatch(/^must be /)
  })

  it.each(fieldKinds.map((kind) => kind.name))('%s makes samples that fit it and break no rule', (name) => {
    const kind = kindNamed(name)
    const options = kind.options.parse(optionsOf[name] ?? {})
    for (const seed of [0, 1, 7, 44]) {
      const value = kind.sample(options, seed)
      // Entries, assets, blocks and groups are sampled with the world around them.
      if (value === undefined) continue
      expect(kind.checkForm(value, options)).toBeUndefined()
      expect(kind.checkRules(value, options)).toEqual([])
      expect(kind.sample(options, seed)).toEqual(value)
    }
  })

  it('refuses an option that is not its own', () => {
    for (const kind of fieldKinds)
      expect(kind.options.safeParse({ ...optionsOf[kind.name], shade: 'blue' }).success, kind.name).toBe(false)
  })
})

describe('every field kind says of itself', () => {
  it.each(fieldKinds)('$name: a sentence, an example and what each of its options means', (kind) => {
    expect(kind.summary).toMatch(/\.$/)
    expect(kind.example).toContain(`kind: ${kind.name}`)
    const shape = (kind.options as unknown as { shape: object }).shape
    expect(Object.keys(kind.descriptions).sort()).toEqual(Object.keys(shape).sort())
  })
})

describe('rules', () => {
  it('hold words against a pattern, as a whole and with words of its own', () => {
    const { checkRules: judge, options } = kindNamed('text')
    const pattern = { matches: '[A-Z]{2}-\\d+', message: 'must look like SH-104' }
    expect(judge('SH-104', { pattern })).toEqual([])
    expect(judge('xSH-104', { pattern })[0]).toEqual({
      code: 'pattern',
      message: 'must look like SH-104',
      parameters: { said: 'must look like SH-104' },
    })
    for (const matches of ['(', '(?=a)b', '(?<!a)b', '(a)\\1', '(x{1000}){1000}'])
      expect(options.safeParse({ pattern: { matches, message: 'x' } }).success, matches).toBe(false)
  })
  it('match in a time that grows with the text alone, whatever the pattern', () => {
    const { checkRules: judge, options } = kindNamed('text')
    // Each of them makes a backtracking engine run forever on such a text.
    for (const matches of ['((a+))+b', '(a|a)*b', '(a|aa)+b', '(?:a?){25}a{25}', '(a+)+', '(.*)*x']) {
      const pattern = { matches, message: 'must fit' }
      expect(options.safeParse({ pattern }).success, matches).toBe(true)
      expect(judge('a'.repeat(4000) + '!', { pattern }), matches).toHaveLength(1)
    }
    expect(judge('مرحبا', { pattern: { matches: '\\p{Script=Arabic}+', message: 'x' } })).toEqual([])
  })
  it('leave entries in peace with a pattern that was adopted when more was allowed', () => {
    expect(kindNamed('text').checkRules('a', { pattern: { matches: '(?=b)a', message: 'x' } })).toEqual([])
  })
  it('say where a JSON value does not fit its schema', () => {
    const options = kindNamed('json').options.parse(optionsOf['json'])
    const judge = (value: unknown) => kindNamed('json').checkRules(value, options)
    expect(judge({ height: 2, parts: ['lens'] })).toEqual([])
    expect(judge({ height: 2, parts: ['lense'] })[0]?.message).toContain('`/parts/0`')
    expect(judge({})[0]?.message).toContain('height')
    expect(kindNamed('json').options.safeParse({ schema: { $ref: '#/nowhere' } }).success).toBe(false)
    expect(kindNamed('json').options.safeParse({ schema: 'text' }).success).toBe(false)
  })
  it('keep times with their zone as they were meant', () => {
    const kind = kindNamed('dateTime')
    expect(kind.checkForm('2031-05-04T20:30:00+02:00[Europe/Amsterdam]', { withZone: true })).toBeUndefined()
    expect(kind.checkForm('2031-05-04T20:30:00+02:00', { withZone: true })).toMatch(/zone/)
    expect(kind.checkForm('2031-05-04T20:30:00+02:00[Europe/Nowhere]', { withZone: true })).toMatch(/zone/)
    // The rules of the zone count, and not the offset that was written down once.
    expect(kind.print!('2031-05-04T20:30:00+01:00[Europe/Amsterdam]')).toEqual({
      local: '2031-05-04T20:30:00',
      zone: 'Europe/Amsterdam',
      instant: '2031-05-04T18:30:00.000Z',
    })
  })
  it('keep lengths of time in their range', () => {
    const { checkRules: judge, fact } = kindNamed('timeSpan')
    expect(judge('PT9H', { range: { max: 'PT8H' } })[0]?.message).toBe('is 9 h, at most 8 h is allowed')
    expect(judge('PT480M', { range: { max: 'PT8H' } })).toEqual([])
    expect([fact('PT90M'), fact('PT1H30M'), fact('P1W')]).toEqual([5400, 5400, 604_800])
  })
  it('counts characters as readers do', () => {
    const { checkRules: judge } = kindNamed('text')
    expect(judge('🦆🦆🦆🦆🦆', { length: { max: 5 } })).toEqual([])
    expect(judge('🦆🦆🦆🦆🦆🦆', { length: { max: 5 } })[0]).toEqual({
      code: 'tooLong',
      message: 'has 6 characters, at most 5 fit',
      parameters: { size: 6, max: 5 },
    })
    expect(judge('a', { length: { min: 2 } })[0]?.code).toBe('tooShort')
  })
  it('keeps numbers in their range, and names the unit', () => {
    const { checkRules: judge } = kindNamed('number')
    expect(judge(61, { range: { max: 60 }, unit: 'EUR' })[0]?.message).toBe('is 61 EUR, at most 60 EUR is allowed')
    expect(judge(-1, { range: { min: 0 } })[0]?.code).toBe('tooSmall')
    expect(judge(60, { range: { max: 60 } })).toEqual([])
  })
  it('suggests the option that was meant', () => {
    expect(kindNamed('choice').checkRules('wolk', { options: ['talk', 'walk'] })[0]?.message).toContain(
      'Did you mean `walk`?',
    )
  })
})
