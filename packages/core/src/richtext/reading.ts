import { z } from 'zod'
import { itemIdPattern, idPattern } from '../base/ids.js'
import {
  eachBlock,
  eachWithDepth,
  isLinkAddress,
  phrasingIn,
  type BlockData,
  type ListItem,
  type RichBlock,
  type RichText,
} from './document.js'
import { isRichTextSource, parseRichText } from './input.js'
import { phrasingOf, spansOf, type Phrasing, type Span } from './phrasing.js'

/* How a sent rich text is read: the allowed nodes, and the one stored form. */

const maxDepth = 12
const maxBlocks = 5000

const id = z.string().regex(idPattern, 'must be an id (20 characters)')
const blockData = z
  .strictObject({ id: z.string().regex(itemIdPattern, 'must be 1 to 40 letters, digits, `-` or `_`').optional() })
  .optional()
const text = z.string().nullish()
const phrasings: z.ZodType<Phrasing[]> = z.lazy(() => z.array(phrasing))
const url = z.string()
const phrasing = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('text'), value: z.string() }),
  z.strictObject({ type: z.literal('strong'), children: phrasings }),
  z.strictObject({ type: z.literal('emphasis'), children: phrasings }),
  z.strictObject({ type: z.literal('delete'), children: phrasings }),
  z.strictObject({ type: z.literal('inlineCode'), value: z.string() }),
  z.strictObject({ type: z.literal('break') }),
  z
    .strictObject({
      type: z.literal('link'),
      url,
      title: text,
      data: z.union([z.strictObject({ entry: id }), z.strictObject({ asset: id })]).optional(),
      children: phrasings,
    })
    .refine((link) => link.data !== undefined || isLinkAddress(link.url), {
      path: ['url'],
      message: 'must begin with https://, http://, mailto:, tel:, / or #',
    }),
  z.strictObject({ type: z.literal('image'), url, alt: text, title: text, data: z.strictObject({ asset: id }) }),
]) as unknown as z.ZodType<Phrasing>
const blocks: z.ZodType<RichBlock[]> = z.lazy(() => z.array(block))
const listItem = z.strictObject({
  type: z.literal('listItem'),
  spread: z.boolean().nullish(),
  checked: z.null().optional(),
  data: blockData,
  children: blocks,
})
const block = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('paragraph'), data: blockData, children: phrasings }),
  z.strictObject({
    type: z.literal('heading'),
    depth: z.union([z.literal(2), z.literal(3), z.literal(4)]),
    data: blockData,
    children: phrasings,
  }),
  z.strictObject({
    type: z.literal('list'),
    ordered: z.boolean().nullish(),
    start: z.int().min(0).max(999_999_999).nullish(),
    spread: z.boolean().nullish(),
    data: blockData,
    children: z.array(listItem),
  }),
  z.strictObject({ type: z.literal('blockquote'), data: blockData, children: blocks }),
  z.strictObject({ type: z.literal('code'), lang: text, meta: text, value: z.string(), data: blockData }),
  z.strictObject({ type: z.literal('thematicBreak'), data: blockData }),
]) as unknown as z.ZodType<RichBlock>
const root = z.strictObject({ type: z.literal('root'), children: blocks })

/** The JSON Schema (2020-12) of a rich text document. */
export const richTextSchema = (): Record<string, unknown> => z.toJSONSchema(root, { io: 'input' })

/** A new id for a block. */
export type MakeBlockId = () => string

/**
 * Reads a sent document: a tree, or `{ markdown }` or `{ html }`. Positions of a parser are dropped, formats are nested in the one
 * order, and blocks without an id get one: that of an equal block of the document before, or a new one.
 * @param before the stored content.
 * @returns the document as it is stored, or the problem and its place.
 */
export function readRichText(
  value: unknown,
  makeBlockId: MakeBlockId,
  before?: RichText,
): { readonly document: RichText } | { readonly wrong: string } {
  if (isRichTextSource(value)) {
    const parsed = parseRichText(value)
    return 'wrong' in parsed ? parsed : readRichText(parsed.tree, makeBlockId, before)
  }
  if (levelsOf(value) > 2 * maxDepth + 24) return { wrong: `nests more than ${maxDepth} deep` }
  const read = root.safeParse(withoutPositions(value), { reportInput: true })
  if (!read.success) {
    const issue = deepest(read.error.issues[0]!)
    const place = issue.path.map((step) => (typeof step === 'number' ? `[${step}]` : `.${String(step)}`)).join('')
    return {
      wrong: `is not a rich text document${place ? ` at \`${place.replace(/^\./, '')}\`` : ''}: ${wordedIssue(issue)}`,
    }
  }
  const sent = read.data as RichText
  const ids = new Set<string>()
  let count = 0
  for (const { node, depth } of eachWithDepth(sent.children, 1)) {
    if (++count > maxBlocks) return { wrong: `has more than ${maxBlocks} blocks` }
    if (depth > maxDepth) return { wrong: `nests more than ${maxDepth} deep` }
    if (hasLinkInLink(phrasingIn(node))) return { wrong: 'has a link inside a link' }
    const sentId = (node.data as BlockData | undefined)?.id
    if (sentId === undefined) continue
    if (ids.has(sentId)) return { wrong: `has two blocks with the id \`${sentId}\`` }
    ids.add(sentId)
  }
  return { document: canonical(sent, idSource(ids, makeBlockId, before)) }
}

/** Reads one block of a document, from an edit. */
export function readRichBlock(
  value: unknown,
  makeBlockId: MakeBlockId,
): { readonly block: RichBlock } | { readonly wrong: string } {
  const read = readRichText({ type: 'root', children: [value] }, makeBlockId)
  return 'wrong' in read ? read : { block: read.document.children[0]! }
}

/** Gives the id of an equal earlier block that is not used yet, else a new one. */
function idSource(taken: Set<string>, makeBlockId: MakeBlockId, before: RichText | undefined) {
  const left = new Map<string, string[]>()
  for (const node of before ? eachBlock(before) : []) {
    if (taken.has(node.data.id)) continue
    const key = contentKey(node)
    left.set(key, [...(left.get(key) ?? []), node.data.id])
  }
  return (node: RichBlock | ListItem): string => {
    const earlier = left.size > 0 ? left.get(contentKey(node))?.shift() : undefined
    if (earlier !== undefined) return earlier
    let fresh = makeBlockId()
    while (taken.has(fresh)) fresh = makeBlockId()
    taken.add(fresh)
    return fresh
  }
}

/** The content of a block, without the ids in it. */
const contentKey = (node: RichBlock | ListItem): string =>
  JSON.stringify(node, (key, value: unknown) =>
    key === 'data' && typeof value === 'object' && value !== null && 'id' in value ? undefined : value,
  )

/** A document in the one form in which it is stored. */
function canonical(document: RichText, idOf: (node: RichBlock | ListItem) => string): RichText {
  const withId = <Node extends RichBlock | ListItem>(data: BlockData | undefined, node: Node): Node => {
    return { ...node, data: { id: data?.id ?? idOf(node) } }
  }
  const noId = { id: '' }
  const blocksOf = (children: readonly RichBlock[]): RichBlock[] => children.map(blockOf)
  const blockOf = (node: RichBlock): RichBlock => {
    switch (node.type) {
      case 'paragraph':
        return withId(node.data, { type: 'paragraph', data: noId, children: storedPhrasing(node.children) })
      case 'heading':
        return withId(node.data, {
          type: 'heading',
          depth: node.depth,
          data: noId,
          children: storedPhrasing(node.children),
        })
      case 'list': {
        const ordered = node.ordered ?? false
        return withId(node.data, {
          type: 'list',
          ordered,
          ...(ordered && typeof node.start === 'number' && node.start !== 1 ? { start: node.start } : {}),
          spread: node.spread ?? false,
          data: noId,
          children: node.children.map((item) =>
            withId(item.data, {
              type: 'listItem',
              spread: item.spread ?? false,
              data: noId,
              children: blocksOf(item.children),
            }),
          ),
        })
      }
      case 'blockquote':
        return withId(node.data, { type: 'blockquote', data: noId, children: blocksOf(node.children) })
      case 'code':
        return withId(node.data, {
          type: 'code',
          ...(node.lang ? { lang: node.lang } : {}),
          ...(node.meta ? { meta: node.meta } : {}),
          value: node.value,
          data: noId,
        })
      case 'thematicBreak':
        return withId(node.data, { type: 'thematicBreak', data: noId })
    }
  }
  return { type: 'root', children: blocksOf(document.children) }
}

/** Of a reference only its target is stored: address and text are filled in at reading. */
const storedPhrasing = (nodes: readonly Phrasing[]): Phrasing[] => phrasingOf(spansOf(nodes).map(storedSpan))

function storedSpan(span: Span): Span {
  const { link } = span
  const target =
    link === undefined
      ? {}
      : { link: 'entry' in link ? { entry: link.entry } : 'asset' in link ? { asset: link.asset } : link }
  return 'image' in span
    ? { ...span, ...target, image: { url: '', data: { asset: span.image.data.asset } } }
    : { ...span, ...target }
}

const hasLinkInLink = (nodes: readonly Phrasing[], inside = false): boolean =>
  nodes.some(
    (node) =>
      (inside && node.type === 'link') ||
      ('children' in node && hasLinkInLink(node.children, inside || node.type === 'link')),
  )

/** A position, which parsers add to every node. */
function withoutPositions(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withoutPositions)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(
    Object.entries(value).flatMap(([key, inner]) =>
      key === 'position' && 'type' in value ? [] : [[key, withoutPositions(inner)]],
    ),
  )
}

/** Of several possible forms: the problem of the one that was meant. */
function deepest(issue: z.core.$ZodIssue): z.core.$ZodIssue {
  if (issue.code !== 'invalid_union' || issue.errors.length === 0) return issue
  const values = issue.errors.flatMap(([option]) =>
    option?.code === 'invalid_value' && option.path.length === 0 ? option.values : [],
  )
  if (values.length === issue.errors.length)
    return { ...issue.errors[0]![0]!, path: issue.path, values } as z.core.$ZodIssue
  const inner = issue.errors
    .map((error) => error[0]!)
    .reduce((best, error) => (error.path.length > best.path.length ? error : best))
  return deepest({ ...inner, path: [...issue.path, ...inner.path] })
}

function wordedIssue(issue: z.core.$ZodIssue): string {
  switch (issue.code) {
    case 'invalid_union':
      return `it must be one of ${nodeTypes.join(', ')}`
    case 'unrecognized_keys':
      return `\`${issue.keys[0]}\` does not belong here`
    case 'invalid_type':
      return `it must be ${issue.expected === 'array' ? 'a list' : issue.expected === 'object' ? 'an object' : issue.expected === 'string' ? 'a text' : `a ${issue.expected}`}${issue.input === undefined ? ', and is missing' : ''}`
    case 'invalid_value':
      return `it must be ${issue.values.length > 1 ? 'one of ' : ''}${issue.values.join(', ')}`
    default:
      return issue.message
  }
}

const nodeTypes = [
  ...['paragraph', 'heading', 'list', 'blockquote', 'code', 'thematicBreak'],
  ...['text', 'strong', 'emphasis', 'delete', 'inlineCode', 'break', 'link', 'image'],
]

function levelsOf(value: unknown): number {
  let depth = 0
  for (let level: unknown[] = [value]; level.length > 0 && depth < 100; depth++)
    level = level.flatMap((node) =>
      typeof node === 'object' && node !== null ? (Object.values(node) as unknown[]) : [],
    )
  return depth
}
