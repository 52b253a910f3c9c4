import { fold } from '../text/fold.js'
import { languageOf, quoted, wordsIn } from '../text/search.js'

/** Below this likeness a translation is of no help. */
export const leastLikeness = 60

/**
 * How much two texts are alike, in per cent: by the words that have to be inserted, removed or replaced to turn one into the other
 * (Levenshtein's distance of words). 100 only for the same text, letter by letter; 0 where one is so long that they cannot reach
 * `leastLikeness`.
 */
export function likenessOf(a: string, b: string, locale: string): number {
  if (a === b) return 100
  const language = languageOf(locale)
  const [from, to] = [wordsIn(a, language), wordsIn(b, language)]
  const longest = Math.max(from.length, to.length)
  // Texts of such different lengths cannot be alike enough: no need to compare them word by word.
  if (longest === 0 || (100 * Math.min(from.length, to.length)) / longest < leastLikeness) return 0
  let row = Array.from({ length: to.length + 1 }, (_, index) => index)
  for (const [index, word] of from.entries()) {
    const next = [index + 1]
    for (const [other, wanted] of to.entries())
      next.push(Math.min(next[other]! + 1, row[other + 1]! + 1, row[other]! + (word === wanted ? 0 : 1)))
    row = next
  }
  return Math.min(99, Math.floor(100 * (1 - row[to.length]! / longest)))
}

/** The most words of a text that are looked up. */
const lookedUp = 5

/**
 * Expressions of the search index for texts like another, the narrowest first: of its longest words, which are the rarest, then of all
 * but one of them.
 */
export function memoryExpressions(text: string, locale: string): string[] {
  const words = [...new Set(wordsIn(text, languageOf(locale)))].sort((a, b) => b.length - a.length).slice(0, lookedUp)
  if (words.length === 0) return []
  const all = (some: readonly string[]): string =>
    some.map((word) => `{title words} : ${quoted(fold(word))}`).join(' AND ')
  const fewer = words.length > 2 ? words.map((left) => all(words.filter((word) => word !== left))) : []
  return [all(words), ...fewer]
}
