import { z } from 'zod'
import { fold } from '../text/fold.js'
import { defineKind } from './kind.js'

export const webAddress = defineKind({
  name: 'webAddress',
  label: 'Web address',
  summary: 'An absolute address that begins `https://` or `http://` (WHATWG URL).',
  example: 'tickets: { kind: webAddress }',
  options: z.strictObject({}),
  descriptions: {},
  indexed: false,
  shape: () => ({ is: 'scalar', scalar: 'string', format: 'uri' }),
  checkForm: (value) =>
    typeof value === 'string' && value.length <= 2000 && /^https?:\/\/\S+$/.test(value) && URL.canParse(value)
      ? undefined
      : 'must be a web address such as `https://marram.example/tickets`',
  checkRules: () => [],
  comparison: 'text',
  fact: (value) => fold(value as string),
  sample: (_, seed) => `https://marram.example/${seed}`,
})
