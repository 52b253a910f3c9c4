import type { ListItem, RichBlock, RichText } from './document.js'
import { phrasingOf, spansOf, type Mark, type Phrasing, type Span } from './phrasing.js'

/** The form in which rich text was stored before it was a Markdown syntax tree. Revisions keep it for ever. */
interface EarlierSpan {
  readonly text: string
  readonly marks?: readonly ('strong' | 'emphasis' | 'code' | 'struck')[]
  readonly link?: { readonly address: string } | { readonly entry: string }
}
type EarlierBlock =
  | { readonly is: 'paragraph'; readonly spans: readonly EarlierSpan[] }
  | { readonly is: 'heading'; readonly level: 2 | 3 | 4; readonly spans: readonly EarlierSpan[] }
  | { readonly is: 'list'; readonly ordered: boolean; readonly items: readonly { blocks: readonly EarlierBlock[] }[] }
  | { readonly is: 'quote'; readonly blocks: readonly EarlierBlock[] }
  | { readonly is: 'code'; readonly text: string }
  | { readonly is: 'rule' }
  | { readonly is: 'entry'; readonly entry: string }
  | { readonly is: 'asset'; readonly asset: string }

/** Whether a value is a document of the earlier form. */
export const isEarlierRichText = (value: unknown): value is { readonly blocks: readonly EarlierBlock[] } =>
  typeof value === 'object' &&
  value !== null &&
  !('type' in value) &&
  Array.isArray((value as { blocks?: unknown }).blocks)

/** A document in today's form. Ids of blocks are their numbers in reading order, so that they are the same each time. */
export function upgradeRichText(value: unknown): unknown {
  if (!isEarlierRichText(value)) return value
  let count = 0
  const data = () => ({ id: `b${++count}` })
  const blockOf = (block: EarlierBlock): RichBlock => {
    switch (block.is) {
      case 'paragraph':
        return { type: 'paragraph', data: data(), children: phrasing(block.spans) }
      case 'heading':
        return { type: 'heading', depth: block.level, data: data(), children: phrasing(block.spans) }
      case 'list':
        return {
          type: 'list',
          ordered: block.ordered,
          spread: false,
          data: data(),
          children: block.items.map((item): ListItem => ({
            type: 'listItem',
            spread: false,
            data: data(),
            children: item.blocks.map(blockOf),
          })),
        }
      case 'quote':
        return { type: 'blockquote', data: data(), children: block.blocks.map(blockOf) }
      case 'code':
        return { type: 'code', value: block.text, data: data() }
      case 'rule':
        return { type: 'thematicBreak', data: data() }
      case 'entry':
        return {
          type: 'paragraph',
          data: data(),
          children: [{ type: 'link', url: '', data: { entry: block.entry }, children: [] }],
        }
      case 'asset':
        return {
          type: 'paragraph',
          data: data(),
          children: [{ type: 'image', url: '', data: { asset: block.asset } }],
        }
    }
  }
  const document: RichText = { type: 'root', children: value.blocks.map(blockOf) }
  return document
}

function phrasing(spans: readonly EarlierSpan[]): Phrasing[] {
  const names = { strong: 'strong', emphasis: 'emphasis', struck: 'delete', code: 'code' } as const
  const nodes = phrasingOf(
    spans
      .filter((span) => span.text !== '')
      .map(({ text, marks = [], link }): Span => ({
        text,
        marks: (['strong', 'emphasis', 'struck', 'code'] as const)
          .filter((mark) => marks.includes(mark))
          .map((mark): Mark => names[mark]),
        ...(link ? { link: 'address' in link ? { url: link.address } : link } : {}),
      })),
  )
  // Neighbours with the same formats are joined.
  return phrasingOf(spansOf(nodes))
}

/** Upgrades everything of the earlier form in some JSON: unsaved edits in a browser. */
export function upgradeRichTextIn(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(upgradeRichTextIn)
  if (typeof value !== 'object' || value === null) return value
  if (isEarlierRichText(value) && Object.keys(value).length === 1) return upgradeRichText(value)
  return Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, upgradeRichTextIn(inner)]))
}
