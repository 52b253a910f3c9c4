import { z } from 'zod'
import { judgeRange, rangeOf, type Range } from './bounds.js'
import { defineKind } from './kind.js'

interface Options {
  integer?: boolean | undefined
  range?: Range<number> | undefined
  unit?: string | undefined
}

/** The numbers of 32 bits, as in GraphQL's `Int`. */
const minInt = -(2 ** 31)
const maxInt = 2 ** 31 - 1
const isInt = (value: number): boolean => value >= minInt && value <= maxInt

/** Whether a range needs whole numbers of more than 32 bits. */
const isBeyondInt = (range: Range<number> | undefined): boolean => !isInt(range?.min ?? 0) || !isInt(range?.max ?? 0)

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
    integer: 'Whether it must be whole: from −2147483648 to 2147483647, unless `range` has a larger number.',
    range: '`{ min, max }`, both included.',
    unit: 'Shown beside the value, in forms and in messages.',
  },
  indexed: false,
  shape: ({ integer, range }) => ({
    is: 'scalar',
    scalar: !integer ? 'number' : isBeyondInt(range) ? 'long' : 'integer',
  }),
  checkForm: (value, { integer, range }) => {
    if (typeof value !== 'number' || !Number.isFinite(value)) return 'must be a number'
    if (!integer) return undefined
    if (!Number.isSafeInteger(value)) return 'must be a whole number'
    return isBeyondInt(range) || isInt(value)
      ? undefined
      : `must be a whole number from ${minInt} to ${maxInt}; a larger one needs a \`range\` in the model that has it`
  },
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
