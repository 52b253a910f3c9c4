import { z } from 'zod'
import { fold } from '../text/fold.js'
import { defineKind } from './kind.js'
import { judgeLength, lengthOption } from './length.js'

export const text = defineKind<{ length?: z.infer<typeof lengthOption> | undefined }>({
  name: 'text',
  label: 'Text',
  summary: 'One line of text.',
  options: z.strictObject({ length: lengthOption.optional() }),
  optionNames: ['length'],
  indexed: false,
  shape: () => ({ is: 'scalar', scalar: 'string' }),
  misfit: (value) =>
    typeof value !== 'string'
      ? 'must be a text'
      : /[\r\n]/.test(value)
        ? 'must be one line, without line breaks'
        : undefined,
  judge: (value, { length }) => judgeLength(value as string, length),
  comparison: 'text',
  fact: (value) => fold(value as string),
  sample: ({ length }, seed) => ['Sanderling Head', 'Oyster Creek', 'Greyflats'][seed % 3]!.slice(0, length?.max),
})
