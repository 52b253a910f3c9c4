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

export const text = defineKind<Wording>({
  name: 'text',
  label: 'Text',
  summary: 'One line of text.',
  example: 'title: { kind: text, required: true, localized: true, length: { max: 90 } }',
  options: wordingOptions,
  descriptions: wordingSays,
  indexed: false,
  shape: () => ({ is: 'scalar', scalar: 'string' }),
  checkForm: (value) =>
    typeof value !== 'string'
      ? 'must be a text'
      : /[\r\n]/.test(value)
        ? 'must be one line, without line breaks'
        : undefined,
  checkRules: (value, options) => judgeWording(value as string, options),
  comparison: 'text',
  fact: (value) => fold(value as string),
  searchText: (value) => value as string,
  segments: wordingSegments,
  translate: translateWording,
  sample: (options, seed) =>
    sampleWords(`${['Sanderling Head', 'Oyster Creek', 'Greyflats'][seed % 3]!} ${seed}`, options),
})
