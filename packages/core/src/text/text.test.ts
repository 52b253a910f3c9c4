import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fold, slugFrom } from './fold.js'
import { didYouMean, nearest } from './nearest.js'
import {
  addDays,
  dayIn,
  instantOf,
  isDate,
  isTimeZone,
  offsetsOf,
  readZoned,
  startOfDay,
  wallTimeIn,
  withOffset,
} from './time.js'
import { often } from '../../../../e2e/support/length.js'

describe('folding', () => {
  it.each([
    ['Café', 'cafe'],
    ['STRASSE', 'strasse'],
    ['Straße', 'strasse'],
    ['Ærø', 'aero'],
    ['ﬁsh', 'fish'],
    ['مُتْحَف', 'متحف'],
    ['أحمد', 'احمد'],
    ['مكتبة', 'مكتبه'],
    ['متـــحف', 'متحف'],
  ])('folds %s to %s', (text, folded) => expect(fold(text)).toBe(folded))

  it('changes nothing the second time, whatever the text', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (text) => fold(fold(text)) === fold(text)),
      { numRuns: often(400, 8000) },
    )
  })

  it.each([
    ['Night Walk', 'night-walk'],
    ["  The keepers' logbook! ", 'the-keepers-logbook'],
    ['Één nacht', 'een-nacht'],
    ['نزهة ليلية', 'نزهة-ليلية'],
    ['مُتْحَف', 'متحف'],
    // Urdu and Hindi lose no letter: a decomposed mark may be a letter of its own there.
    ['آئینۂ دل', 'آئینۂ-دل'],
    ['गाँव की हिन्दी', 'गाँव-की-हिन्दी'],
    ['Йод и ёлка', 'йод-и-ёлка'],
    ['Ünïcödé ﬁsh', 'unicode-fish'],
    ['!!!', ''],
  ])('makes of %s the slug %s', (text, slug) => expect(slugFrom(text)).toBe(slug))

  it('makes slugs that fit a path, whatever the text', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'grapheme', maxLength: 300 }),
        (text) => /^$|^[^\s/?#-]+(-[^\s/?#-]+)*$/u.test(slugFrom(text)) && slugFrom(text).length <= 96,
      ),
      { numRuns: often(300, 6000) },
    )
  })
})

describe('the nearest name', () => {
  it.each([
    ['startz', ['starts', 'status', 'title'], 'starts'],
    ['titel', ['title', 'summary'], 'title'],
    ['Museum', ['museum'], 'museum'],
    ['x', ['museum'], undefined],
    ['entirely', ['different'], undefined],
  ])('for %s among %j is %s', (written, candidates, nearestName) =>
    expect(nearest(written, candidates)).toBe(nearestName),
  )

  it('ends a sentence, or says nothing', () => {
    expect(didYouMean('startz', ['starts'])).toBe(' Did you mean `starts`?')
    expect(didYouMean('zzz', ['starts'])).toBe('')
  })
})

describe('time', () => {
  it.each(['2031-02-28', '2032-02-29', '0001-01-01'])('knows the day %s', (text) => expect(isDate(text)).toBe(true))
  it.each(['2031-02-29', '2031-13-01', '2031-1-1', '31-01-2031', '', '2031-04-31'])('refuses %s as a day', (text) =>
    expect(isDate(text)).toBe(false),
  )

  it('says which offsets a time can have: none where it is skipped, two where it comes twice', () => {
    expect(offsetsOf('2031-05-04T20:30:00', 'Europe/Amsterdam')).toEqual(['+02:00'])
    expect(offsetsOf('2031-03-30T02:30:00', 'Europe/Amsterdam')).toEqual([])
    expect(offsetsOf('2031-10-26T02:30:00', 'Europe/Amsterdam')).toEqual(['+02:00', '+01:00'])
    expect(offsetsOf('2031-10-26T02:30:00', 'UTC')).toEqual(['+00:00'])
    // Half an hour, the other way round the year.
    expect(offsetsOf('2031-04-06T01:45:00', 'Australia/Lord_Howe')).toEqual(['+11:00', '+10:30'])
  })
  it('keeps which of two times was meant, and follows a zone whose rules changed', () => {
    const read = (text: string) => readZoned(text)!.instant
    expect(read('2031-10-26T02:30:00+02:00[Europe/Amsterdam]')).toBe('2031-10-26T00:30:00.000Z')
    expect(read('2031-10-26T02:30:00+01:00[Europe/Amsterdam]')).toBe('2031-10-26T01:30:00.000Z')
    expect(read('2031-05-04T20:30:00+05:00[Europe/Amsterdam]')).toBe('2031-05-04T18:30:00.000Z')
  })

  it('reads an instant with any offset as the same instant in UTC', () => {
    expect(instantOf('2031-05-04T20:30:00+02:00')).toBe('2031-05-04T18:30:00.000Z')
    expect(instantOf('2031-05-04t18:30z')).toBe('2031-05-04T18:30:00.000Z')
  })
  it.each(['2031-05-04T20:30:00', '2031-05-04', '2031-05-04T25:00:00Z', '2031-02-30T10:00:00Z', 'tomorrow'])(
    'refuses %s as an instant',
    (text) => expect(instantOf(text)).toBeUndefined(),
  )

  it('begins a day where the clocks say so, also when they change', () => {
    expect(startOfDay('2031-05-04', 'Europe/Amsterdam')).toBe('2031-05-03T22:00:00.000Z')
    expect(startOfDay('2031-01-04', 'Europe/Amsterdam')).toBe('2031-01-03T23:00:00.000Z')
    expect(startOfDay('2031-03-30', 'Europe/Amsterdam')).toBe('2031-03-29T23:00:00.000Z')
    expect(startOfDay('2031-01-01', 'Pacific/Kiritimati')).toBe('2030-12-31T10:00:00.000Z')
    expect(startOfDay('2031-01-01', 'Pacific/Niue')).toBe('2031-01-01T11:00:00.000Z')
  })

  it('has each beginning of a day on that day, and the minute before on the day before', () => {
    const zones = ['Europe/Amsterdam', 'America/St_Johns', 'Asia/Kathmandu', 'Pacific/Auckland', 'UTC']
    fc.assert(
      fc.property(fc.constantFrom(...zones), fc.integer({ min: 0, max: 20_000 }), (zone, days) => {
        const day = addDays('2000-01-01', days)
        const start = Date.parse(startOfDay(day, zone))
        return dayIn(start, zone) === day && dayIn(start - 60_000, zone) === addDays(day, -1)
      }),
      { numRuns: often(150, 3000) },
    )
  })

  it('writes what clocks show with the offset of that day, and reads it back', () => {
    expect(withOffset('2031-05-04T20:30:00', 'Europe/Amsterdam')).toBe('2031-05-04T20:30:00+02:00')
    expect(withOffset('2031-01-04T20:30:00', 'Europe/Amsterdam')).toBe('2031-01-04T20:30:00+01:00')
    expect(withOffset('2031-07-04T08:00:00', 'America/St_Johns')).toBe('2031-07-04T08:00:00-02:30')
    expect(wallTimeIn('2031-05-04T18:30:00Z', 'Europe/Amsterdam')).toBe('2031-05-04T20:30:00')
  })

  it('takes the first of two, and a sensible instant for a time that is skipped', () => {
    expect(withOffset('2031-10-26T02:30:00', 'Europe/Amsterdam')).toBe('2031-10-26T02:30:00+02:00')
    expect(withOffset('2031-03-30T02:30:00', 'Europe/Amsterdam')).toBe('2031-03-30T02:30:00+01:00')
  })

  it('knows time zones', () => {
    expect(isTimeZone('Europe/Amsterdam')).toBe(true)
    expect(isTimeZone('Europe/Sanderling')).toBe(false)
  })
})
