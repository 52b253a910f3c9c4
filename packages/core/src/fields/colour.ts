import { z } from 'zod'
import { defineKind } from './kind.js'

export const colour = defineKind({
  name: 'colour',
  label: 'Colour',
  summary: 'A colour as `#1e6843`, or with its opacity `#1e6843cc` (CSS Color 4, hexadecimal).',
  example: 'accent: { kind: colour }',
  options: z.strictObject({}),
  descriptions: {},
  indexed: false,
  shape: () => ({ is: 'scalar', scalar: 'string' }),
  checkForm: (value) =>
    typeof value === 'string' && /^#([0-9a-fA-F]{6}|[0-9a-fA-F]{8})$/.test(value)
      ? undefined
      : 'must be a colour such as `#1e6843`',
  checkRules: () => [],
  comparison: 'exact',
  fact: (value) => (value as string).toLowerCase(),
  sample: (_, seed) => ['#1e6843', '#23607a', '#7f4c00'][seed % 3],
})
