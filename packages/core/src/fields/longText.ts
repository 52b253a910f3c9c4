import { z } from 'zod'
import { fold } from '../text/fold.js'
import { defineKind } from './kind.js'
import { judgeLength, lengthOption } from './length.js'

export const longText = defineKind<{ length?: z.infer<typeof lengthOption> | undefined }>({
  name: 'longText',
  label: 'Long text',
  summary: 'Plain text of several paragraphs; an empty line separates them.',
  options: z.strictObject({ length: lengthOption.optional() }),
  optionNames: ['length'],
  indexed: false,
  shape: () => ({ is: 'scalar', scalar: 'string' }),
  misfit: (value) => (typeof value !== 'string' ? 'must be a text' : undefined),
  judge: (value, { length }) => judgeLength(value as string, length),
  comparison: 'text',
  fact: (value) => fold(value as string),
  sample: ({ length }, seed) => `The wind comes from the sea here, ${seed % 300} days a year.`.slice(0, length?.max),
})
