import { z } from 'zod'
import { defineKind } from './kind.js'

export const block = defineKind<{ accepts: string[] }>({
  name: 'block',
  label: 'Blocks',
  summary: 'Pieces that live inside the entry, in order, each of one of the block types in `accepts`.',
  options: z.strictObject({ accepts: z.array(z.string()).min(1, 'must name at least one block type') }),
  optionNames: ['accepts'],
  indexed: false,
  alwaysMany: true,
  shape: ({ accepts }) => ({ is: 'blocks', of: accepts }),
  // A block is read by the walk over its own fields, so nothing is left to say about it as a value.
  misfit: () => undefined,
  judge: () => [],
  comparison: undefined,
  fact: () => undefined,
  sample: () => [],
})
