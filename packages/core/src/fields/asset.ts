import { z } from 'zod'
import { idPattern } from '../base/ids.js'
import { defineKind } from './kind.js'

const mediaType = z
  .string()
  .regex(/^[a-z]+\/(\*|[a-z0-9.+-]+)$/, 'must be a media type such as `image/*` or `application/pdf`')

export const asset = defineKind<{ accepts?: string[] | undefined }>({
  name: 'asset',
  label: 'Asset',
  summary: 'A file of the site: a picture or a document, of one of the media types in `accepts`.',
  example: 'cover: { kind: asset, accepts: [image/*] }',
  options: z.strictObject({ accepts: z.array(mediaType).min(1, 'must name at least one media type').optional() }),
  descriptions: { accepts: 'Media types, such as `image/*` or `application/pdf`; any when left out.' },
  indexed: false,
  shape: ({ accepts }) => ({ is: 'asset', accepts: accepts ?? [] }),
  checkForm: (value) =>
    typeof value === 'string' && idPattern.test(value) ? undefined : 'must be the id of an asset (20 characters)',
  checkRules: () => [],
  comparison: 'presence',
  fact: () => 1,
  references: (value) => ({ entries: [], assets: [value as string] }),
  print: (value) => ({ id: value }),
  sample: () => undefined,
})

/** Whether a media type is among those a field accepts; an empty list accepts all. */
export const acceptsMediaType = (accepts: readonly string[], type: string): boolean =>
  accepts.length === 0 ||
  accepts.some((accept) => accept === type || (accept.endsWith('/*') && type.startsWith(accept.slice(0, -1))))

/** An asset for readers, as JSON Schema; its texts are in their locale. */
export const assetMembers = {
  id: { type: 'string' },
  name: { type: 'string' },
  address: { type: 'string', description: 'Where the file is, on the service.' },
  mediaType: { type: 'string' },
  size: { type: 'integer', description: 'Bytes.' },
  width: { type: ['integer', 'null'] },
  height: { type: ['integer', 'null'] },
  alt: { type: ['string', 'null'], description: 'The alternative text in the locale.' },
  title: { type: ['string', 'null'], description: 'The title in the locale.' },
  caption: { type: ['string', 'null'], description: 'The caption in the locale.' },
} as const
