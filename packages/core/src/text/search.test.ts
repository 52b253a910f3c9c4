import { describe, expect, it } from 'vitest'
import { maxSearched, searchable, searchExpression } from './search.js'

describe('what is searched', () => {
  it.each([
    ['accents and case', ['Café ÉTÉ'], 'fr', 'cafe ete', 'caf ete'],
    ['stems of the language', ['Walking the walks'], 'en', 'walking the walks', 'walk the'],
    ['stems of another', ['Wandelingen, vogels'], 'nl', 'wandelingen vogels', 'wandel vogel'],
    ['a region as its language', ['Wandelingen'], 'nl-BE', 'wandelingen', 'wandel'],
    ['Arabic letter forms', ['أضواء المدينة'], 'ar', 'اضواء المدينه', 'اضواء مدين'],
    ['words without spaces', ['灯塔博物馆'], 'zh', '灯塔 博物 馆', '灯塔 博物 馆'],
    ['nothing but words', ['“Salt” — 40 % … 🌊!'], 'en', 'salt 40', 'salt 40'],
    [
      'texts one after the other',
      ['Night Walk', 'Bring a torch.'],
      'en',
      'night walk bring a torch',
      'night walk bring a torch',
    ],
    ['nothing', [], 'en', '', ''],
  ] as const)('folds %s', (_, texts, locale, words, stems) =>
    expect(searchable(texts, locale)).toEqual({ words, stems }),
  )
  it('stops where a text is too long to be read', () => {
    expect(searchable(['sea '.repeat(maxSearched)], 'en').words.length).toBeLessThanOrEqual(maxSearched)
  })
})

describe('what is looked for', () => {
  it('is every word, by its beginning or by its stem in any locale', () => {
    expect(searchExpression('Night walks', ['en', 'nl'])).toBe(
      '({title words} : "night" * OR stems : ("night")) AND ({title words} : "walks" * OR stems : ("walk"))',
    )
    expect(searchExpression('wandelingen', ['en', 'nl'])).toContain('stems : ("wandelingen" OR "wandel")')
  })
  it.each([
    ['nothing', ''],
    ['signs alone', '… “!” 🌊'],
  ])('is nothing for %s', (_, text) => expect(searchExpression(text, ['en'])).toBeUndefined())
  it('takes what would be an expression as words', () => {
    expect(searchExpression('"sea" OR title:* NEAR(', ['en'])).toBe(
      ['sea', 'or', 'title', 'near']
        .map((word) => `({title words} : "${word}" * OR stems : ("${word === 'title' ? 'titl' : word}"))`)
        .join(' AND '),
    )
  })
  it('does not look for everything that begins with one letter, and not for more than twelve words', () => {
    expect(searchExpression('a', ['en'])).toBe('({title words} : "a" OR stems : ("a"))')
    const many = Array.from({ length: 40 }, (_, index) => `word${index}`).join(' ')
    expect(searchExpression(many, ['en'])!.split(' AND ')).toHaveLength(12)
  })
})
