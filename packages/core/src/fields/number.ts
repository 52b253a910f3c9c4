import { z } from 'zod'
import { defineKind } from './kind.js'

const range = z
  .strictObject({ min: z.number().optional(), max: z.number().optional() })
  .refine(({ min, max }) => min === undefined || max === undefined || min <= max, 'min is more than max')

interface Options {
  integer?: boolean | undefined
  range?: z.infer<typeof range> | undefined
  unit?: string | undefined
}

export const number = defineKind<Options>({
  name: 'number',
  label: 'Number',
  summary: 'A number, whole if `integer: true`, with the unit that stands beside it.',
  options: z.strictObject({ integer: z.boolean().optional(), range: range.optional(), unit: z.string().optional() }),
  optionNames: ['integer', 'range', 'unit'],
  indexed: false,
  shape: ({ integer }) => ({ is: 'scalar', scalar: integer ? 'integer' : 'number' }),
  misfit: (value, { integer }) =>
    typeof value !== 'number' || !Number.isFinite(value)
      ? 'must be a number'
      : integer && !Number.isSafeInteger(value)
        ? 'must be a whole number'
        : undefined,
  judge: (value, { range, unit }) => {
    const amount = value as number
    const print = (limit: number) => `${limit}${unit ? ' ' + unit : ''}`
    if (range?.min !== undefined && amount < range.min)
      return [{ code: 'tooSmall', message: `is ${print(amount)}, at least ${print(range.min)} is needed` }]
    if (range?.max !== undefined && amount > range.max)
      return [{ code: 'tooLarge', message: `is ${print(amount)}, at most ${print(range.max)} is allowed` }]
    return []
  },
  comparison: 'number',
  fact: (value) => value as number,
  sample: ({ range }, seed) => Math.min(range?.max ?? 100, (range?.min ?? 0) + (seed % 40)),
})
