import type { Phrasing } from './phrasing.js'

/*
 * Rich text is a Markdown syntax tree of the open mdast specification, stored and read as JSON; docs/reference/rich-text.md is
 * printed from here. No node contains HTML, so nothing in it can run: printers escape all text, and links are of a few kinds only.
 * Each block has an `id` in its `data`, by which edits, merges and translations address it.
 */

export interface BlockData {
  /** Unique in its document. */
  readonly id: string
}

export interface Paragraph {
  readonly type: 'paragraph'
  readonly data: BlockData
  readonly children: readonly Phrasing[]
}
export interface Heading {
  readonly type: 'heading'
  readonly depth: 2 | 3 | 4
  readonly data: BlockData
  readonly children: readonly Phrasing[]
}
export interface ListItem {
  readonly type: 'listItem'
  /** Whether its blocks are separate, as with empty lines between them. */
  readonly spread: boolean
  readonly data: BlockData
  readonly children: readonly RichBlock[]
}
export interface List {
  readonly type: 'list'
  readonly ordered: boolean
  /** The number of the first item, where it is ordered and not 1. */
  readonly start?: number | undefined
  readonly spread: boolean
  readonly data: BlockData
  readonly children: readonly ListItem[]
}
export interface Blockquote {
  readonly type: 'blockquote'
  readonly data: BlockData
  readonly children: readonly RichBlock[]
}
export interface Code {
  readonly type: 'code'
  readonly lang?: string | undefined
  readonly meta?: string | undefined
  readonly value: string
  readonly data: BlockData
}
export interface ThematicBreak {
  readonly type: 'thematicBreak'
  readonly data: BlockData
}
export type RichBlock = Paragraph | Heading | List | Blockquote | Code | ThematicBreak

/** A document: the root of the tree. An entry is a `link` and an asset an `image` (or a link), named in their `data`. */
export interface RichText {
  readonly type: 'root'
  readonly children: readonly RichBlock[]
}

/** Addresses that a link may lead to: the web, mail, telephones, and places on the own site. */
export const isLinkAddress = (address: string): boolean =>
  address.length <= 2000 &&
  !/[\s\p{C}]/u.test(address) &&
  (/^(https?:\/\/[^/]|mailto:.|tel:.)/i.test(address) || /^(\/(?!\/)|#)/.test(address))

/** Every block and list item of some blocks, outer ones first, with its depth. */
export function* eachWithDepth(
  nodes: readonly (RichBlock | ListItem)[],
  depth: number,
): Generator<{ node: RichBlock | ListItem; depth: number }> {
  for (const node of nodes) {
    yield { node, depth }
    if (node.type === 'blockquote' || node.type === 'list' || node.type === 'listItem')
      yield* eachWithDepth(node.children, node.type === 'list' ? depth : depth + 1)
  }
}

/** Every block of a document and every item of its lists, outer ones first. */
export function* eachBlock({ children }: Pick<RichText, 'children'>): Generator<RichBlock | ListItem> {
  for (const { node } of eachWithDepth(children, 1)) yield node
}

/** The running text of a block; empty for a block without its own. */
export const phrasingIn = (node: RichBlock | ListItem): readonly Phrasing[] =>
  node.type === 'paragraph' || node.type === 'heading' ? node.children : []

/** The entries and assets that a document refers to, each once. */
export function referencesIn(value: RichText): { entries: string[]; assets: string[] } {
  const entries = new Set<string>()
  const assets = new Set<string>()
  const into = (nodes: readonly Phrasing[]): void => {
    for (const node of nodes) {
      if ((node.type === 'link' || node.type === 'image') && node.data) {
        if ('entry' in node.data) entries.add(node.data.entry)
        else assets.add(node.data.asset)
      }
      if ('children' in node) into(node.children)
    }
  }
  for (const node of eachBlock(value)) into(phrasingIn(node))
  return { entries: [...entries], assets: [...assets] }
}

/** The text alone: a line for each piece, an empty line between blocks. */
export function plainText(value: Pick<RichText, 'children'>): string {
  const textOf = (node: RichBlock): string => {
    switch (node.type) {
      case 'paragraph':
      case 'heading':
        return plainPhrasing(node.children)
      case 'list':
        return node.children.map((item) => plainText(item)).join('\n')
      case 'blockquote':
        return plainText(node)
      case 'code':
        return node.value
      default:
        return ''
    }
  }
  return value.children
    .map(textOf)
    .filter((part) => part !== '')
    .join('\n\n')
}

/** The text of some nodes alone: a break is a line feed. */
export const plainPhrasing = (nodes: readonly Phrasing[]): string =>
  nodes
    .map((node) =>
      node.type === 'text' || node.type === 'inlineCode'
        ? node.value
        : node.type === 'break'
          ? '\n'
          : 'children' in node
            ? plainPhrasing(node.children)
            : '',
    )
    .join('')

export const isRichText = (value: unknown): value is RichText =>
  typeof value === 'object' && value !== null && (value as { type?: unknown }).type === 'root'
