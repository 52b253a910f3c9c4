import { editDistance } from './nearest.js'
import { fold } from './fold.js'
import { languageOf, quoted, stemOf, unspaced, wordsIn, type Language } from './search.js'

/* Compares texts with the words of a search: how well they match, and where. An index finds candidates; this decides. */

interface Wanted {
  readonly folded: string
  readonly stem: string
  /** How many letters may be wrong. */
  readonly typos: number
}

/** The words of a search, in one locale. */
export interface SearchQuestion {
  readonly language: Language
  readonly wanted: readonly Wanted[]
  /** How well known words match each search word: most words of texts repeat. */
  readonly grades: Map<string, readonly number[] | undefined>
}

/** A text that is looked through. */
export interface Passage {
  /** Its name in the answer, such as the name of a field. */
  readonly place: string
  readonly text: string
  /** How much a word in it counts: 1 for running text. */
  readonly weight: number
}

/** A piece of a text with the words that were found in it. */
export interface Highlight {
  readonly place: string
  readonly text: string
  /** Places in `text`: start, and end (excluded), in UTF-16 units. */
  readonly marks: readonly (readonly [number, number])[]
}

export interface TextMatch {
  readonly score: number
  /** Texts with most of the search words first. */
  readonly highlights: readonly Highlight[]
}

const maxWords = 12
/** So many characters of an entry are looked through. */
const maxLooked = 50_000
const maxFragment = 160
const maxHighlights = 3

/** Reads the words of a search. Undefined without any word. */
export function searchQuestion(text: string, locale: string): SearchQuestion | undefined {
  const language = languageOf(locale)
  const words = [...new Set(wordsIn(text.slice(0, 500), language))].slice(0, maxWords)
  if (words.length === 0) return undefined
  return {
    language,
    grades: new Map(),
    wanted: words.map((word) => {
      const folded = fold(word)
      return { folded, stem: stemOf(word, language), typos: typosOf(folded) }
    }),
  }
}

/** A number is meant as it is written. */
const typosOf = (word: string): number => (/\p{N}/u.test(word) || word.length < 4 ? 0 : word.length < 8 ? 1 : 2)

/**
 * An FTS5 expression that also finds slightly different spellings: by the first letters of each word, and by these with one letter
 * too many, or two swapped. It finds only candidates.
 */
export function looseExpression({ wanted }: SearchQuestion): string {
  return wanted
    .map(({ folded, stem, typos }) => {
      const beginnings = typos === 0 ? [] : beginningsOf(folded)
      const begins = beginnings.map((beginning) => `{title words} : ${quoted(beginning)} *`)
      const whole = `{title words} : ${quoted(folded)}${typos === 0 ? '' : ' *'}`
      return `(${[whole, `stems : ${quoted(stem)}`, ...begins].join(' OR ')})`
    })
    .join(' AND ')
}

function beginningsOf(word: string): string[] {
  const [a, b, c, d = ''] = [...word]
  return [...new Set([`${a}${b}${c}`, `${b}${a}${c}`, `${a}${c}${b}`, `${b}${c}${d}`, `${a}${c}${d}`, `${a}${b}${d}`])]
}

/**
 * How well texts match a search; undefined unless each of its words is there, whole, by its beginning, by its stem or with a typo.
 */
export function matchTexts(question: SearchQuestion, passages: readonly Passage[]): TextMatch | undefined {
  const best = question.wanted.map(() => 0)
  const marked: { passage: Passage; marks: [number, number][]; grade: number }[] = []
  let left = maxLooked
  for (const passage of passages) {
    const text = passage.text.slice(0, left)
    left -= text.length
    const marks: [number, number][] = []
    const inPassage = question.wanted.map(() => 0)
    for (const { word, start } of tokensIn(text, question.language)) {
      const grades = gradesOf(question, word)
      if (!grades) continue
      marks.push([start, start + word.length])
      grades.forEach((grade, index) => (inPassage[index] = Math.max(inPassage[index]!, grade)))
    }
    inPassage.forEach((grade, index) => (best[index] = Math.max(best[index]!, grade * passage.weight)))
    if (marks.length > 0) marked.push({ passage, marks, grade: inPassage.reduce((sum, grade) => sum + grade, 0) })
    if (left <= 0) break
  }
  if (best.some((grade) => grade === 0)) return undefined
  return {
    score: best.reduce((sum, grade) => sum + grade, 0),
    highlights: marked
      .sort((a, b) => b.grade - a.grade)
      .slice(0, maxHighlights)
      .map(({ passage, marks }) => fragmentOf(passage, marks)),
  }
}

/** How well a word matches each search word; undefined where it matches none. */
function gradesOf({ wanted, grades, language }: SearchQuestion, word: string): readonly number[] | undefined {
  const lower = word.toLowerCase()
  if (grades.has(lower)) return grades.get(lower)
  const plain = fold(lower)
  const stem = stemOf(lower, language)
  const all = wanted.map((one) => gradeOf(one, plain, stem))
  const answer = all.some((grade) => grade > 0) ? all : undefined
  grades.set(lower, answer)
  return answer
}

const gradeFor = { whole: 1, stem: 0.9, beginning: 0.7, typo: 0.4 }

function gradeOf({ folded, stem, typos }: Wanted, plain: string, itsStem: string): number {
  if (plain === folded) return gradeFor.whole
  if (itsStem === stem) return gradeFor.stem
  if (folded.length > 1 && plain.startsWith(folded)) return gradeFor.beginning
  if (typos === 0 || Math.abs(plain.length - folded.length) > typos) return 0
  return editDistance(plain, folded) <= typos ? gradeFor.typo : 0
}

/** The words of a text with their positions. */
function* tokensIn(text: string, language: Language): Generator<{ word: string; start: number }> {
  // Classes of letters beyond ASCII cost several times more.
  const form = /\P{ASCII}/u.test(text) ? /[\p{L}\p{N}][\p{L}\p{N}\p{M}]*/gu : /[A-Za-z0-9]+/g
  for (const match of text.matchAll(form)) {
    let start = match.index
    if (!unspaced.test(match[0])) {
      yield { word: match[0], start }
      continue
    }
    for (const word of wordsIn(match[0], language)) {
      yield { word: text.slice(start, start + word.length), start }
      start += word.length
    }
  }
}

/** The piece of a text around its first marks, cut between words. */
function fragmentOf({ place, text }: Passage, marks: readonly (readonly [number, number])[]): Highlight {
  if (text.length <= maxFragment) return { place, text, marks }
  const [first] = marks[0]!
  let start = Math.max(0, first - 40)
  if (start > 0) start = text.indexOf(' ', start) + 1 || start
  if (start > first) start = first
  let end = Math.min(text.length, start + maxFragment)
  const space = text.lastIndexOf(' ', end)
  if (end < text.length && space > marks[0]![1]) end = space
  const before = start > 0 ? '…' : ''
  const shift = before.length - start
  return {
    place,
    text: before + text.slice(start, end) + (end < text.length ? '…' : ''),
    marks: marks.filter(([from, to]) => from >= start && to <= end).map(([from, to]) => [from + shift, to + shift]),
  }
}
