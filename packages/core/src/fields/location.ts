import { z } from 'zod'
import { defineKind } from './kind.js'

const degrees = (says: string) => ({ shape: { is: 'scalar', scalar: 'number' }, always: true, says }) as const
const place = z.strictObject({ latitude: z.number().min(-90).max(90), longitude: z.number().min(-180).max(180) })

export const location = defineKind({
  name: 'location',
  label: 'Location',
  summary: 'A point on the earth: `{ latitude, longitude }` in degrees (WGS 84).',
  example: 'meetingPoint: { kind: location, showIf: \'format = "walk"\' }',
  options: z.strictObject({}),
  descriptions: {},
  indexed: false,
  shape: () => ({
    is: 'object',
    name: 'Location',
    members: { latitude: degrees('Degrees north, -90 to 90.'), longitude: degrees('Degrees east, -180 to 180.') },
  }),
  checkForm: (value) =>
    place.safeParse(value).success
      ? undefined
      : 'must be `{ latitude, longitude }` in degrees: -90 to 90 north, -180 to 180 east',
  checkRules: () => [],
  comparison: 'presence',
  fact: () => 1,
  sample: (_, seed) => ({ latitude: 52 + (seed % 100) / 100, longitude: 4 + (seed % 70) / 100 }),
})
