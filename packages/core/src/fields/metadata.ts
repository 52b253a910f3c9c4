import { z } from 'zod'
import { idPattern } from '../base/ids.js'
import { hasNoWords, wordsOf } from '../text/segmentText.js'
import type { Finding } from './kind.js'
import { defineKind } from './kind.js'

const form = z.strictObject({
  title: z.string().max(300).optional(),
  description: z.string().max(1000).optional(),
  image: z.string().regex(idPattern, 'must be the id of an asset').optional(),
  hidden: z.boolean().optional(),
})
type Value = z.infer<typeof form>

/** Longer texts are cut off where they are shown; a rule of thumb, so it is reported when publishing and does not block. */
const limits = { title: 70, description: 200 } as const

const texts = ['title', 'description'] as const

export const metadata = defineKind<{
  from?: { title?: string | undefined; description?: string | undefined; image?: string | undefined } | undefined
}>({
  name: 'metadata',
  label: 'Search and social texts',
  summary:
    'Texts for search engines and shared links: `{ title, description, image, hidden }`. Missing ones are taken from the fields named in `from`.',
  example: 'meta: { kind: metadata, localized: true, from: { title: title, description: summary, image: cover } }',
  options: z.strictObject({
    from: z
      .strictObject({ title: z.string().optional(), description: z.string().optional(), image: z.string().optional() })
      .optional(),
  }),
  descriptions: { from: 'Fallback fields of the same type: `{ title, description, image }`.' },
  indexed: false,
  single: true,
  shape: () => ({
    is: 'object',
    name: 'Metadata',
    members: {
      title: {
        shape: { is: 'scalar', scalar: 'string' },
        always: false,
        says: 'For the tab, for search engines and shared links.',
      },
      description: { shape: { is: 'scalar', scalar: 'string' }, always: false, says: 'One or two sentences.' },
      image: { shape: { is: 'asset', accepts: ['image/*'] }, always: false, says: 'The picture of a shared link.' },
      hidden: {
        shape: { is: 'scalar', scalar: 'boolean' },
        always: true,
        says: 'Whether search engines are asked to leave the page out.',
      },
    },
  }),
  checkForm: (value) =>
    form.safeParse(value).success
      ? undefined
      : 'must be `{ title, description, image, hidden }`, each of them optional',
  checkRules: (value) =>
    texts.flatMap((member): Finding[] => {
      const size = [...((value as Value)[member] ?? '')].length
      return size > limits[member]
        ? [
            {
              code: 'tooLong',
              message: `has a ${member} of ${size} characters, at most ${limits[member]} are shown`,
              parameters: { member, size, max: limits[member] },
            },
          ]
        : []
    }),
  comparison: 'presence',
  fact: () => 1,
  segments: (value) =>
    texts.flatMap((part) => {
      const text = (value as Value)[part]
      return text?.trim() ? [{ part, text: [text], maxLength: limits[part] }] : []
    }),
  translate: (source, given, translation) => {
    const written = texts.flatMap((part): [string, string | undefined][] => {
      const text = given.get(part)
      return text === undefined ? [] : [[part, hasNoWords(text) ? undefined : wordsOf(text)]]
    })
    if (translation === undefined && written.every(([, text]) => text === undefined)) return undefined
    // The picture and whether search engines list the page are copied; a translation may have its own.
    const rest = (translation ?? { ...(source as Value), title: undefined, description: undefined }) as Value
    return Object.fromEntries(
      Object.entries({ ...rest, ...Object.fromEntries(written) }).filter(([, value]) => value !== undefined),
    )
  },
  references: (value) => ({ entries: [], assets: (value as Value).image ? [(value as Value).image!] : [] }),
  print: (value) => {
    const { title, description, image, hidden } = value as Value
    return {
      title: title || null,
      description: description || null,
      image: image ? { id: image } : null,
      hidden: hidden ?? false,
    }
  },
  sample: (_, seed) => ({ title: `Sanderling Head ${seed}`, description: 'A lighthouse, a boatyard and a saltworks.' }),
})
