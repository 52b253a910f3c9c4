import { z } from 'zod'
import { defineKind } from './kind.js'

const form = /^[\p{Ll}\p{Lo}\p{N}]+(-[\p{Ll}\p{Lo}\p{N}]+)*$/u

export const slug = defineKind<{ from?: string | undefined }>({
  name: 'slug',
  label: 'Slug',
  summary:
    'The part of a path that names the entry: lowercase letters and digits of any script, joined by hyphens. Empty on purpose, it leaves its place in the path out.',
  options: z.strictObject({ from: z.string().optional() }),
  says: { from: 'The field of kind text that it is made from, when an entry is first saved without one.' },
  example: 'slug: { kind: slug, from: title, localized: true }',
  single: true,
  indexed: true,
  shape: () => ({ is: 'scalar', scalar: 'string' }),
  misfit: (value) =>
    typeof value === 'string' && value.length <= 120 && form.test(value)
      ? undefined
      : 'must be lowercase letters and digits joined by single hyphens, at most 120, such as `night-walk`',
  judge: () => [],
  comparison: 'exact',
  fact: (value) => value as string,
  sample: (_, seed) => `night-walk-${seed}`,
})
