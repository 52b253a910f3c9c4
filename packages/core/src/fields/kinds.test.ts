import { describe, expect, it } from 'vitest'
import { fieldKinds, kindNamed } from './kinds.js'

const optionsOf: Record<string, Record<string, unknown>> = {
  choice: { options: ['talk', { value: 'walk', label: 'A walk' }] },
  entry: { accepts: ['museum'] },
  block: { accepts: ['heading'] },
  text: { length: { min: 2, max: 5 } },
  longText: { length: { max: 12 } },
  number: { integer: true, range: { min: 0, max: 10 }, unit: 'EUR' },
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
  entry: ['01hz0000000000000000'],
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
}

describe('every field kind', () => {
  it.each(fieldKinds.map((kind) => kind.name))('%s takes what fits it and says what does not', (name) => {
    const kind = kindNamed(name)
    const options = kind.options.parse(optionsOf[name] ?? {}) as Record<string, unknown>
    for (const value of right[name] ?? []) expect([value, kind.misfit(value, options)]).toEqual([value, undefined])
    for (const value of wrong[name] ?? [])
      expect(kind.misfit(value, options), JSON.stringify(value)).toMatch(/^must be /)
  })

  it.each(fieldKinds.map((kind) => kind.name))('%s makes samples that fit it and break no rule', (name) => {
    const kind = kindNamed(name)
    if (kind.alwaysMany) return expect(kind.sample({}, 1)).toEqual([])
    const options = kind.options.parse(optionsOf[name] ?? {}) as Record<string, unknown>
    for (const seed of [0, 1, 7, 44]) {
      const value = kind.sample(options, seed)
      expect(kind.misfit(value, options)).toBeUndefined()
      expect(kind.judge(value, options)).toEqual([])
      expect(kind.sample(options, seed)).toEqual(value)
    }
  })

  it('refuses an option that is not its own', () => {
    for (const kind of fieldKinds)
      expect(kind.options.safeParse({ ...optionsOf[kind.name], colour: 'blue' }).success, kind.name).toBe(false)
  })
})

describe('rules', () => {
  it('counts characters as readers do', () => {
    const { judge } = kindNamed('text')
    expect(judge('🦆🦆🦆🦆🦆', { length: { max: 5 } })).toEqual([])
    expect(judge('🦆🦆🦆🦆🦆🦆', { length: { max: 5 } })[0]).toEqual({
      code: 'tooLong',
      message: 'has 6 characters, at most 5 fit',
    })
    expect(judge('a', { length: { min: 2 } })[0]?.code).toBe('tooShort')
  })
  it('keeps numbers in their range, and names the unit', () => {
    const { judge } = kindNamed('number')
    expect(judge(61, { range: { max: 60 }, unit: 'EUR' })[0]?.message).toBe('is 61 EUR, at most 60 EUR is allowed')
    expect(judge(-1, { range: { min: 0 } })[0]?.code).toBe('tooSmall')
    expect(judge(60, { range: { max: 60 } })).toEqual([])
  })
  it('suggests the option that was meant', () => {
    expect(kindNamed('choice').judge('wolk', { options: ['talk', 'walk'] })[0]?.message).toContain(
      'Did you mean `walk`?',
    )
  })
})
