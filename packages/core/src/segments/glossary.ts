import { didYouMean } from '../text/nearest.js'
import type { Problem } from '../base/errors.js'
import { fold } from '../text/fold.js'
import { languageOf, stemOf, wordsIn } from '../text/search.js'

/** A term of a site, with its translations. */
export interface GlossaryTerm {
  /** In the default locale. */
  readonly term: string
  /** What it means, for translators. */
  readonly note?: string | undefined
  /** By locale. */
  readonly translations: Readonly<Record<string, TermTranslation>>
}

export interface TermTranslation {
  /** The translation to use; none where the term only has forbidden ones. */
  readonly use?: string | undefined
  /** Translations not to use. */
  readonly avoid?: readonly string[] | undefined
}

/** A term in a text, and what its translation does with it. */
export interface TermFinding {
  readonly term: GlossaryTerm
  /** `open`: nothing is written yet. `kept`: the right translation is there. `missing`: it is not. `avoided`: a forbidden one is there. */
  readonly is: 'open' | 'kept' | 'missing' | 'avoided'
  /** The translation to use. */
  readonly use: string | undefined
  /** The forbidden translation that is there. */
  readonly found?: string
}

/** The most terms of a site, and characters of one. */
export const maxTerms = 2000
export const maxTermLength = 200

/** A word with its stem. */
interface Word {
  readonly folded: string
  readonly stem: string
}

/** The words of a text, in order. */
function wordsOf(text: string, locale: string): Word[] {
  const language = languageOf(locale)
  return wordsIn(text, language).map((word) => ({ folded: fold(word), stem: stemOf(word, language) }))
}

/** The most letters that an ending adds to a stem, and the fewest that a stem needs for that. */
const [longestEnding, shortestStem] = [4, 4]

/** Whether a word is another one, in any of its forms: stemmers do not give all forms of a word one stem. */
const isForm = ({ folded, stem }: Word, of: Word): boolean =>
  stem === of.stem ||
  (of.stem.length >= shortestStem && folded.startsWith(of.stem) && folded.length - of.stem.length <= longestEnding)

/** Whether words stand in a text, one after the other. */
const contains = (text: readonly Word[], words: readonly Word[]): boolean =>
  words.length > 0 &&
  text.some((_, start) =>
    words.every((word, index) => {
      const here = text[start + index]
      return here !== undefined && isForm(here, word)
    }),
  )

/**
 * The terms of a source text, each with what a translation does with it. Words are compared by their stems, so that plurals and cases
 * count; an empty translation lacks nothing yet.
 */
export function termsIn(
  terms: readonly GlossaryTerm[],
  source: { readonly text: string; readonly locale: string },
  translation: { readonly text: string; readonly locale: string },
): TermFinding[] {
  const inSource = wordsOf(source.text, source.locale)
  const inTranslation = wordsOf(translation.text, translation.locale)
  const isStarted = inTranslation.length > 0
  return terms.flatMap((term): TermFinding[] => {
    const { use, avoid = [] } = term.translations[translation.locale] ?? {}
    if (use === undefined && avoid.length === 0) return []
    if (!contains(inSource, wordsOf(term.term, source.locale))) return []
    const found = avoid.find((other) => contains(inTranslation, wordsOf(other, translation.locale)))
    if (found !== undefined) return [{ term, is: 'avoided', use, found }]
    const isKept = use === undefined || contains(inTranslation, wordsOf(use, translation.locale))
    return [{ term, is: !isStarted ? 'open' : isKept ? 'kept' : 'missing', use }]
  })
}

/** Everything wrong with the terms of a site, each with a pointer into the list. @param locales the site's. */
export function checkGlossary(
  terms: readonly GlossaryTerm[],
  locales: readonly string[],
  defaultLocale: string,
): Problem[] {
  const problems: Problem[] = []
  const seen = new Map<string, number>()
  terms.forEach(({ term, translations }, index) => {
    const at = `/terms/${index}`
    const key = wordsOf(term, defaultLocale)
      .map(({ stem }) => stem)
      .join(' ')
    const before = seen.get(key)
    if (term.trim() === '') problems.push({ code: 'required', pointer: `${at}/term`, message: 'A term is empty.' })
    else if (before !== undefined)
      problems.push({
        code: 'twice',
        pointer: `${at}/term`,
        message: `“${term}” is there twice: also as “${terms[before]!.term}”.`,
      })
    seen.set(key, index)
    for (const [tag, { use, avoid = [] }] of Object.entries(translations)) {
      const targets = locales.filter((locale) => locale !== defaultLocale)
      if (!targets.includes(tag))
        problems.push({
          code: 'unknownLocale',
          pointer: `${at}/translations/${tag}`,
          message: `\`${tag}\` is no locale that this site translates into.${didYouMean(tag, targets)}`,
        })
      if (use !== undefined && avoid.some((other) => other.trim().toLowerCase() === use.trim().toLowerCase()))
        problems.push({
          code: 'twice',
          pointer: `${at}/translations/${tag}`,
          message: `“${use}” is both the translation of “${term}” to use and one to avoid in ${tag}.`,
        })
    }
  })
  return problems
}
