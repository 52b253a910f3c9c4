import { z } from 'zod'
import { readZoned } from '../text/time.js'
import { defineKind } from './kind.js'
import { instantOf } from '../text/time.js'

export const dateTime = defineKind<{ withZone?: boolean | undefined }>({
  name: 'dateTime',
  label: 'Date and time',
  summary:
    'An instant with its offset, `2031-05-04T20:30:00+02:00` (RFC 3339 date-time). With `withZone: true` it also has the time zone, `…+02:00[Europe/Amsterdam]` (RFC 9557): the local time there stays the same if the rules of the zone change, and readers get `{ local, zone, instant }`.',
  example: 'starts: { kind: dateTime, withZone: true, required: true }',
  options: z.strictObject({ withZone: z.boolean().optional() }),
  descriptions: { withZone: 'Whether the time zone is part of the value.' },
  indexed: true,
  shape: ({ withZone }) =>
    withZone
      ? {
          is: 'object',
          name: 'ZonedTime',
          members: {
            local: {
              shape: { is: 'scalar', scalar: 'string' },
              always: true,
              says: 'Local time there: `2031-05-04T20:30:00`.',
            },
            zone: {
              shape: { is: 'scalar', scalar: 'string' },
              always: true,
              says: 'The time zone that was meant (IANA name).',
            },
            instant: { shape: { is: 'scalar', scalar: 'dateTime' }, always: true, says: 'The instant, in UTC.' },
          },
        }
      : { is: 'scalar', scalar: 'dateTime' },
  checkForm: (value, { withZone }) => {
    if (typeof value !== 'string') return 'must be a text'
    if (withZone)
      return readZoned(value)
        ? undefined
        : 'must be a time with its offset and zone, such as `2031-05-04T20:30:00+02:00[Europe/Amsterdam]`'
    return instantOf(value) === undefined
      ? 'must be an instant with its offset, such as `2031-05-04T20:30:00+02:00`'
      : undefined
  },
  checkRules: () => [],
  comparison: 'dateTime',
  fact: (value) => readZoned(value as string)?.instant ?? instantOf(value as string),
  print: (value) => readZoned(value as string) ?? value,
  sample: ({ withZone }, seed) =>
    `2031-${String(1 + (seed % 12)).padStart(2, '0')}-14T20:30:00${withZone ? '+00:00[UTC]' : 'Z'}`,
})
