import {
  makeItemId,
  phrasingOf,
  spansOf,
  type LinkTarget,
  type ListItem,
  type Mark,
  type Phrasing,
  type RichBlock,
  type RichText,
  type Span,
} from '@wisteria/core'
import { random } from './reordering'

/** A node of the editing component, as it reads and writes documents. */
export interface EditorNode {
  type: string
  attrs?: Record<string, unknown>
  content?: EditorNode[]
  text?: string
  marks?: EditorMark[]
}

interface EditorMark {
  type: string
  attrs?: Record<string, unknown>
}

/** The nodes whose blocks have an id. */
export const blockNodes = [
  ...['paragraph', 'heading', 'bulletList', 'orderedList', 'listItem', 'blockquote', 'codeBlock', 'horizontalRule'],
  ...['heldEntry', 'heldAsset'],
]

/** A new id for a block. */
export const newBlockId = (): string => makeItemId({ random })

const markNames: Record<Mark, string> = { strong: 'bold', emphasis: 'italic', delete: 'strike', code: 'code' }
const marksByName = new Map(Object.entries(markNames).map(([mark, name]) => [name, mark as Mark]))

/** A stored document as the editing component has it. */
export const toNodes = (document: RichText | undefined): EditorNode => {
  const content = (document?.children ?? []).map(blockNode)
  return { type: 'doc', content: content.length > 0 ? content : [{ type: 'paragraph' }] }
}

function blockNode(block: RichBlock): EditorNode {
  const { id } = block.data
  const inside = (blocks: readonly RichBlock[]) => (blocks.length > 0 ? blocks.map(blockNode) : [{ type: 'paragraph' }])
  switch (block.type) {
    case 'paragraph':
      return aloneNode(block.children, id) ?? { type: 'paragraph', attrs: { id }, content: inlineNodes(block.children) }
    case 'heading':
      return { type: 'heading', attrs: { id, level: block.depth }, content: inlineNodes(block.children) }
    case 'list':
      return {
        type: block.ordered ? 'orderedList' : 'bulletList',
        attrs: { id, spread: block.spread, ...(block.ordered ? { start: block.start ?? 1 } : {}) },
        content: block.children.map((item) => ({
          type: 'listItem',
          attrs: { id: item.data.id, spread: item.spread },
          content: inside(item.children),
        })),
      }
    case 'blockquote':
      return { type: 'blockquote', attrs: { id }, content: inside(block.children) }
    case 'code':
      return {
        type: 'codeBlock',
        attrs: { id, language: block.lang ?? null, meta: block.meta ?? null },
        content: block.value === '' ? [] : [{ type: 'text', text: block.value }],
      }
    case 'thematicBreak':
      return { type: 'horizontalRule', attrs: { id } }
  }
}

/** A paragraph with a reference and nothing else is a block of its own. */
function aloneNode(nodes: readonly Phrasing[], id: string): EditorNode | undefined {
  const [only, ...others] = spansOf(nodes)
  if (!only || others.length > 0 || only.marks.length > 0) return undefined
  if ('image' in only) return only.link ? undefined : { type: 'heldAsset', attrs: { id, asset: only.image.data.asset } }
  return only.text === '' && only.link && 'entry' in only.link
    ? { type: 'heldEntry', attrs: { id, entry: only.link.entry } }
    : undefined
}

/** Running text: each span is one run, broken at line breaks. */
const inlineNodes = (nodes: readonly Phrasing[]): EditorNode[] =>
  spansOf(nodes).flatMap((span): EditorNode[] => {
    const marks = [
      ...span.marks.map((mark) => ({ type: markNames[mark] })),
      ...(span.link ? [linkMark(span.link)] : []),
    ]
    if ('image' in span) return [{ type: 'inlineAsset', attrs: { asset: span.image.data.asset }, marks }]
    if (span.text === '' && span.link && 'entry' in span.link)
      return [{ type: 'inlineEntry', attrs: { entry: span.link.entry } }]
    return span.text
      .split('\n')
      .flatMap((line, index) => [
        ...(index > 0 ? [{ type: 'hardBreak', marks }] : []),
        ...(line === '' ? [] : [{ type: 'text', text: line, marks }]),
      ])
  })

function linkMark(link: LinkTarget): EditorMark {
  if ('entry' in link) return { type: 'entryLink', attrs: { entry: link.entry } }
  if ('asset' in link) return { type: 'assetLink', attrs: { asset: link.asset } }
  return { type: 'link', attrs: { href: link.url, title: link.title ?? null } }
}

/** The content of the editing component, as a document is stored; undefined when it is empty. */
export function fromNodes(node: EditorNode): RichText | undefined {
  const children = withoutTrailing((node.content ?? []).flatMap(blockOf))
  const isEmpty = children.every((block) => block.type === 'paragraph' && block.children.length === 0)
  return isEmpty ? undefined : { type: 'root', children }
}

/** Without the empty paragraph that the editing component adds after a last block that cannot be written in. */
function withoutTrailing(blocks: RichBlock[]): RichBlock[] {
  const [before, last] = blocks.slice(-2)
  const isAdded = last?.type === 'paragraph' && last.children.length === 0 && before!.type !== 'paragraph'
  return isAdded ? blocks.slice(0, -1) : blocks
}

function blockOf(node: EditorNode): RichBlock[] {
  const attrs = node.attrs ?? {}
  const data = { id: typeof attrs['id'] === 'string' ? attrs['id'] : newBlockId() }
  const inside = () => (node.content ?? []).flatMap(blockOf)
  switch (node.type) {
    case 'paragraph':
      return [{ type: 'paragraph', data, children: phrasingIn(node) }]
    case 'heading':
      return [{ type: 'heading', depth: depthOf(attrs['level']), data, children: phrasingIn(node) }]
    case 'bulletList':
    case 'orderedList': {
      const start = Number(attrs['start'] ?? 1)
      return [
        {
          type: 'list',
          ordered: node.type === 'orderedList',
          ...(start !== 1 ? { start } : {}),
          spread: attrs['spread'] === true,
          data,
          children: (node.content ?? []).map(itemOf),
        },
      ]
    }
    case 'blockquote':
      return [{ type: 'blockquote', data, children: inside() }]
    case 'codeBlock': {
      const { language, meta } = attrs
      return [
        {
          type: 'code',
          ...(typeof language === 'string' && language !== '' ? { lang: language } : {}),
          ...(typeof meta === 'string' && meta !== '' ? { meta } : {}),
          value: (node.content ?? []).map((child) => child.text ?? '').join(''),
          data,
        },
      ]
    }
    case 'horizontalRule':
      return [{ type: 'thematicBreak', data }]
    case 'heldEntry':
      return [{ type: 'paragraph', data, children: phrasingOf([entrySpan(attrs)]) }]
    case 'heldAsset':
      return [{ type: 'paragraph', data, children: phrasingOf([imageSpan(attrs)]) }]
    default:
      return []
  }
}

function itemOf({ attrs = {}, content = [] }: EditorNode): ListItem {
  const id = typeof attrs['id'] === 'string' ? attrs['id'] : newBlockId()
  return { type: 'listItem', spread: attrs['spread'] === true, data: { id }, children: content.flatMap(blockOf) }
}

const depthOf = (level: unknown): 2 | 3 | 4 => (level === 3 || level === 4 ? level : 2)

const entrySpan = (attrs: Readonly<Record<string, unknown>>): Span => ({
  text: '',
  marks: [],
  link: { entry: String(attrs['entry']) },
})

const imageSpan = (attrs: Readonly<Record<string, unknown>>): Span => ({
  image: { url: '', data: { asset: String(attrs['asset']) } },
  marks: [],
})

/** Runs of the editing component as nodes: neighbours with the same formats are joined. */
function phrasingIn(node: EditorNode): Phrasing[] {
  const spans = (node.content ?? []).flatMap((run): Span[] => {
    const marks = (run.marks ?? []).flatMap(({ type }) => marksByName.get(type) ?? [])
    const link = (run.marks ?? []).map(targetOf).find((target) => target !== undefined)
    const form = { marks: inOrder(marks), ...(link ? { link } : {}) }
    switch (run.type) {
      case 'inlineEntry':
        return [entrySpan(run.attrs ?? {})]
      case 'inlineAsset':
        return [{ ...imageSpan(run.attrs ?? {}), ...(link ? { link } : {}) }]
      case 'hardBreak':
        return [{ ...form, text: '\n' }]
      default:
        return run.text ? [{ ...form, text: run.text }] : []
    }
  })
  return phrasingOf(spansOf(phrasingOf(spans)))
}

const inOrder = (all: readonly Mark[]): Mark[] =>
  (Object.keys(markNames) as Mark[]).filter((mark) => all.includes(mark))

function targetOf({ type, attrs = {} }: EditorMark): LinkTarget | undefined {
  if (type === 'link') {
    const title = attrs['title']
    return { url: String(attrs['href']), ...(typeof title === 'string' && title !== '' ? { title } : {}) }
  }
  if (type === 'entryLink') return { entry: String(attrs['entry']) }
  if (type === 'assetLink') return { asset: String(attrs['asset']) }
  return undefined
}
