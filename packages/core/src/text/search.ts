import stemmers from 'snowball-stemmers'
import { fold } from './fold.js'

/** The languages with a stemmer, by ISO 639. */
const algorithms: Readonly<Record<string, string>> = {
  ar: 'arabic',
  hy: 'armenian',
  eu: 'basque',
  ca: 'catalan',
  cs: 'czech',
  da: 'danish',
  nl: 'dutch',
  en: 'english',
  fi: 'finnish',
  fr: 'french',
  de: 'german',
  hu: 'hungarian',
  it: 'italian',
  ga: 'irish',
  nb: 'norwegian',
  nn: 'norwegian',
  no: 'norwegian',
  pt: 'portuguese',
  ro: 'romanian',
  ru: 'russian',
  es: 'spanish',
  sl: 'slovene',
  sv: 'swedish',
  ta: 'tamil',
  tr: 'turkish',
}

/** How a language divides text into words, and stems them. */
export interface Language {
  readonly segmenter: Intl.Segmenter
  readonly stemmer: { stem(word: string): string } | undefined
  /** Stems by word, as far as they were met. */
  readonly stems: Map<string, string>
}

const languages = new Map<string, Language>()
const maxKnownStems = 50_000

export function languageOf(locale: string): Language {
  const cached = languages.get(locale)
  if (cached) return cached
  const algorithm = algorithms[locale.split('-')[0]!.toLowerCase()]
  const language = {
    segmenter: new Intl.Segmenter(locale, { granularity: 'word' }),
    stemmer: algorithm === undefined ? undefined : stemmers.newStemmer(algorithm),
    stems: new Map<string, string>(),
  }
  languages.set(locale, language)
  return language
}

/** Letters that are written without spaces between the words. */
export const unspaced = /[\p{sc=Han}\p{sc=Hira}\p{sc=Kana}\p{sc=Thai}\p{sc=Laoo}\p{sc=Khmr}\p{sc=Mymr}]/u

/** The words of a text, in lower case; where no spaces part them, as the language divides them (UAX 29). */
export function wordsIn(text: string, { segmenter }: Language): string[] {
  const lower = text.toLowerCase()
  // Classes of letters beyond ASCII cost several times more, and dividing by the language a hundred times: only where they must.
  const runs = lower.match(/\P{ASCII}/u.test(lower) ? /[\p{L}\p{N}][\p{L}\p{N}\p{M}]*/gu : /[a-z0-9]+/g) ?? []
  if (!unspaced.test(lower)) return runs
  return runs.flatMap((run) =>
    unspaced.test(run) ? Array.from(segmenter.segment(run), ({ segment }) => segment) : run,
  )
}

/** How many words a text has, as `wordsIn` divides them. */
export const wordCount = (text: string, locale: string): number => wordsIn(text, languageOf(locale)).length

/** The folded stem of a word; the folded word itself where the language has no stemmer. */
export function stemOf(word: string, { stemmer, stems }: Language): string {
  if (!stemmer) return fold(word)
  const cached = stems.get(word)
  if (cached !== undefined) return cached
  if (stems.size >= maxKnownStems) stems.clear()
  const stem = fold(stemmer.stem(word)) || fold(word)
  stems.set(word, stem)
  return stem
}

/** Texts as they are searched. */
export interface Searchable {
  /** Folded words, in their order, with a space between. */
  readonly words: string
  /** Their stems, each once. */
  readonly stems: string
}

/** Above so many characters a text's rest is not searched. */
export const maxSearched = 200_000

/** The indexed form of texts in one locale. */
export function searchable(texts: readonly string[], locale: string): Searchable {
  const language = languageOf(locale)
  const words = wordsIn(texts.join('\n').slice(0, maxSearched), language)
  return {
    words: words.map(fold).join(' '),
    stems: [...new Set(words.map((word) => stemOf(word, language)))].join(' '),
  }
}

/** More words than this are ignored. */
const maxWords = 12

/**
 * The words of a search, as an FTS5 expression over the columns `title`, `words` and `stems`: every word, by its beginning or, in
 * any of the locales, by its stem. Undefined without any word.
 */
export function searchExpression(text: string, locales: readonly string[]): string | undefined {
  const [first = 'en'] = locales
  const words = [...new Set(wordsIn(text.slice(0, 500), languageOf(first)))].slice(0, maxWords)
  if (words.length === 0) return undefined
  return words
    .map((word) => {
      // The beginning of one Latin letter would match nearly everything.
      const begins = /^[ -~]$/.test(word) ? '' : ' *'
      const stems = new Set(locales.map((locale) => stemOf(word, languageOf(locale))))
      return `({title words} : ${quoted(fold(word))}${begins} OR stems : (${[...stems].map(quoted).join(' OR ')}))`
    })
    .join(' AND ')
}

/** A word as an FTS5 expression writes it. */
export const quoted = (word: string): string => `"${word.replaceAll('"', '""')}"`
