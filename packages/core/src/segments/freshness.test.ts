import { describe, expect, it } from 'vitest'
import { doc, model, settings, type } from '../../../../e2e/support/models.js'
import { sourceOf } from '../locales/settings.js'
import { originsAfter } from './origins.js'
import { freshnessOf, seedOrigins } from './freshness.js'

const activity = type('activity')
const at = '2031-03-12T09:00:00.000Z'
const titled = (title: Record<string, string>) => doc('activity', { title })
const fresh = (now: Record<string, string>, published: Record<string, Record<string, string>> = {}) => {
  const locales = Object.fromEntries(Object.entries(published).map(([locale, title]) => [locale, titled(title)]))
  const layers = Object.keys(locales).length > 0 ? { shared: titled({}), locales } : undefined
  return freshnessOf(model, activity, titled(now), undefined, { layers, withdrawn: [] }, settings)
}

describe('the freshness of translations', () => {
  it('is missing where nobody wrote, and current where somebody did', () => {
    expect(fresh({ en: 'Walk', nl: 'Wandeling' })).toEqual({ nl: 'current', 'nl-BE': 'missing', ar: 'missing' })
  })
  it('is outdated once the source has changed since the translation was published', () => {
    const both = { en: 'Walk', nl: 'Wandeling' }
    expect(fresh(both, { en: both, nl: both })['nl']).toBe('current')
    const newer = { ...both, en: 'Night walk' }
    expect(fresh(newer, { en: both, nl: both })['nl']).toBe('outdated')
    expect(fresh(newer, { en: newer, nl: both })['nl']).toBe('outdated')
    expect(fresh({ ...newer, nl: 'Nachtwandeling' }, { en: newer, nl: both })['nl']).toBe('current')
  })
  it('looks at the locale that it is translated from', () => {
    expect(['nl', 'nl-BE', 'ar'].map((locale) => sourceOf(settings, locale))).toEqual(['en', 'nl', 'en'])
    const all = { en: 'Walk', nl: 'Wandeling', 'nl-BE': 'Tocht' }
    expect(fresh({ ...all, en: 'Night walk' }, { 'nl-BE': all })['nl-BE']).toBe('current')
    expect(fresh({ ...all, nl: 'Nachtwandeling' }, { 'nl-BE': all })['nl-BE']).toBe('outdated')
  })
  it('goes by what each text was made from, once that is recorded', () => {
    const of = (now: Record<string, string>, before: Record<string, string>, then: Record<string, string>) => {
      const first = originsAfter(model, activity, {}, titled(before), {}, 1, at, settings)
      const origins = originsAfter(model, activity, titled(before), titled(then), first, 2, at, settings)
      const last = originsAfter(model, activity, titled(then), titled(now), origins, 3, at, settings)
      return freshnessOf(model, activity, titled(now), last, { layers: undefined, withdrawn: [] }, settings)
    }
    const both = { en: 'Walk', nl: 'Wandeling' }
    expect(of(both, both, both)['nl']).toBe('current')
    // Never published, and outdated all the same.
    expect(of({ ...both, en: 'Night walk' }, both, both)).toMatchObject({ nl: 'outdated', ar: 'missing' })
    expect(of({ en: 'Night walk', nl: 'Nachtwandeling' }, both, { ...both, en: 'Night walk' })['nl']).toBe('current')
    expect(of(both, both, { ...both, en: 'Night walk' })['nl']).toBe('current')
  })
  it('is worked out from what was published for entries of earlier versions', () => {
    const both = { en: 'Walk', nl: 'Wandeling' }
    const seeded = (now: Record<string, string>, published: Record<string, string>) => {
      const history = { layers: { shared: titled({}), locales: { nl: titled(published) } }, withdrawn: [] }
      const origins = seedOrigins(model, activity, titled(now), history, { nl: 4 }, 9, at, settings)
      return [
        freshnessOf(model, activity, titled(now), origins, history, settings)['nl'],
        Object.values(origins['nl']!)[0]!.revision,
      ]
    }
    expect(seeded(both, both)).toEqual(['current', 4])
    expect(seeded({ ...both, en: 'Night walk' }, both)).toEqual(['outdated', 4])
    expect(seeded({ en: 'Night walk', nl: 'Nachtwandeling' }, both)).toEqual(['current', 9])
  })
  it('is nothing for a type without localized fields', () => {
    expect(freshnessOf(model, type('person'), {}, {}, { layers: undefined, withdrawn: [] }, settings)).toEqual({})
  })
})
