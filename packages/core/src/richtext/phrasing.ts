/*
 * Running text of a rich text document in two forms: the nested nodes of the mdast specification, as it is stored and read, and
 * flat spans, as it is edited and compared. Both have the same content, and the nesting has one fixed order: equal formatting is
 * stored equally.
 */

/** From the outside in, as they nest. */
export const marks = ['strong', 'emphasis', 'delete', 'code'] as const
export type Mark = (typeof marks)[number]

export interface TextNode {
  readonly type: 'text'
  readonly value: string
}
export interface InlineCode {
  readonly type: 'inlineCode'
  readonly value: string
}
export interface Break {
  readonly type: 'break'
}
export interface Formatted {
  readonly type: 'strong' | 'emphasis' | 'delete'
  readonly children: readonly Phrasing[]
}
export interface Link {
  readonly type: 'link'
  /** Empty as stored where it is a reference; filled in for readers. */
  readonly url: string
  readonly title?: string | null | undefined
  readonly data?: { readonly entry: string } | { readonly asset: string } | undefined
  readonly children: readonly Phrasing[]
}
export interface Image {
  readonly type: 'image'
  /** Empty as stored; filled in for readers. */
  readonly url: string
  readonly alt?: string | null | undefined
  readonly title?: string | null | undefined
  readonly data: { readonly asset: string }
}
/** A node of running text. */
export type Phrasing = TextNode | InlineCode | Break | Formatted | Link | Image

/** Where a link leads. */
export type LinkTarget =
  | { readonly url: string; readonly title?: string | undefined }
  | { readonly entry: string; readonly url?: string; readonly title?: string | undefined }
  | { readonly asset: string; readonly url?: string; readonly title?: string | undefined }

/** A run of text with the same marks and link: a line feed in it is a break. Or an image. */
export type Span = {
  /** In the order of `marks`. */
  readonly marks: readonly Mark[]
  readonly link?: LinkTarget | undefined
} & ({ readonly text: string } | { readonly image: Omit<Image, 'type'> })

/** The nodes as flat spans; neighbours with the same formats are joined. */
export function spansOf(nodes: readonly Phrasing[]): Span[] {
  const spans: Span[] = []
  const add = (span: Span): void => {
    const last = spans.at(-1)
    if (last && 'text' in last && 'text' in span && isSameForm(last, span))
      spans[spans.length - 1] = { ...last, text: last.text + span.text }
    else spans.push(span)
  }
  const into = (children: readonly Phrasing[], inside: Pick<Span, 'marks' | 'link'>): void => {
    for (const node of children)
      switch (node.type) {
        case 'text':
          // In Markdown a line feed inside a text is a space; a break starts a new line.
          if (node.value !== '') add({ ...inside, text: node.value.replace(/[ \t]*\r?\n[ \t]*/g, ' ') })
          break
        case 'inlineCode':
          if (node.value !== '')
            add({ ...inside, marks: withMark(inside.marks, 'code'), text: node.value.replace(/\r?\n/g, ' ') })
          break
        case 'break':
          add({ ...inside, text: '\n' })
          break
        case 'image': {
          const { type: _, ...image } = node
          spans.push({ ...(inside.link ? { link: inside.link } : {}), marks: [], image })
          break
        }
        case 'link': {
          const { url, title, data } = node
          const link: LinkTarget = { ...data, url, ...(title ? { title } : {}) }
          const before = spans.length
          into(node.children, { ...inside, link })
          // A reference without text of its own gets the title of its target.
          if (spans.length === before && data) spans.push({ ...inside, link, text: '' })
          break
        }
        default:
          into(node.children, { ...inside, marks: withMark(inside.marks, node.type) })
      }
  }
  into(nodes, { marks: [] })
  return spans
}

/** The nodes of flat spans, nested in the one order: link, strong, emphasis, delete, code. */
export const phrasingOf = (spans: readonly Span[]): Phrasing[] => nest(spans, ['link', 'strong', 'emphasis', 'delete'])

type Level = 'link' | 'strong' | 'emphasis' | 'delete'

function nest(spans: readonly Span[], [level, ...inner]: readonly Level[]): Phrasing[] {
  if (level === undefined) return spans.flatMap(leavesOf)
  const nodes: Phrasing[] = []
  for (let start = 0; start < spans.length;) {
    const first = spans[start]!
    let end = start + 1
    while (end < spans.length && isAlike(level, first, spans[end]!)) end++
    const children = nest(spans.slice(start, end), inner)
    if (level === 'link' && first.link) nodes.push(linkNode(first.link, children))
    else if (level !== 'link' && first.marks.includes(level)) nodes.push({ type: level, children })
    else nodes.push(...children)
    start = end
  }
  return nodes
}

const isAlike = (level: Level, a: Span, b: Span): boolean =>
  level === 'link'
    ? // What has no words of its own stands alone.
      isSameTarget(a.link, b.link) && !(a.link && (isEmpty(a) || isEmpty(b)))
    : a.marks.includes(level) === b.marks.includes(level)

const isEmpty = (span: Span): boolean => 'text' in span && span.text === ''

function linkNode(link: LinkTarget, children: readonly Phrasing[]): Link {
  const { url = '', title } = link
  const data = 'entry' in link ? { entry: link.entry } : 'asset' in link ? { asset: link.asset } : undefined
  return { type: 'link', url, ...(title ? { title } : {}), ...(data ? { data } : {}), children }
}

function leavesOf(span: Span): Phrasing[] {
  if ('image' in span) return [{ type: 'image', ...span.image }]
  if (span.text === '') return []
  if (span.marks.includes('code')) return [{ type: 'inlineCode', value: span.text.replaceAll('\n', ' ') }]
  return span.text
    .split('\n')
    .flatMap((line, index): Phrasing[] => [
      ...(index > 0 ? [{ type: 'break' } as const] : []),
      ...(line === '' ? [] : [{ type: 'text', value: line } as const]),
    ])
}

const withMark = (has: readonly Mark[], mark: Mark): Mark[] =>
  marks.filter((other) => other === mark || has.includes(other))

const isSameForm = (a: Span, b: Span): boolean =>
  a.marks.length === b.marks.length &&
  a.marks.every((mark, index) => b.marks[index] === mark) &&
  isSameTarget(a.link, b.link)

const isSameTarget = (a: LinkTarget | undefined, b: LinkTarget | undefined): boolean =>
  a === b || (a !== undefined && b !== undefined && targetKey(a) === targetKey(b))

const targetKey = (link: LinkTarget): string =>
  'entry' in link ? `entry ${link.entry}` : 'asset' in link ? `asset ${link.asset}` : `${link.url} ${link.title ?? ''}`
