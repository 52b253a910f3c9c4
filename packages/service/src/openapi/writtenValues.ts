import { fieldKinds } from '@wisteria/core'
import type { Schema } from './parts.js'

const string = (more: Schema = {}): Schema => ({ type: 'string', ...more })
const id = string({ description: 'Of an item that is there already; left out, a new one is made.' })
const inside: Schema = { type: 'object', additionalProperties: { $ref: '#/components/schemas/WrittenValue' } }

/** The written form of one value of each field kind. */
export const writtenKinds: Readonly<Record<string, Schema>> = {
  text: string({ examples: ['Night walk'] }),
  longText: string({ examples: ['Along the cliff.\n\nBring a coat.'] }),
  richText: {
    type: 'object',
    description: 'A rich text document; or `{ "markdown": … }` or `{ "html": … }`, which becomes one.',
    properties: { markdown: string(), html: string() },
    examples: [{ markdown: 'Along the *cliff*.' }],
  },
  slug: string({ examples: ['night-walk'] }),
  number: { type: 'number' },
  boolean: { type: 'boolean' },
  date: string({ format: 'date', examples: ['2031-05-16'] }),
  dateTime: string({ format: 'date-time', examples: ['2031-05-16T22:00:00+02:00'] }),
  timeSpan: string({ description: 'An ISO 8601 duration.', examples: ['PT1H30M'] }),
  email: string({ examples: ['desk@museums.example'] }),
  webAddress: string({ examples: ['https://museums.example/'] }),
  colour: string({ examples: ['#23607a'] }),
  choice: string({ description: 'The value of an option.' }),
  location: {
    type: 'object',
    properties: { latitude: { type: 'number' }, longitude: { type: 'number' } },
    required: ['latitude', 'longitude'],
  },
  json: { description: 'Any JSON value.', examples: [{ rows: [1, 2] }] },
  entry: string({ description: 'The id of an entry.' }),
  asset: string({ description: 'The id of an asset.' }),
  metadata: {
    type: 'object',
    properties: {
      title: string(),
      description: string(),
      image: string({ description: 'The id of an asset.' }),
      hidden: { type: 'boolean' },
    },
  },
  listing: {
    type: 'object',
    properties: { type: string(), where: string(), sort: string(), first: { type: 'integer' } },
    required: ['type'],
  },
  block: {
    type: 'object',
    properties: { block: string({ description: 'The name of the block type.' }), id, values: inside },
    required: ['block', 'values'],
  },
  group: {
    type: 'object',
    description: 'Of a single group: its fields. Of a repeated one: each element.',
    properties: { id, values: inside },
    additionalProperties: { $ref: '#/components/schemas/WrittenValue' },
  },
}

/** The schemas of written values, for the document: one for any value, and one for each kind. */
export function writtenSchemas(): Record<string, Schema> {
  const name = (kind: string): string => `Written${kind[0]!.toUpperCase()}${kind.slice(1)}`
  const all = Object.fromEntries(
    fieldKinds.map((kind) => [
      name(kind.name),
      { title: kind.name, description: kind.summary, ...writtenKinds[kind.name] },
    ]),
  )
  const single = Object.keys(all).map((name) => ({ $ref: `#/components/schemas/${name}` }))
  const multiple = { title: 'multiple values', type: 'array', items: { anyOf: single } }
  const localized = {
    title: 'localized',
    type: 'object',
    description: 'From locale to value.',
    additionalProperties: { anyOf: [...single, multiple, { type: 'null' }] },
  }
  return {
    WrittenValue: {
      description:
        'A value of a field, as its kind has it. A localized field takes an object from locale to value, a field with multiple values a list of them. `null` empties it on purpose, which also ends the search for a fallback; leaving it out says nothing of it.',
      anyOf: [...single, multiple, localized, { type: 'null' }],
    },
    ...all,
  }
}
