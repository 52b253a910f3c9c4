import { z } from 'zod'
import { didYouMean } from '../text/nearest.js'
import { defineKind } from './kind.js'
import type { ChoiceOption } from './shape.js'

const value = z.string().regex(/^[A-Za-z0-9][A-Za-z0-9_.-]{0,63}$/, 'must be letters, digits, `-`, `_` or `.`')
const option = z.union([value, z.strictObject({ value, label: z.string().min(1) })])

interface Options {
  options: (string | { value: string; label: string })[]
}

/** The options with a label each: a bare value is its own label, with a capital. */
function labelled({ options }: Options): ChoiceOption[] {
  return options.map((item) =>
    typeof item === 'string' ? { value: item, label: item.charAt(0).toUpperCase() + item.slice(1) } : item,
  )
}

export const choice = defineKind<Options>({
  name: 'choice',
  label: 'Choice',
  summary: 'One of the values listed in `options`, each optionally with a label.',
  options: z.strictObject({
    options: z
      .array(option)
      .min(1, 'must list at least one option')
      .max(500)
      .refine(
        (items) => new Set(items.map((item) => (typeof item === 'string' ? item : item.value))).size === items.length,
        'lists an option twice',
      ),
  }),
  optionNames: ['options'],
  indexed: true,
  shape: (options) => ({ is: 'choice', options: labelled(options) }),
  misfit: (value) => (typeof value === 'string' ? undefined : 'must be a text, one of the options'),
  judge: (value, options) => {
    const known = labelled(options).map((item) => item.value)
    if (known.includes(value as string)) return []
    return [
      { code: 'unknownOption', message: `is not one of ${known.join(', ')}.${didYouMean(value as string, known)}` },
    ]
  },
  comparison: 'exact',
  fact: (value) => value as string,
  sample: (options, seed) => labelled(options)[seed % options.options.length]!.value,
})
