import { z } from 'zod'
import { idPattern } from '../base/ids.js'

/*
 * Rich text is a structured document of its own, stored and read as JSON; docs/reference/rich-text.md is printed from here.
 * There is no HTML in it, so there is nothing in it to run: printers escape all words, and links are of a few kinds only.
 */

export const marks = {
  strong: 'Of weight: printed bold.',
  emphasis: 'Stressed: printed in italics.',
  code: 'Machine text.',
  struck: 'No longer so.',
} as const
export type Mark = keyof typeof marks

/** Words with their marks, perhaps a link; or the name of an entry, which is a link to it. */
export interface Span {
  readonly text: string
  readonly marks?: readonly Mark[] | undefined
  /** An address, or an entry of the site. */
  readonly link?: { readonly address: string } | { readonly entry: string } | undefined
}

export type RichBlock =
  | { readonly is: 'paragraph'; readonly spans: readonly Span[] }
  | { readonly is: 'heading'; readonly level: 2 | 3 | 4; readonly spans: readonly Span[] }
  | {
      readonly is: 'list'
      readonly ordered: boolean
      readonly items: readonly { readonly blocks: readonly RichBlock[] }[]
    }
  | { readonly is: 'quote'; readonly blocks: readonly RichBlock[] }
  | { readonly is: 'code'; readonly text: string }
  | { readonly is: 'rule' }
  /** Something that stands between the paragraphs: an entry, or an asset. */
  | { readonly is: 'entry'; readonly entry: string }
  | { readonly is: 'asset'; readonly asset: string }

export interface RichText {
  readonly blocks: readonly RichBlock[]
}

const maxDepth = 12
const maxBlocks = 5000

const id = z.string().regex(idPattern, 'must be an id (20 characters)')

/** Addresses that a link may lead to: the web, mail, telephones, and places on the own site. */
export const isLinkAddress = (address: string): boolean =>
  address.length <= 2000 &&
  !/[\s\p{C}]/u.test(address) &&
  (/^(https?:\/\/[^/]|mailto:.|tel:.)/i.test(address) || /^(\/(?!\/)|#)/.test(address))

const span = z.strictObject({
  text: z.string(),
  marks: z
    .array(z.enum(Object.keys(marks) as [Mark, ...Mark[]]))
    .max(4)
    .optional(),
  link: z
    .union([
      z.strictObject({
        address: z.string().refine(isLinkAddress, 'must begin with https://, http://, mailto:, tel:, / or #'),
      }),
      z.strictObject({ entry: id }),
    ])
    .optional(),
})
const spans = z.array(span)
const blocks: z.ZodType<RichBlock[]> = z.lazy(() => z.array(block))
const block: z.ZodType<RichBlock> = z.discriminatedUnion('is', [
  z.strictObject({ is: z.literal('paragraph'), spans }),
  z.strictObject({ is: z.literal('heading'), level: z.union([z.literal(2), z.literal(3), z.literal(4)]), spans }),
  z.strictObject({ is: z.literal('list'), ordered: z.boolean(), items: z.array(z.strictObject({ blocks })) }),
  z.strictObject({ is: z.literal('quote'), blocks }),
  z.strictObject({ is: z.literal('code'), text: z.string() }),
  z.strictObject({ is: z.literal('rule') }),
  z.strictObject({ is: z.literal('entry'), entry: id }),
  z.strictObject({ is: z.literal('asset'), asset: id }),
])
const document = z.strictObject({ blocks })

/** The JSON Schema (2020-12) of a rich text document. */
export const richTextSchema = (): Record<string, unknown> => z.toJSONSchema(document, { io: 'input' })

/** Reads a document, or says what is wrong with it and where. */
export function readRichText(value: unknown): { readonly document: RichText } | { readonly wrong: string } {
  if (depthOf(value) > maxDepth * 3) return { wrong: `nests more than ${maxDepth} deep` }
  const read = document.safeParse(value, { reportInput: true })
  if (read.success) {
    let count = 0
    for (const _ of eachBlock(read.data)) if (++count > maxBlocks) return { wrong: `has more than ${maxBlocks} blocks` }
    return { document: read.data }
  }
  const issue = deepest(read.error.issues[0]!)
  const place = issue.path.map((step) => (typeof step === 'number' ? `[${step}]` : `.${String(step)}`)).join('')
  return {
    wrong: `is not a rich text document${place ? ` at \`${place.replace(/^\./, '')}\`` : ''}: ${wordedIssue(issue)}`,
  }
}

/** Of a choice between several forms: what is wrong with the one that was meant. */
function deepest(issue: z.core.$ZodIssue): z.core.$ZodIssue {
  if (issue.code !== 'invalid_union' || issue.errors.length === 0) return issue
  const values = issue.errors.flatMap(([one]) =>
    one?.code === 'invalid_value' && one.path.length === 0 ? one.values : [],
  )
  if (values.length === issue.errors.length)
    return { ...issue.errors[0]![0]!, path: issue.path, values } as z.core.$ZodIssue
  const inner = issue.errors
    .map((one) => one[0]!)
    .reduce((best, one) => (one.path.length > best.path.length ? one : best))
  return deepest({ ...inner, path: [...issue.path, ...inner.path] })
}

function wordedIssue(issue: z.core.$ZodIssue): string {
  switch (issue.code) {
    case 'invalid_union':
      return `it must be one of ${blockForms.join(', ')}`
    case 'unrecognized_keys':
      return `\`${issue.keys[0]}\` does not belong here`
    case 'invalid_type':
      return `it must be ${issue.expected === 'array' ? 'a list' : issue.expected === 'object' ? 'an object' : issue.expected === 'string' ? 'a text' : `a ${issue.expected}`}${issue.input === undefined ? ', and is missing' : ''}`
    case 'invalid_value':
      return `it must be one of ${issue.values.join(', ')}`
    default:
      return issue.message
  }
}

/** What \`is\` of a block may be. */
const blockForms = ['paragraph', 'heading', 'list', 'quote', 'code', 'rule', 'entry', 'asset']

function depthOf(value: unknown): number {
  let depth = 0
  for (let level: unknown[] = [value]; level.length > 0 && depth < 100; depth++)
    level = level.flatMap((one) => (typeof one === 'object' && one !== null ? (Object.values(one) as unknown[]) : []))
  return depth
}

/** Every block of a document, outer ones first. */
export function* eachBlock({ blocks: all }: RichText): Generator<RichBlock> {
  for (const one of all) {
    yield one
    if (one.is === 'quote') yield* eachBlock(one)
    if (one.is === 'list') for (const item of one.items) yield* eachBlock(item)
  }
}

const spansOf = (one: RichBlock): readonly Span[] => ('spans' in one ? one.spans : [])

/** The entries and assets that a document refers to, each once. */
export function referencesIn(value: RichText): { entries: string[]; assets: string[] } {
  const entries = new Set<string>()
  const assets = new Set<string>()
  for (const one of eachBlock(value)) {
    if (one.is === 'entry') entries.add(one.entry)
    if (one.is === 'asset') assets.add(one.asset)
    for (const { link } of spansOf(one)) if (link && 'entry' in link) entries.add(link.entry)
  }
  return { entries: [...entries], assets: [...assets] }
}

/** The words alone: a line for each piece, an empty line between blocks. */
export function plainText(value: RichText): string {
  const text = (one: RichBlock): string => {
    switch (one.is) {
      case 'paragraph':
      case 'heading':
        return one.spans.map((part) => part.text).join('')
      case 'list':
        return one.items.map((item) => plainText(item)).join('\n')
      case 'quote':
        return plainText(one)
      case 'code':
        return one.text
      default:
        return ''
    }
  }
  return value.blocks
    .map(text)
    .filter((part) => part !== '')
    .join('\n\n')
}

/** The document without what a reader may not follow: links to such entries become plain words, blocks of them drop out. */
export function withoutReferences(
  value: RichText,
  isGone: (held: { entry: string } | { asset: string }) => boolean,
): RichText {
  const settle = (all: readonly RichBlock[]): RichBlock[] =>
    all.flatMap((one): RichBlock[] => {
      if (one.is === 'entry') return isGone({ entry: one.entry }) ? [] : [one]
      if (one.is === 'asset') return isGone({ asset: one.asset }) ? [] : [one]
      if (one.is === 'quote') return [{ ...one, blocks: settle(one.blocks) }]
      if (one.is === 'list') return [{ ...one, items: one.items.map((item) => ({ blocks: settle(item.blocks) })) }]
      if (!('spans' in one)) return [one]
      return [
        {
          ...one,
          spans: one.spans.map((part) => {
            if (!part.link || !('entry' in part.link) || !isGone(part.link)) return part
            const { link: _, ...words } = part
            return words
          }),
        },
      ]
    })
  return { blocks: settle(value.blocks) }
}
