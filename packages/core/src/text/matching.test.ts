import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { looseExpression, matchTexts, searchQuestion, type Passage } from './matching.js'

const passages = (title: string, ...texts: string[]): Passage[] => [
  { place: 'title', text: title, weight: 4 },
  ...texts.map((text) => ({ place: 'summary', text, weight: 1 })),
]
const match = (words: string, title: string, ...texts: string[]) =>
  matchTexts(searchQuestion(words, 'en')!, passages(title, ...texts))
const marked = (words: string, title: string, ...texts: string[]) =>
  match(words, title, ...texts)?.highlights.map(({ text, marks }) => marks.map(([from, to]) => text.slice(from, to)))

describe('texts that are searched', () => {
  it.each([
    ['lighthouse', 'The Lighthouse', [['Lighthouse']]],
    ['light', 'The Lighthouse', [['Lighthouse']]],
    ['walks', 'A night walk', [['walk']]],
    ['walking night', 'A night walk', [['night', 'walk']]],
    ['ligthouse', 'The Lighthouse', [['Lighthouse']]],
    ['lighthuose', 'The Lighthouse', [['Lighthouse']]],
    ['lihgthuose', 'The Lighthouse', [['Lighthouse']]],
    ['cafe', 'Au café', [['café']]],
    ['salt', 'The malt', [['malt']]],
    ['sea', 'The pea', undefined],
    ['lighthouse boat', 'The Lighthouse', undefined],
    ['lgihtsouhe', 'The Lighthouse', undefined],
  ])('%j in %j', (words, title, expected) => expect(marked(words, title)).toEqual(expected))

  it('count more for the title, for whole words and for what is written so', () => {
    const score = (...args: Parameters<typeof match>) => match(...args)!.score
    expect(score('salt', 'Salt')).toBeGreaterThan(score('salt', 'Pan', 'Salt'))
    expect(score('salt', 'Salt')).toBeGreaterThan(score('salt', 'Saltworks'))
    expect(score('salt', 'Saltworks')).toBeGreaterThan(score('salt', 'Malt'))
  })

  it('are told by a piece around the first word, cut between words', () => {
    const long = `${'The wind blows here. '.repeat(20)}A lamp is lit. ${'It goes on. '.repeat(40)}`
    const [highlight] = match('lamp', 'x', long)!.highlights
    expect(highlight!.text).toMatch(/^….*A lamp is lit\. .*…$/)
    expect(highlight!.text.length).toBeLessThan(170)
    expect(highlight!.marks.map(([from, to]) => highlight!.text.slice(from, to))).toEqual(['lamp'])
  })

  it('have marks that are inside the piece and hold words, whatever the text', () =>
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 400 }), fc.stringMatching(/^[a-z]{1,6}$/), (text, word) => {
        const whole = `${text} ${word} ${text}`
        const result = match(word, 'none', whole)
        expect(result).toBeDefined()
        for (const { text, marks } of result!.highlights)
          for (const [from, to] of marks) {
            expect(from).toBeGreaterThanOrEqual(0)
            expect(to).toBeLessThanOrEqual(text.length)
            expect(text.slice(from, to)).toMatch(/^[\p{L}\p{N}][\p{L}\p{N}\p{M}]*$/u)
          }
      }),
    ))

  it('divide words of scripts without spaces', () => {
    const question = searchQuestion('東京', 'ja')!
    const result = matchTexts(question, [{ place: 'title', text: '私は東京に住む', weight: 4 }])
    expect(result?.highlights[0]?.marks).toEqual([[2, 4]])
  })
})

describe('what somebody looks for', () => {
  it('is nothing without a word, and at most twelve', () => {
    expect(searchQuestion('… ! ', 'en')).toBeUndefined()
    expect(searchQuestion(Array.from({ length: 40 }, (_, at) => `word${at}`).join(' '), 'en')!.wanted).toHaveLength(12)
  })
  it('asks an index for beginnings, and never for less than three letters', () => {
    const expression = looseExpression(searchQuestion('ab lamp', 'en')!)
    expect(expression).toBe(
      '({title words} : "ab" OR stems : "ab") AND ({title words} : "lamp" * OR stems : "lamp" OR {title words} : "lam" * OR {title words} : "alm" * OR {title words} : "lma" * OR {title words} : "amp" * OR {title words} : "lmp" * OR {title words} : "lap" *)',
    )
  })
})
