import { z } from 'zod'
import { defineKind } from './kind.js'

const whole = z.int().min(0)

interface Options {
  accepts: string[]
  each?: Record<string, { min?: number | undefined; max?: number | undefined }> | undefined
}

export const block = defineKind<Options>({
  name: 'block',
  label: 'Blocks',
  summary:
    'A part of the entry, of one of the block types in `accepts`; with `many: true` any number of them, in order.',
  example:
    'body: { kind: block, accepts: [heading, text, picture], many: true, each: { heading: { max: 3 } }, count: { max: 40 } }',
  options: z.strictObject({
    accepts: z.array(z.string()).min(1, 'must name at least one block type'),
    each: z.record(z.string(), z.strictObject({ min: whole.optional(), max: whole.optional() })).optional(),
  }),
  descriptions: {
    accepts: 'The names of the block types it may contain.',
    each: 'How many of a block type there may be: `{ heading: { max: 1 } }`.',
  },
  indexed: false,
  shape: ({ accepts }) => ({ is: 'blocks', of: accepts }),
  // A block's values are read by the walk over its own fields, so a block as a value needs no more.
  checkForm: () => undefined,
  checkRules: () => [],
  comparison: 'presence',
  fact: () => 1,
  sample: () => undefined,
})
