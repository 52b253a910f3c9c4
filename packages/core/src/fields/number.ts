import { z } from 'zod'
import { judgeRange, rangeOf, type Range } from './bounds.js'
import { defineKind } from './kind.js'

interface Options {
  integer?: boolean | undefined
  range?: Range<number> | undefined
  unit?: string | undefined
}

export const number = defineKind<Options>({
  name: 'number',
  label: 'Number',
  summary: 'A number, whole if `integer: true`, with its unit.',
  example: 'price: { kind: number, unit: EUR, range: { min: 0, max: 120 } }',
  options: z.strictObject({
    integer: z.boolean().optional(),
    range: rangeOf(z.number()).optional(),
    unit: z.string().max(40).optional(),
  }),
  descriptions: {
    integer: 'Whether it must be whole.',
    range: '`{ min, max }`, both included.',
    unit: 'Shown beside the value, in forms and in messages.',
  },
  indexed: false,
  shape: ({ integer }) => ({ is: 'scalar', scalar: integer ? 'integer' : 'number' }),
  checkForm: (value, { integer }) =>
    typeof value !== 'number' || !Number.isFinite(value)
      ? 'must be a number'
      : integer && !Number.isSafeInteger(value)
        ? 'must be a whole number'
        : undefined,
  checkRules: (value, { range, unit }) =>
    judgeRange(
      value as number,
      range,
      (value) => value,
      (value) => `${value}${unit ? ' ' + unit : ''}`,
    ),
  comparison: 'number',
  fact: (value) => value as number,
  sample: ({ range }, seed) => Math.min(range?.max ?? Infinity, Math.ceil(range?.min ?? 0) + (seed % 40)),
})
