import { z } from 'zod'
import { plainText, readRichText, referencesIn, type RichText } from '../richtext/document.js'
import { fold } from '../text/fold.js'
import { defineKind } from './kind.js'

export const richText = defineKind<{
  accepts?: string[] | undefined
  length?: { min?: number | undefined; max?: number | undefined } | undefined
}>({
  name: 'richText',
  label: 'Rich text',
  summary:
    'A structured document: headings, paragraphs, lists, quotes, links, references to entries and assets, and marks. Read as a document, HTML, Markdown or plain text.',
  example: 'story: { kind: richText, localized: true, accepts: [museum, activity] }',
  options: z.strictObject({
    accepts: z.array(z.string()).min(1, 'must name at least one type').optional(),
    length: z.strictObject({ min: z.int().min(0).optional(), max: z.int().min(0).optional() }).optional(),
  }),
  descriptions: {
    accepts: 'The types of entries it may refer to; none when left out.',
    length: '`{ min, max }` of its plain text, in characters.',
  },
  indexed: false,
  shape: ({ accepts }) => ({ is: 'richText', entries: accepts ?? [] }),
  checkForm: (value) => {
    const read = readRichText(value)
    return 'wrong' in read ? read.wrong : undefined
  },
  checkRules: (value, { length }) => {
    if (!length) return []
    const size = [...plainText(value as RichText)].length
    if (length.max !== undefined && size > length.max)
      return [{ code: 'tooLong', message: `has ${size} characters, at most ${length.max} fit` }]
    if (length.min !== undefined && size < length.min)
      return [{ code: 'tooShort', message: `has ${size} characters, at least ${length.min} are needed` }]
    return []
  },
  comparison: 'text',
  fact: (value) => fold(plainText(value as RichText)),
  searchText: (value) => plainText(value as RichText),
  references: (value) => referencesIn(value as RichText),
  sample: (_, seed) => ({
    blocks: [
      { is: 'heading', level: 2, spans: [{ text: `Room ${seed}` }] },
      {
        is: 'paragraph',
        spans: [{ text: 'The lamp was lit ' }, { text: 'every', marks: ['emphasis'] }, { text: ' night.' }],
      },
    ],
  }),
})
