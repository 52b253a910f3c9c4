import type { Element, ElementContent, Root as HtmlRoot } from 'hast'
import { toMdast } from 'hast-util-to-mdast'
import { Parser } from 'htmlparser2'
import type { Nodes, Root } from 'mdast'
import { fromMarkdown } from 'mdast-util-from-markdown'
import { gfmStrikethroughFromMarkdown } from 'mdast-util-gfm-strikethrough'
import { gfmStrikethrough } from 'micromark-extension-gfm-strikethrough'
import { idPattern } from '../base/ids.js'
import { isLinkAddress } from './document.js'

/*
 * Rich text may also be sent as Markdown or HTML. Here it becomes a tree, which is then read like one that was sent. Forms that the
 * tree lacks become the nearest one: a heading of depth 1 becomes one of 2, a row of a table a paragraph.
 */

/** Rich text as Markdown or as HTML. */
export type RichTextSource = { readonly markdown: string } | { readonly html: string }

const maxLength = 200_000
const maxElements = 100

/**
 * Marks that a parser of Markdown must pair. Its time grows with their square within a passage (text without an empty line),
 * so their number is bounded.
 */
const pairedMarks = /[*_[\]!<>`~&]/g
const maxMarksOfPassage = 3000
const maxMarks = 20_000

/** Whether a value is rich text as Markdown or HTML, rather than a tree. */
export const isRichTextSource = (value: unknown): value is RichTextSource =>
  typeof value === 'object' && value !== null && !('type' in value) && ('markdown' in value || 'html' in value)

/** The tree of Markdown or HTML, to be read by `readRichText`; or the problem. */
export function parseRichText(source: RichTextSource): { readonly tree: unknown } | { readonly wrong: string } {
  const form = 'html' in source ? 'html' : 'markdown'
  const other = Object.keys(source).find((name) => name !== form)
  if (other !== undefined) return { wrong: `takes \`markdown\` or \`html\` alone, without \`${other}\` beside it` }
  const text: unknown = Object.values(source)[0]
  if (typeof text !== 'string') return { wrong: `must have a text in \`${form}\`` }
  if (text.length > maxLength)
    return {
      wrong: `has ${text.length} characters of ${form === 'html' ? 'HTML' : 'Markdown'}, at most ${maxLength} fit`,
    }
  try {
    return { tree: form === 'html' ? treeOfHtml(text) : treeOfMarkdown(text) }
  } catch (error) {
    if (error instanceof Unreadable) return { wrong: error.message }
    throw error
  }
}

class Unreadable extends Error {}

function treeOfMarkdown(text: string): unknown {
  const passages = text.split(/\n[ \t]*\r?\n/)
  const marks = passages.map((passage) => passage.match(pairedMarks)?.length ?? 0)
  const most = Math.max(...marks)
  if (most > maxMarksOfPassage || marks.reduce((sum, count) => sum + count, 0) > maxMarks)
    throw new Unreadable('has more Markdown marks than are read: send it as a tree')
  const root = fromMarkdown(text, {
    extensions: [gfmStrikethrough()],
    mdastExtensions: [gfmStrikethroughFromMarkdown()],
  })
  return adapt(root)
}

function treeOfHtml(text: string): unknown {
  return adapt(toMdast(parseHtml(text), { document: true }) as Root)
}

/** The elements of HTML. The parser closes open elements in the order of the specification, in time linear in the length. */
function parseHtml(text: string): HtmlRoot {
  const root: HtmlRoot = { type: 'root', children: [] }
  const open: { children: ElementContent[] }[] = [root as { children: ElementContent[] }]
  const parser = new Parser({
    onopentag(name, attributes) {
      if (open.length > maxElements) throw new Unreadable(`nests more than ${maxElements} elements`)
      const element: Element = { type: 'element', tagName: name, properties: { ...attributes }, children: [] }
      open.at(-1)!.children.push(element)
      open.push(element)
    },
    ontext: (value) => void open.at(-1)!.children.push({ type: 'text', value }),
    onclosetag: () => void open.pop(),
  })
  parser.end(text)
  return root
}

interface Loose {
  readonly type: string
  readonly children?: readonly Loose[]
  readonly value?: string
  readonly url?: string
  readonly title?: string | null
  readonly alt?: string | null
  readonly depth?: number
  readonly identifier?: string
  readonly position?: { readonly start: { readonly line: number } } | undefined
}

/** Whether a node is part of running text. */
const isPhrasing = ({ type }: Loose): boolean =>
  ['text', 'strong', 'emphasis', 'delete', 'inlineCode', 'break', 'link', 'image'].includes(type)

/** The nodes of rich text, in place of other nodes that the parsers make. */
function adapt(root: Root): unknown {
  const definitions = new Map<string, Loose>()
  collectDefinitions(root as Nodes as Loose, definitions)
  const blocks = (nodes: readonly Loose[]): Loose[] => {
    const made: Loose[] = []
    let running: Loose[] = []
    const close = () => {
      if (running.length > 0) made.push({ type: 'paragraph', children: running })
      running = []
    }
    for (const node of nodes) {
      const adapted = block(node)
      if (adapted.every(isPhrasing)) running.push(...adapted)
      else {
        close()
        made.push(...adapted)
      }
    }
    close()
    return made
  }
  const block = (node: Loose): Loose[] => {
    switch (node.type) {
      case 'paragraph':
      case 'heading': {
        const children = phrasing(node.children ?? [])
        if (children.length === 0) return []
        if (node.type === 'paragraph') return [{ type: 'paragraph', children }]
        return [{ type: 'heading', depth: Math.min(4, Math.max(2, node.depth!)), children }]
      }
      case 'list': {
        const children = (node.children ?? []).map((child) =>
          listItem(child.type === 'listItem' ? child : { type: 'listItem', children: [child] }),
        )
        return children.length > 0 ? [{ ...bare(node), children }] : []
      }
      case 'listItem':
        return block({ type: 'list', children: [node] })
      case 'blockquote':
        return [{ type: 'blockquote', children: blocks(node.children ?? []) }]
      case 'code':
      case 'thematicBreak':
        return [bare(node)]
      case 'definition':
        return []
      case 'tableRow':
        return block({ type: 'paragraph', children: cells(node) })
      default:
        // Of a table its cells are kept; anything else is running text or nothing.
        return node.type === 'table' ? blocks(node.children ?? []) : phrasing([node])
    }
  }
  const listItem = (node: Loose): Loose =>
    ({ ...bare(node), checked: null, children: blocks(node.children ?? []) }) as Loose
  const cells = (row: Loose): Loose[] =>
    (row.children ?? []).flatMap((cell, index) => [
      ...(index > 0 ? [{ type: 'text', value: ' | ' }] : []),
      ...(cell.children ?? []),
    ])
  const phrasing = (nodes: readonly Loose[], inLink = false): Loose[] =>
    nodes.flatMap((node): Loose[] => {
      const inside = (within = inLink) => phrasing(node.children ?? [], within)
      switch (node.type) {
        case 'text':
          // A line of the source is no line of the text.
          return node.value === '' ? [] : [{ type: 'text', value: node.value!.replace(/\s*\n\s*/g, ' ') }]
        case 'inlineCode':
          return [{ type: 'inlineCode', value: node.value!.replace(/\s*\n\s*/g, ' ') }]
        case 'break':
          return [{ type: 'break' }]
        case 'strong':
        case 'emphasis':
        case 'delete':
          return [{ type: node.type, children: inside() }]
        case 'link':
          return inLink ? inside() : link(node, inside(true))
        case 'linkReference':
          return inLink ? inside() : link({ ...definitions.get(node.identifier!), type: 'link' }, inside(true))
        case 'image':
          return image(node, inLink)
        case 'imageReference':
          return image({ ...definitions.get(node.identifier!), type: 'image', alt: node.alt ?? null }, inLink)
        case 'html':
          throw new Unreadable(
            `has HTML in its Markdown, at line ${node.position?.start.line ?? 1}: send \`{ "html": … }\`, or write \`\\<\` for the character`,
          )
        default:
          return inside()
      }
    })
  return { type: 'root', children: blocks((root as Nodes as Loose).children!) }
}

/** A link; only its text where it has no URL, as an anchor. */
function link({ url = '', title }: Loose, children: Loose[]): Loose[] {
  if (url === '') return children
  const reference = referenceIn(url)
  if (reference) return [{ type: 'link', url: '', data: reference, children } as Loose]
  if (!isLinkAddress(url))
    throw new Unreadable(
      `has a link to \`${url.slice(0, 80)}\`: it must begin with https://, http://, mailto:, tel:, / or #, or be entry:<id> or asset:<id>`,
    )
  return [{ type: 'link', url, ...(title ? { title } : {}), children }]
}

/** An image of the site. One from elsewhere becomes a link to it, or its alternative text if its address is not allowed. */
function image({ url = '', alt }: Loose, inLink: boolean): Loose[] {
  const reference = referenceIn(url)
  if (reference && 'asset' in reference) return [{ type: 'image', url: '', data: reference } as Loose]
  const value = alt ?? ''
  if (inLink || !isLinkAddress(url)) return value === '' ? [] : [{ type: 'text', value }]
  return [{ type: 'link', url, children: [{ type: 'text', value: value || url }] }]
}

/** The targets of `entry:<id>` and `asset:<id>`. */
function referenceIn(url: string): { readonly entry: string } | { readonly asset: string } | undefined {
  const [, kind, id] = /^(entry|asset):(.*)$/.exec(url) ?? []
  if (id === undefined || !idPattern.test(id)) return undefined
  return kind === 'entry' ? { entry: id } : { asset: id }
}

/** A node without its position. */
const bare = ({ position: _, ...node }: Loose): Loose => node

/** The definitions `[name]: address`; the first of a name counts. */
function collectDefinitions(node: Loose, into: Map<string, Loose>): void {
  if (node.type === 'definition' && !into.has(node.identifier!)) into.set(node.identifier!, bare(node))
  for (const child of node.children ?? []) collectDefinitions(child, into)
}
