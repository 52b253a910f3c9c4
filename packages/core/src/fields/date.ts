import { z } from 'zod'
import { isDate } from '../text/time.js'
import { defineKind } from './kind.js'

export const date = defineKind({
  name: 'date',
  label: 'Date',
  summary: 'A calendar day, `2031-05-04` (RFC 3339 full-date).',
  options: z.strictObject({}),
  optionNames: [],
  indexed: true,
  shape: () => ({ is: 'scalar', scalar: 'date' }),
  misfit: (value) => (typeof value === 'string' && isDate(value) ? undefined : 'must be a day such as `2031-05-04`'),
  judge: () => [],
  comparison: 'date',
  fact: (value) => value as string,
  sample: (_, seed) => `2031-${String(1 + (seed % 12)).padStart(2, '0')}-${String(1 + (seed % 28)).padStart(2, '0')}`,
})
