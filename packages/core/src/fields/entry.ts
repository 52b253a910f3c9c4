import { z } from 'zod'
import { idPattern } from '../base/ids.js'
import { defineKind } from './kind.js'

export const entry = defineKind<{ accepts: string[] }>({
  name: 'entry',
  label: 'Entry',
  summary: 'A reference to another entry, of one of the types in `accepts`.',
  options: z.strictObject({ accepts: z.array(z.string()).min(1, 'must name at least one type') }),
  descriptions: { accepts: 'The names of the types it may refer to.' },
  example: 'speakers: { kind: entry, accepts: [person], many: true }',
  indexed: true,
  shape: ({ accepts }) => ({ is: 'reference', to: accepts }),
  checkForm: (value) =>
    typeof value === 'string' && idPattern.test(value) ? undefined : 'must be the id of an entry (20 characters)',
  checkRules: () => [],
  comparison: 'reference',
  fact: (value) => value as string,
  references: (value) => ({ entries: [value as string], assets: [] }),
  print: (value) => ({ id: value }),
  sample: () => undefined,
})
