import type { Mark, RichBlock, RichText, Span } from '@wisteria/core'

/** A node of the editing component, as it reads and writes documents. */
export interface EditorNode {
  type: string
  attrs?: Record<string, unknown>
  content?: EditorNode[]
  text?: string
  marks?: { type: string; attrs?: Record<string, unknown> }[]
}

const markNames: Record<Mark, string> = { strong: 'bold', emphasis: 'italic', code: 'code', struck: 'strike' }
const marksByName = new Map(Object.entries(markNames).map(([mark, name]) => [name, mark as Mark]))

/** A stored document as the editing component has it. */
export const toNodes = (document: RichText): EditorNode => {
  const content = document.blocks.map(blockNode)
  return { type: 'doc', content: content.length > 0 ? content : [{ type: 'paragraph' }] }
}

function blockNode(block: RichBlock): EditorNode {
  const inside = (blocks: readonly RichBlock[]) => (blocks.length > 0 ? blocks.map(blockNode) : [{ type: 'paragraph' }])
  switch (block.is) {
    case 'paragraph':
      return { type: 'paragraph', content: block.spans.flatMap(spanNodes) }
    case 'heading':
      return { type: 'heading', attrs: { level: block.level }, content: block.spans.flatMap(spanNodes) }
    case 'list':
      return {
        type: block.ordered ? 'orderedList' : 'bulletList',
        content: block.items.map((item) => ({ type: 'listItem', content: inside(item.blocks) })),
      }
    case 'quote':
      return { type: 'blockquote', content: inside(block.blocks) }
    case 'code':
      return { type: 'codeBlock', content: block.text === '' ? [] : [{ type: 'text', text: block.text }] }
    case 'rule':
      return { type: 'horizontalRule' }
    case 'entry':
      return { type: 'heldEntry', attrs: { entry: block.entry } }
    case 'asset':
      return { type: 'heldAsset', attrs: { asset: block.asset } }
  }
}

/** A span is one run of text, broken where it has line breaks. */
function spanNodes({ text, marks = [], link }: Span): EditorNode[] {
  const own = [
    ...marks.map((mark) => ({ type: markNames[mark] })),
    ...(link
      ? [
          'address' in link
            ? { type: 'link', attrs: { href: link.address } }
            : { type: 'entryLink', attrs: { entry: link.entry } },
        ]
      : []),
  ]
  return text
    .split('\n')
    .flatMap((line, index) => [
      ...(index > 0 ? [{ type: 'hardBreak' }] : []),
      ...(line === '' ? [] : [{ type: 'text', text: line, marks: own }]),
    ])
}

/** What the editing component holds, as a document is stored; undefined when there is nothing in it. */
export function fromNodes(node: EditorNode): RichText | undefined {
  const blocks = (node.content ?? []).flatMap(blockOf)
  const isEmpty = blocks.every((block) => block.is === 'paragraph' && block.spans.length === 0)
  return isEmpty ? undefined : { blocks }
}

function blockOf(node: EditorNode): RichBlock[] {
  const inside = () => (node.content ?? []).flatMap(blockOf)
  switch (node.type) {
    case 'paragraph':
      return [{ is: 'paragraph', spans: spansOf(node) }]
    case 'heading':
      return [{ is: 'heading', level: levelOf(node.attrs?.['level']), spans: spansOf(node) }]
    case 'bulletList':
    case 'orderedList':
      return [
        {
          is: 'list',
          ordered: node.type === 'orderedList',
          items: (node.content ?? []).map((item) => ({ blocks: (item.content ?? []).flatMap(blockOf) })),
        },
      ]
    case 'blockquote':
      return [{ is: 'quote', blocks: inside() }]
    case 'codeBlock':
      return [{ is: 'code', text: (node.content ?? []).map((one) => one.text ?? '').join('') }]
    case 'horizontalRule':
      return [{ is: 'rule' }]
    case 'heldEntry':
      return [{ is: 'entry', entry: String(node.attrs?.['entry']) }]
    case 'heldAsset':
      return [{ is: 'asset', asset: String(node.attrs?.['asset']) }]
    default:
      return []
  }
}

const levelOf = (level: unknown): 2 | 3 | 4 => (level === 3 || level === 4 ? level : 2)

/** Neighbouring runs with the same marks are one span, line breaks with them. */
function spansOf(node: EditorNode): Span[] {
  const spans: { text: string; marks?: Mark[]; link?: NonNullable<Span['link']> }[] = []
  for (const one of node.content ?? []) {
    if (one.type === 'hardBreak') {
      const last = spans.at(-1)
      if (last) last.text += '\n'
      else spans.push({ text: '\n' })
      continue
    }
    if (one.text === undefined || one.text === '') continue
    const marks = (one.marks ?? []).flatMap(({ type }) => marksByName.get(type) ?? [])
    const link = (one.marks ?? []).map(linkOf).find((found) => found !== undefined)
    const span = { text: one.text, ...(marks.length > 0 ? { marks } : {}), ...(link ? { link } : {}) }
    const last = spans.at(-1)
    if (last && same({ ...last, text: '' }, { ...span, text: '' })) last.text += span.text
    else spans.push(span)
  }
  return spans
}

function linkOf({ type, attrs }: NonNullable<EditorNode['marks']>[number]): Span['link'] {
  if (type === 'link') return { address: String(attrs?.['href']) }
  if (type === 'entryLink') return { entry: String(attrs?.['entry']) }
  return undefined
}

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b)
