import { z } from 'zod'
import { defineKind } from './kind.js'
import { translateWording } from './wording.js'

const form =
  /^[\p{Ll}\p{Lo}\p{Lm}\p{N}][\p{Ll}\p{Lo}\p{Lm}\p{N}\p{M}]*(-[\p{Ll}\p{Lo}\p{Lm}\p{N}][\p{Ll}\p{Lo}\p{Lm}\p{N}\p{M}]*)*$/u

const maxLength = 120

export const slug = defineKind<{ from?: string | undefined }>({
  name: 'slug',
  label: 'Slug',
  summary:
    'The part of a path that names the entry: lowercase letters and digits of any script, joined by hyphens. Empty on purpose, it leaves its part of the path out.',
  options: z.strictObject({ from: z.string().optional() }),
  descriptions: {
    from: 'The field of kind text that a missing slug is made from. In each locale it follows that text until the locale is first public.',
  },
  example: 'slug: { kind: slug, from: title, localized: true }',
  single: true,
  indexed: true,
  shape: () => ({ is: 'scalar', scalar: 'string' }),
  checkForm: (value) =>
    typeof value === 'string' && value.length <= maxLength && form.test(value)
      ? undefined
      : `must be lowercase letters and digits joined by single hyphens, at most ${maxLength}, such as \`night-walk\``,
  checkRules: () => [],
  comparison: 'exact',
  fact: (value) => value as string,
  segments: (value) => [{ part: '', text: [value as string], maxLength, isIndependent: true }],
  translate: translateWording,
  sample: (_, seed) => `night-walk-${seed}`,
})
