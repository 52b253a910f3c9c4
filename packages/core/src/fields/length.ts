import { z } from 'zod'
import type { Finding } from './kind.js'

const whole = z.int().min(0)

/** `length: { min, max }`, in characters as a reader counts them (Unicode code points). */
export const lengthOption = z
  .strictObject({ min: whole.optional(), max: whole.optional() })
  .refine(({ min, max }) => min === undefined || max === undefined || min <= max, 'min is more than max')

export type Length = z.infer<typeof lengthOption>

export function judgeLength(value: string, length: Length | undefined): Finding[] {
  if (!length) return []
  const size = [...value].length
  if (length.max !== undefined && size > length.max)
    return [{ code: 'tooLong', message: `has ${size} characters, at most ${length.max} fit` }]
  if (length.min !== undefined && size < length.min)
    return [{ code: 'tooShort', message: `has ${size} characters, at least ${length.min} are needed` }]
  return []
}
