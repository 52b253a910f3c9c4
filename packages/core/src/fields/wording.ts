import { RE2JS } from 're2js'
import { z } from 'zod'
import { hasNoWords, wordsOf, type SegmentText } from '../text/segmentText.js'
import type { Finding, ValueSegment } from './kind.js'

const whole = z.int().min(0)

/** `length: { min, max }`, in characters as a reader counts them (Unicode code points). */
const length = z
  .strictObject({ min: whole.optional(), max: whole.optional() })
  .refine(({ min, max }) => min === undefined || max === undefined || min <= max, 'min is more than max')

/** Longer texts are not checked against a pattern. */
const maxMatched = 5000

const pattern = z
  .strictObject({ matches: z.string().min(1).max(300), message: z.string().min(1).max(300) })
  .superRefine(({ matches }, context) => {
    const read = readExpression(matches)
    if ('wrong' in read) context.addIssue({ code: 'custom', path: ['matches'], message: read.wrong })
  })

/** Options of kinds whose values are words. */
export const wordingOptions = z.strictObject({ length: length.optional(), pattern: pattern.optional() })
export type Wording = z.infer<typeof wordingOptions>

export const wordingSays = {
  length: '`{ min, max }` in characters (Unicode code points).',
  pattern:
    '`{ matches, message }`: a regular expression for the whole text (ECMAScript, without look-around and backreferences), and the message when a value does not match.',
}

type Expression = { readonly fits: (text: string) => boolean } | { readonly wrong: string }
const expressions = new Map<string, Expression>()

/**
 * The expression of a pattern, for the whole text. The engine takes time linear in the text, whatever the expression; expressions
 * that it does not support are refused.
 */
function readExpression(matches: string): Expression {
  const cached = expressions.get(matches)
  if (cached) return cached
  const compiled = compile(matches)
  if (expressions.size < 1000) expressions.set(matches, compiled)
  return compiled
}

function compile(matches: string): Expression {
  try {
    // Valid for other programs too: JSON Schema and forms use it unchanged.
    new RegExp(`^(?:${matches})$`, 'u')
  } catch {
    return { wrong: 'is not a regular expression (ECMAScript, with the `u` flag)' }
  }
  try {
    const scripts = matches.replaceAll(/\\([pP])\{(?:Script|sc)=(\w+)\}/g, '\\$1{$2}')
    const compiled = RE2JS.compile(RE2JS.translateRegExp(scripts))
    return { fits: (text) => compiled.matches(text) }
  } catch {
    return {
      wrong:
        'uses what can take very long to match: look-ahead, look-behind, a reference back, or a repetition of more than 1000. Write it without',
    }
  }
}

export function judgeWording(value: string, { length, pattern }: Wording): Finding[] {
  const size = [...value].length
  if (length?.max !== undefined && size > length.max)
    return [
      {
        code: 'tooLong',
        message: `has ${size} characters, at most ${length.max} fit`,
        parameters: { size, max: length.max },
      },
    ]
  if (length?.min !== undefined && size < length.min)
    return [
      {
        code: 'tooShort',
        message: `has ${size} characters, at least ${length.min} are needed`,
        parameters: { size, min: length.min },
      },
    ]
  if (!pattern) return []
  const read = readExpression(pattern.matches)
  // Of a model that was adopted when more was allowed: the comparison names it, and no entry is checked against it.
  if ('wrong' in read) return []
  return size > maxMatched || !read.fits(value)
    ? [{ code: 'pattern', message: pattern.message, parameters: { said: pattern.message } }]
    : []
}

/** The unit of a plain text: all of it. */
export const wordingSegments = (value: unknown, { length }: Wording): ValueSegment[] =>
  (value as string).trim() === '' ? [] : [{ part: '', text: [value as string], maxLength: length?.max }]

/** A plain text made of its unit, without codes. */
export const translateWording = (
  _: unknown,
  texts: ReadonlyMap<string, SegmentText>,
  translation: unknown,
): unknown => {
  const text = texts.get('')
  if (text === undefined) return translation
  return hasNoWords(text) ? undefined : wordsOf(text)
}

/** A sample cut to a length, or repeated to reach it. */
export function sampleWords(text: string, { length }: Wording): string {
  const min = length?.min ?? 0
  let words = text
  while ([...words].length < min) words += ' ' + text
  return [...words].slice(0, length?.max ?? words.length).join('')
}
