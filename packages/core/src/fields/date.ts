import { z } from 'zod'
import { addDays, isDate } from '../text/time.js'
import { judgeRange, rangeOf, type Range } from './bounds.js'
import { defineKind } from './kind.js'

const day = z.string().refine(isDate, 'must be a day such as `2031-05-04`')

export const date = defineKind<{ range?: Range<string> | undefined }>({
  name: 'date',
  label: 'Date',
  summary: 'A calendar day, `2031-05-04` (RFC 3339 full-date).',
  example: 'opened: { kind: date, range: { min: 1800-01-01 } }',
  options: z.strictObject({ range: rangeOf(day).optional() }),
  descriptions: { range: '`{ min, max }`: the first and the last day allowed.' },
  indexed: true,
  shape: () => ({ is: 'scalar', scalar: 'date' }),
  checkForm: (value) => (typeof value === 'string' && isDate(value) ? undefined : 'must be a day such as `2031-05-04`'),
  checkRules: (value, { range }) => judgeRange(value as string, range),
  comparison: 'date',
  fact: (value) => value as string,
  sample: ({ range }, seed) => {
    const wanted = addDays(range?.min ?? '2031-01-01', seed % 300)
    return range?.max !== undefined && wanted > range.max ? range.max : wanted
  },
})
