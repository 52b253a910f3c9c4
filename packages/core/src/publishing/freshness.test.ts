import { describe, expect, it } from 'vitest'
import { doc, model, settings, type } from '../../../../e2e/support/models.js'
import { sourceOf } from '../locales/settings.js'
import { freshnessOf } from './freshness.js'

const activity = type('activity')
const titled = (title: Record<string, string>) => doc('activity', { title })
const fresh = (now: Record<string, string>, published: Record<string, Record<string, string>> = {}) => {
  const locales = Object.fromEntries(Object.entries(published).map(([locale, title]) => [locale, titled(title)]))
  const layers = Object.keys(locales).length > 0 ? { shared: titled({}), locales } : undefined
  return freshnessOf(model, activity, titled(now), { layers, withdrawn: [] }, settings)
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
  it('is nothing for a type without localized fields', () => {
    expect(freshnessOf(model, type('person'), {}, { layers: undefined, withdrawn: [] }, settings)).toEqual({})
  })
})
