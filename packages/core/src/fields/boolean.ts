import { z } from 'zod'
import { defineKind } from './kind.js'

export const boolean = defineKind({
  name: 'boolean',
  label: 'Yes or no',
  summary: 'True or false.',
  options: z.strictObject({}),
  descriptions: {},
  example: 'stepFree: { kind: boolean, label: Step-free }',
  indexed: true,
  shape: () => ({ is: 'scalar', scalar: 'boolean' }),
  checkForm: (value) => (typeof value === 'boolean' ? undefined : 'must be true or false'),
  checkRules: () => [],
  comparison: 'boolean',
  fact: (value) => (value ? 1 : 0),
  sample: (_, seed) => seed % 2 === 0,
})
