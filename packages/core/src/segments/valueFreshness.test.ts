import { describe, expect, it } from 'vitest'
import { settings } from '../../../../e2e/support/models.js'
import { documentOf, shapedModel, shapedType } from '../../../../e2e/support/shaped.js'
import { chainOf } from '../locales/settings.js'
import { project } from '../documents/project.js'
import { originsAfter } from './origins.js'
import { valueFreshness } from './valueFreshness.js'

const tour = shapedType('tour')
const words = (id: string, text: object) => ({ id, block: 'words', values: { text } })
const before = documentOf('tour', {
  title: { en: 'Night walk', nl: 'Nachtwandeling' },
  tags: { en: [{ id: 't1', value: 'dark' }], nl: [{ id: 't1', value: 'donker' }] },
  venue: { room: { en: 'Lamp room' } },
  body: [words('w1', { en: 'One', nl: 'Een' }), words('w2', { en: 'Two' })],
  lead2: [words('w3', { en: 'Three', nl: 'Drie' })],
})
const after = documentOf('tour', {
  title: { en: 'Night walk', nl: 'Nachtwandeling' },
  tags: {
    en: [
      { id: 't1', value: 'dark' },
      { id: 't2', value: 'cold' },
    ],
    nl: [{ id: 't1', value: 'donker' }],
  },
  venue: { room: { en: 'Lamp room' } },
  body: [words('w2', { en: 'Two' }), words('w1', { en: 'One and a half', nl: 'Een' })],
  lead2: [words('w3', { en: 'Three!', nl: 'Drie' })],
})
const at = '2031-05-01T00:00:00Z'
const empty = documentOf('tour', {})
const made = originsAfter(shapedModel, tour, empty, before, {}, 1, at, settings)
const read = (document: typeof before, locale: string, of = settings) => {
  const printed = project(shapedModel, tour, document, chainOf(settings, locale)).values
  return valueFreshness(shapedModel, tour, document, printed, made, locale, of)
}

describe('the freshness of values', () => {
  it('names those that are missing', () => {
    expect(read(before, 'nl')).toEqual({ '/venue/room': 'missing', '/body/1/values/text': 'missing' })
  })
  it('names those whose source changed, at their place among what is printed', () => {
    expect(read(after, 'nl')).toEqual({
      '/tags': 'partial',
      '/venue/room': 'missing',
      '/body/0/values/text': 'missing',
      '/body/1/values/text': 'outdated',
      '/lead2/values/text': 'outdated',
    })
  })
  it('names none in a variant that is not translated', () => {
    const locales = settings.locales.map((locale) => ({ ...locale, variant: locale.tag === 'nl-BE' }))
    expect(read(before, 'nl-BE', { ...settings, locales })).toEqual({})
    expect(read(before, 'nl-BE')).toHaveProperty('/title', 'missing')
  })
})
