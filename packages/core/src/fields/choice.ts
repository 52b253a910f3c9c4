import { z } from 'zod'
import { didYouMean } from '../text/nearest.js'
import { defineKind } from './kind.js'
import type { ChoiceOption } from './shape.js'

const value = z.string().regex(/^[A-Za-z0-9][A-Za-z0-9_.-]{0,63}$/, 'must be letters, digits, `-`, `_` or `.`')
const label = z.union([z.string().min(1).max(120), z.record(z.string(), z.string().min(1).max(120))])
const was = z.union([value, z.array(value).min(1).max(20)])
const option = z.union([value, z.strictObject({ value, label: label.optional(), was: was.optional() })])

/** How a choice is printed: its value, its label in the reader's locale, or `{ value, label }`. */
export const choiceForms = ['value', 'label', 'both'] as const
export type ChoiceForm = (typeof choiceForms)[number]

/** The label of an option in the first of some locales that has one; the value where it is no longer an option. */
export function labelOfChoice(options: readonly ChoiceOption[], value: string, locales: readonly string[]): string {
  const option = options.find((candidate) => candidate.value === value)
  if (!option) return value
  const tag = locales.find((locale) => option.labels?.[locale] !== undefined)
  return tag === undefined ? option.label : option.labels![tag]!
}

interface Options {
  options: (
    | string
    | {
        value: string
        label?: string | Record<string, string> | undefined
        was?: string | readonly string[] | undefined
      }
  )[]
}

const capital = (value: string): string => value.charAt(0).toUpperCase() + value.slice(1)

/** The current value of an option, by its current or an earlier one; itself where no option has it. */
export const currentChoice = (options: readonly ChoiceOption[], value: string): string =>
  options.some((option) => option.value === value)
    ? value
    : (options.find(({ was }) => was?.includes(value))?.value ?? value)

/** The options with their labels: an option without a label is its own, with a capital. Of labels per locale the first is used. */
function labelled({ options }: Options): ChoiceOption[] {
  return options.map((item) => {
    if (typeof item === 'string') return { value: item, label: capital(item) }
    const { value, label } = item
    const earlier = item.was === undefined ? {} : { was: [item.was].flat() }
    if (typeof label !== 'object') return { value, label: label ?? capital(value), ...earlier }
    return { value, label: Object.values(label)[0] ?? value, labels: label, ...earlier }
  })
}

export const choice = defineKind<Options>({
  name: 'choice',
  label: 'Choice',
  summary:
    'One of the values listed in `options`, or some of them with `many: true`; each optionally with a label, one text or one per locale.',
  example: 'format: { kind: choice, options: [talk, { value: walk, label: { en: Walk, nl: Wandeling } }] }',
  options: z.strictObject({
    options: z
      .array(option)
      .min(1, 'must list at least one option')
      .max(500)
      .refine(
        (items) => new Set(items.map((item) => (typeof item === 'string' ? item : item.value))).size === items.length,
        'lists an option twice',
      )
      .refine((items) => {
        const all = items.flatMap((item) =>
          typeof item === 'string' ? [item] : [item.value, ...[item.was ?? []].flat()],
        )
        return new Set(all).size === all.length
      }, 'has a `was` that is the value of another option, or is there twice'),
  }),
  descriptions: {
    options:
      'The possible values: `walk`, or `{ value: walk, label: Walk, was: hike }`, where the label may be a text per locale and `was` is the value that it had before, or a list of them: stored values are read as the new one.',
  },
  indexed: true,
  shape: (options) => ({ is: 'choice', options: labelled(options) }),
  checkForm: (value) => (typeof value === 'string' ? undefined : 'must be a text, one of the options'),
  checkRules: (value, options) => {
    const values = labelled(options).map((item) => item.value)
    if (values.includes(value as string)) return []
    return [
      {
        code: 'unknownOption',
        message: `is not one of ${values.join(', ')}.${didYouMean(value as string, values)}`,
        parameters: { value: value as string, options: values.join(', ') },
      },
    ]
  },
  canonical: (value, _, __, options) => currentChoice(labelled(options), value as string),
  comparison: 'exact',
  fact: (value) => value as string,
  sample: (options, seed) => labelled(options)[seed % options.options.length]!.value,
})
