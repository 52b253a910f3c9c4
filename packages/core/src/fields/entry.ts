import { z } from 'zod'
import { idPattern } from '../ids.js'
import { defineKind } from './kind.js'

export const entry = defineKind<{ accepts: string[] }>({
  name: 'entry',
  label: 'Entry',
  summary: 'A reference to another entry, of one of the types in `accepts`.',
  options: z.strictObject({ accepts: z.array(z.string()).min(1, 'must name at least one type') }),
  optionNames: ['accepts'],
  indexed: true,
  shape: ({ accepts }) => ({ is: 'reference', to: accepts }),
  misfit: (value) =>
    typeof value === 'string' && idPattern.test(value) ? undefined : 'must be the id of an entry (20 characters)',
  judge: () => [],
  comparison: 'reference',
  fact: (value) => value as string,
  sample: () => '01hz0000000000000000',
})
