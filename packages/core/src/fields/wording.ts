import { z } from 'zod'
import type { Finding } from './kind.js'

const whole = z.int().min(0)

/** `length: { min, max }`, in characters as a reader counts them (Unicode code points). */
const length = z
  .strictObject({ min: whole.optional(), max: whole.optional() })
  .refine(({ min, max }) => min === undefined || max === undefined || min <= max, 'min is more than max')

/** Texts longer than this are not held against a pattern. */
const maxMatched = 5000

const pattern = z
  .strictObject({ matches: z.string().min(1).max(300), message: z.string().min(1).max(300) })
  .refine(
    ({ matches }) => expressionOf(matches) !== undefined,
    'is not a regular expression (ECMAScript, with the `u` flag)',
  )
  .refine(
    ({ matches }) => !/\((?:[^()\\]|\\.)*[+*}](?:[^()\\]|\\.)*\)[+*{]/.test(matches),
    'repeats what already repeats, which takes for ever on some texts: write it without one of the two',
  )

/** Options of kinds whose values are words. */
export const wordingOptions = z.strictObject({ length: length.optional(), pattern: pattern.optional() })
export type Wording = z.infer<typeof wordingOptions>

export const wordingSays = {
  length: '`{ min, max }` in characters (Unicode code points).',
  pattern:
    '`{ matches, message }`: an ECMAScript regular expression for the whole text, and what to say when it does not fit.',
}

const expressions = new Map<string, RegExp>()

/** The expression of a pattern, anchored at both ends; undefined when it is none. */
function expressionOf(matches: string): RegExp | undefined {
  const known = expressions.get(matches)
  if (known) return known
  try {
    const made = new RegExp(`^(?:${matches})$`, 'u')
    if (expressions.size < 1000) expressions.set(matches, made)
    return made
  } catch {
    return undefined
  }
}

export function judgeWording(value: string, { length, pattern }: Wording): Finding[] {
  const size = [...value].length
  if (length?.max !== undefined && size > length.max)
    return [{ code: 'tooLong', message: `has ${size} characters, at most ${length.max} fit` }]
  if (length?.min !== undefined && size < length.min)
    return [{ code: 'tooShort', message: `has ${size} characters, at least ${length.min} are needed` }]
  if (pattern && (size > maxMatched || !expressionOf(pattern.matches)!.test(value)))
    return [{ code: 'pattern', message: pattern.message }]
  return []
}

/** A sample cut to a length, and repeated when that is what the length asks for. */
export function sampleWords(text: string, { length }: Wording): string {
  const min = length?.min ?? 0
  let words = text
  while ([...words].length < min) words += ' ' + text
  return [...words].slice(0, length?.max ?? words.length).join('')
}
