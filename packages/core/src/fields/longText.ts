import { fold } from '../text/fold.js'
import { defineKind } from './kind.js'
import {
  judgeWording,
  sampleWords,
  translateWording,
  wordingOptions,
  wordingSays,
  wordingSegments,
  type Wording,
} from './wording.js'

export const longText = defineKind<Wording>({
  name: 'longText',
  label: 'Long text',
  summary: 'Plain text of several paragraphs; an empty line separates them.',
  example: 'summary: { kind: longText, localized: true, length: { max: 320 } }',
  options: wordingOptions,
  descriptions: wordingSays,
  indexed: false,
  shape: () => ({ is: 'scalar', scalar: 'string' }),
  checkForm: (value) => (typeof value !== 'string' ? 'must be a text' : undefined),
  checkRules: (value, options) => judgeWording(value as string, options),
  comparison: 'text',
  fact: (value) => fold(value as string),
  searchText: (value) => value as string,
  segments: wordingSegments,
  translate: translateWording,
  sample: (options, seed) => sampleWords(`The wind comes from the sea here, ${seed % 300} days a year.`, options),
})
