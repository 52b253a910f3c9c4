import { describe, expect, it } from 'vitest'
import { termsIn, type GlossaryTerm } from './glossary.js'
import { likenessOf } from './memory.js'

const terms: GlossaryTerm[] = [
  { term: 'lighthouse', translations: { nl: { use: 'vuurtoren', avoid: ['lichttoren'] }, ar: { use: 'منارة' } } },
  { term: 'salt pan', translations: { nl: { use: 'zoutpan' } } },
  { term: 'wreck', translations: { nl: { avoid: ['rommel'] } } },
]
const found = (source: string, translation: string, locale = 'nl') =>
  termsIn(terms, { text: source, locale: 'en' }, { text: translation, locale }).map(
    ({ term, is }) => `${term.term} ${is}`,
  )

describe('terms of the glossary in a text', () => {
  it('are found by their stems, in either number, and word by word', () => {
    expect(found('Two lighthouses and a salt pan', 'Twee vuurtorens en een zoutpan')).toEqual([
      'lighthouse kept',
      'salt pan kept',
    ])
    expect(found('The salt in a pan', 'Zout in een pan')).toEqual([])
  })
  it('are missing where the translation says something else, and avoided where it says what it must not', () => {
    expect(found('The lighthouse', 'De toren')).toEqual(['lighthouse missing'])
    expect(found('The lighthouse', 'De lichttoren')).toEqual(['lighthouse avoided'])
    expect(found('A wreck', 'Een wrak')).toEqual(['wreck kept'])
    expect(found('A wreck', 'Oude rommel')).toEqual(['wreck avoided'])
  })
  it('lack nothing while nothing is written, and are of the locale that is translated into', () => {
    expect(found('The lighthouse', '')).toEqual(['lighthouse open'])
    expect(found('The lighthouse and a salt pan', 'منارة', 'ar')).toEqual(['lighthouse kept'])
  })
})

describe('the likeness of two texts', () => {
  it.each([
    ['Dark is not empty.', 'Dark is not empty.', 100],
    ['Dark is not empty.', 'dark is not empty', 99],
    ['Dark is not empty.', 'Dark is never empty.', 75],
    ['Dark is not empty.', 'The dark is not empty.', 80],
    ['Dark', 'Light', 0],
    ['Dark is not empty.', 'Dark is', 0],
    ['', '!', 0],
  ])('of “%s” and “%s” is %i per cent', (a, b, likeness) => expect(likenessOf(a, b, 'en')).toBe(likeness))
})
