import { indexAfter } from '../base/siblings.js'
import { canonicalText, hasNoWords, wordsOf, type SegmentPiece, type SegmentText } from '../text/segmentText.js'
import { isRichText, phrasingIn, type ListItem, type RichBlock, type RichText } from './document.js'
import { phrasingOf, spansOf, type Formatted, type Image, type Link, type Phrasing } from './phrasing.js'

/** The meaning of an inline code: the node of the source that it stands for, without its children. */
export type InlineCode =
  Omit<Formatted, 'children'> | Omit<Link, 'children'> | Image | { readonly type: 'inlineCode' | 'break' }

/** The unit of one block of a rich text: a paragraph, a heading or a list item's own paragraph. */
export interface BlockSegment {
  /** The id of the block. */
  readonly part: string
  readonly text: SegmentText
  /** The codes of the text, by id. */
  readonly codes: Readonly<Record<string, InlineCode>>
}

/** Running text as a unit: its formats and links are pairs of codes, its pictures and breaks are codes alone. */
export function segmentOfPhrasing(nodes: readonly Phrasing[]): Pick<BlockSegment, 'text' | 'codes'> {
  const codes: Record<string, InlineCode> = {}
  let count = 0
  const into = (children: readonly Phrasing[]): SegmentPiece[] =>
    children.map((node): SegmentPiece => {
      if (node.type === 'text') return node.value
      const code = String(++count)
      if (node.type === 'inlineCode') {
        codes[code] = { type: 'inlineCode' }
        return { code, inside: [node.value] }
      }
      if (!('children' in node)) {
        codes[code] = node.type === 'image' ? node : { type: 'break' }
        return { code }
      }
      const { children: inside, ...meaning } = node
      codes[code] = meaning
      // A reference without text of its own is one thing: it gets the title of its target.
      return inside.length === 0 ? { code } : { code, inside: into(inside) }
    })
  return { text: canonicalText(into(nodes)), codes }
}

/** Running text made of a unit. Codes that have no meaning are dropped, and the text inside them is kept. */
export function phrasingOfSegment(text: SegmentText, codes: Readonly<Record<string, InlineCode>>): Phrasing[] {
  const into = (pieces: SegmentText): Phrasing[] =>
    pieces.flatMap((piece): Phrasing[] => {
      if (typeof piece === 'string') return piece === '' ? [] : [{ type: 'text', value: piece }]
      const meaning = codes[piece.code]
      const inside = piece.inside ?? []
      switch (meaning?.type) {
        case undefined:
          return into(inside)
        case 'break':
        case 'image':
          return [meaning as Phrasing, ...into(inside)]
        case 'inlineCode':
          return [{ type: 'inlineCode', value: wordsOf(inside) }]
        default:
          return [{ ...meaning, children: into(inside) } as Phrasing]
      }
    })
  // Stored in the one order of formats, whatever the order of the codes in the translation.
  return phrasingOf(spansOf(into(text)))
}

/** The units of a rich text, in reading order: of each block with words. Pictures, code and rules have none. */
export function segmentsOfDocument(document: RichText): BlockSegment[] {
  const into = (nodes: readonly (RichBlock | ListItem)[]): BlockSegment[] =>
    nodes.flatMap((node) => {
      if (node.type === 'list' || node.type === 'listItem' || node.type === 'blockquote') return into(node.children)
      const segment = segmentOfPhrasing(phrasingIn(node))
      return hasNoWords(segment.text) ? [] : [{ part: node.data.id, ...segment }]
    })
  return into(document.children)
}

/**
 * A translation of a rich text, made of its units on top of the translation so far. Blocks keep the ids of their source, by which the
 * two are matched; blocks of the translation that match none are its own, and stay. A new translation also gets the pictures, code
 * and rules of its source.
 * @param texts the translated units, by the id of the block; blocks without one are left as they are, and those with an empty text are
 *   removed.
 * @returns undefined where all its words are removed: readers get the source then, and not pictures alone.
 */
export function translateDocument(
  source: RichText,
  texts: ReadonlyMap<string, SegmentText>,
  translation: unknown,
): RichText | undefined {
  const before = isRichText(translation) ? translation : undefined
  const units = new Map(segmentsOfDocument(source).map((segment) => [segment.part, segment]))
  const merge = <Node extends RichBlock | ListItem>(sources: readonly Node[], existing: readonly Node[]): Node[] => {
    const result = [...existing]
    sources.forEach((node, index) => {
      const at = result.findIndex((other) => other.data.id === node.data.id)
      const made = translated(node, result[at])
      if (made === undefined) return
      if (made === 'removed') {
        if (at >= 0) result.splice(at, 1)
      } else if (at >= 0) result[at] = made
      else result.splice(indexAfter(idsOf(sources.slice(0, index)), idsOf(result)), 0, made)
    })
    return result
  }
  const translated = <Node extends RichBlock | ListItem>(
    node: Node,
    existing: Node | undefined,
  ): Node | 'removed' | undefined => {
    if (node.type === 'list' || node.type === 'listItem' || node.type === 'blockquote') {
      const inside = existing && existing.type === node.type && 'children' in existing ? existing.children : []
      const children = merge(node.children as readonly RichBlock[], inside as readonly RichBlock[])
      if (children.length === 0) return existing ? 'removed' : undefined
      return { ...(existing ?? node), children }
    }
    const unit = units.get(node.data.id)
    if (!unit) return before ? undefined : node
    const text = texts.get(unit.part)
    if (text !== undefined && hasNoWords(text)) return 'removed'
    return text === undefined ? undefined : { ...node, children: phrasingOfSegment(text, unit.codes) }
  }
  const document: RichText = { type: 'root', children: merge(source.children, before?.children ?? []) }
  const isEmptied = [...texts.values()].some(hasNoWords) && segmentsOfDocument(document).length === 0
  return isEmptied ? undefined : document
}

const idsOf = (nodes: readonly (RichBlock | ListItem)[]): string[] => nodes.map(({ data }) => data.id)
