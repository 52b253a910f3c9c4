import type { z } from 'zod'
import { z as zod } from 'zod'
import type { Finding } from './kind.js'

/** `range: { min, max }` over values that are ordered; either end may be left open. */
export const rangeOf = <Value extends z.ZodType>(value: Value) =>
  zod
    .strictObject({ min: value.optional(), max: value.optional() })
    .refine(
      ({ min, max }) => min === undefined || max === undefined || (min as string | number) <= (max as string | number),
      'min is more than max',
    )

export interface Range<Value> {
  readonly min?: Value | undefined
  readonly max?: Value | undefined
}

/** Checks a value against a range; `order` makes both comparable, `say` prints one for people. */
export function judgeRange<Value>(
  value: Value,
  range: Range<Value> | undefined,
  order: (value: Value) => string | number = (value) => value as string | number,
  say: (value: Value) => string = String,
): Finding[] {
  if (range?.min !== undefined && order(value) < order(range.min))
    return [
      {
        code: 'tooSmall',
        message: `is ${say(value)}, at least ${say(range.min)} is needed`,
        parameters: { value: say(value), min: say(range.min) },
      },
    ]
  if (range?.max !== undefined && order(value) > order(range.max))
    return [
      {
        code: 'tooLarge',
        message: `is ${say(value)}, at most ${say(range.max)} is allowed`,
        parameters: { value: say(value), max: say(range.max) },
      },
    ]
  return []
}
