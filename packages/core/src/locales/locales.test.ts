import { describe, expect, it } from 'vitest'
import { settings } from '../../../../e2e/support/models.js'
import { chainOf, checkSettings, directionOf, ownNameOf, withLocale, withoutLocale } from './settings.js'

describe('locales', () => {
  it('read their whole chain, and no other', () => {
    expect(chainOf(settings, 'nl-BE')).toEqual(['nl-BE', 'nl', 'en'])
    expect(chainOf(settings, 'ar')).toEqual(['ar', 'en'])
    expect(chainOf(settings, 'fr')).toEqual([])
  })
  it.each([
    ['ar', 'rtl'],
    ['he', 'rtl'],
    ['en', 'ltr'],
    ['nl-BE', 'ltr'],
    ['az-Arab', 'rtl'],
  ])('%s is written %s', (tag, direction) => expect(directionOf(tag)).toBe(direction))
  it('refuse the name of a language as its tag', () => {
    const named = (tag: string) =>
      checkSettings({ ...settings, defaultLocale: tag, locales: [{ tag, label: tag, fallback: [] }] })
    expect(named('english')[0]?.message).toBe(
      '`english` is not a BCP 47 language tag, such as `en` or `nl-BE`. Did you mean `en`?',
    )
    expect(named('dutch')[0]?.message).toContain('Did you mean `nl`?')
    expect(named('qwertyui')[0]?.message).not.toContain('Did you mean')
    expect(named('haw')).toEqual([])
  })
  it('are added under their own name, with a chain of fallbacks', () => {
    expect(withLocale(settings, 'de').locales.at(-1)).toEqual({ tag: 'de', label: 'Deutsch', fallback: ['en'] })
    expect(withLocale(settings, 'ar-MA').locales.at(-1)?.fallback).toEqual(['ar', 'en'])
    expect(checkSettings(withLocale(settings, 'de'))).toEqual([])
    expect(checkSettings(withLocale(settings, 'nl')).map(({ pointer }) => pointer)).toEqual(['/locales/4/tag'])
    expect(ownNameOf('not a tag')).toBe('not a tag')
  })
  it('go out of the chains of the others when they are removed', () => {
    const without = withoutLocale(settings, 'nl')
    expect(without.locales.map(({ tag }) => tag)).toEqual(['en', 'nl-BE', 'ar'])
    expect(chainOf(without, 'nl-BE')).toEqual(['nl-BE', 'en'])
    expect(checkSettings(without)).toEqual([])
  })
  it('accept settings without a mistake', () => expect(checkSettings(settings)).toEqual([]))

  const change = (more: object) =>
    checkSettings({ ...settings, ...more }).map((problem) => [problem.pointer, problem.message])
  it.each([
    [{ defaultLocale: 'fr' }, '/defaultLocale', /not among the locales/],
    [{ label: ' ' }, '/label', /Give the site a name/],
    [{ locales: [{ tag: 'en', label: ' ', fallback: [] }] }, '/locales/0/label', /Give `en` a name/],
    [{ timeZone: 'Mars/Olympus' }, '/timeZone', /not a time zone/],
    [
      { locales: [{ tag: 'EN', label: 'x', fallback: [] }], defaultLocale: 'EN' },
      '/locales/0/tag',
      /Write `EN` as `en`/,
    ],
    [{ locales: [{ tag: 'e_n', label: 'x', fallback: [] }], defaultLocale: 'e_n' }, '/locales/0/tag', /not a BCP 47/],
    [{ locales: [...settings.locales, settings.locales[0]] }, '/locales/4/tag', /listed twice/],
    [
      { locales: [{ tag: 'en', label: 'x', fallback: ['nl'] }] },
      '/locales/0/fallback/0',
      /`nl` is not a locale of this site/,
    ],
    [{ locales: [{ tag: 'en', label: 'x', fallback: ['en'] }] }, '/locales/0/fallback/0', /twice/],
  ])('tell of a mistake at its place: %j', (more, pointer, message) => {
    const [first] = change(more)
    expect(first?.[0]).toBe(pointer)
    expect(first?.[1]).toMatch(message)
  })
})
