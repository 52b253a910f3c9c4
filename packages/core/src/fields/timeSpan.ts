import { z } from 'zod'
import { printSpan, secondsIn } from '../text/span.js'
import { judgeRange, rangeOf, type Range } from './bounds.js'
import { defineKind } from './kind.js'

const span = z
  .string()
  .refine((text) => secondsIn(text) !== undefined, 'must be a length of time such as `PT90M` or `P2D`')
const range = rangeOf(span).refine(
  ({ min, max }) => min === undefined || max === undefined || secondsIn(min)! <= secondsIn(max)!,
  'min is more than max',
)

export const timeSpan = defineKind<{ range?: Range<string> | undefined }>({
  name: 'timeSpan',
  label: 'Time span',
  summary:
    'How long something takes: `PT1H30M`, `P2D`, `P3W` (ISO 8601 duration of weeks, days, hours, minutes and seconds). Compared by its length.',
  example: 'takes: { kind: timeSpan, range: { min: PT10M, max: PT8H } }',
  options: z.strictObject({ range: range.optional() }),
  descriptions: { range: '`{ min, max }`, both included.' },
  indexed: false,
  shape: () => ({ is: 'scalar', scalar: 'string', format: 'duration' }),
  checkForm: (value) =>
    typeof value === 'string' && secondsIn(value) !== undefined
      ? undefined
      : 'must be a length of time such as `PT90M` or `P2D`',
  checkRules: (value, { range }) => judgeRange(value as string, range, (span) => secondsIn(span)!, printSpan),
  comparison: 'span',
  fact: (value) => secondsIn(value as string),
  sample: ({ range }, seed) => range?.min ?? range?.max ?? `PT${15 + (seed % 12) * 15}M`,
})
