import { z } from 'zod'
import { instantOf } from '../text/time.js'
import { defineKind } from './kind.js'

export const dateTime = defineKind({
  name: 'dateTime',
  label: 'Date and time',
  summary: 'An instant with the offset it was meant in, `2031-05-04T20:30:00+02:00` (RFC 3339 date-time).',
  options: z.strictObject({}),
  optionNames: [],
  indexed: true,
  shape: () => ({ is: 'scalar', scalar: 'dateTime' }),
  misfit: (value) =>
    typeof value === 'string' && instantOf(value) !== undefined
      ? undefined
      : 'must be an instant with its offset, such as `2031-05-04T20:30:00+02:00`',
  judge: () => [],
  comparison: 'dateTime',
  fact: (value) => instantOf(value as string),
  sample: (_, seed) => `2031-${String(1 + (seed % 12)).padStart(2, '0')}-14T20:30:00Z`,
})
