import { z } from 'zod'
import { isRichText, plainText, referencesIn, type RichText } from '../richtext/document.js'
import { readRichText } from '../richtext/reading.js'
import { segmentsOfDocument, translateDocument } from '../richtext/segments.js'
import { fold } from '../text/fold.js'
import { defineKind } from './kind.js'

/** Ids of no meaning, for a document that is only checked. */
const numbered = () => {
  let count = 0
  return () => `n${++count}`
}

export const richText = defineKind<{
  accepts?: string[] | undefined
  length?: { min?: number | undefined; max?: number | undefined } | undefined
}>({
  name: 'richText',
  label: 'Rich text',
  summary:
    'A structured document: headings, paragraphs, lists, quotes, links, references to entries and assets, and formats. Read as a Markdown syntax tree (mdast), HTML, Markdown or plain text.',
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
    const read = readRichText(value, numbered())
    return 'wrong' in read ? read.wrong : undefined
  },
  canonical: (value, makeId, before) => {
    const read = readRichText(value, makeId, isRichText(before) ? before : undefined)
    return 'wrong' in read ? value : read.document
  },
  checkRules: (value, { length }) => {
    if (!length) return []
    const size = [...plainText(value as RichText)].length
    if (length.max !== undefined && size > length.max)
      return [
        {
          code: 'tooLong',
          message: `has ${size} characters, at most ${length.max} fit`,
          parameters: { size, max: length.max },
        },
      ]
    if (length.min !== undefined && size < length.min)
      return [
        {
          code: 'tooShort',
          message: `has ${size} characters, at least ${length.min} are needed`,
          parameters: { size, min: length.min },
        },
      ]
    return []
  },
  comparison: 'text',
  fact: (value) => fold(plainText(value as RichText)),
  searchText: (value) => plainText(value as RichText),
  segments: (value) => segmentsOfDocument(value as RichText),
  translate: (source, texts, translation) => translateDocument(source as RichText, texts, translation),
  references: (value) => referencesIn(value as RichText),
  sample: (_, seed): RichText => ({
    type: 'root',
    children: [
      { type: 'heading', depth: 2, data: { id: 'b1' }, children: [{ type: 'text', value: `Room ${seed}` }] },
      {
        type: 'paragraph',
        data: { id: 'b2' },
        children: [
          { type: 'text', value: 'The lamp was lit ' },
          { type: 'emphasis', children: [{ type: 'text', value: 'every' }] },
          { type: 'text', value: ' night.' },
        ],
      },
    ],
  }),
})
