import { isLinkAddress, type ListItem, type RichBlock, type RichText } from './document.js'
import { phrasingOf, spansOf, type LinkTarget, type Phrasing, type Span } from './phrasing.js'

/** The address and title of a reference's target; undefined where there is none. */
export interface Links {
  readonly entry: (id: string) => { readonly address: string | null; readonly title: string } | undefined
  readonly asset: (
    id: string,
  ) => { readonly address: string; readonly mediaType: string; readonly alt: string } | undefined
}

type Reference = { readonly entry: string } | { readonly asset: string }

/**
 * The document without references that a reader may not follow: links become plain text, and without text they are removed, with a
 * paragraph of nothing else.
 */
export const withoutReferences = (document: RichText, isGone: (reference: Reference) => boolean): RichText =>
  mapPhrasing(document, (spans) => {
    const kept = spans.flatMap((span): Span[] => {
      const { link, ...plain } = span
      const reference = link && referenceOf(link)
      const isLinkGone = reference !== undefined && isGone(reference)
      if ('image' in span) return isGone(span.image.data) ? [] : isLinkGone ? [plain] : [span]
      return !isLinkGone ? [span] : span.text === '' ? [] : [plain]
    })
    return kept.length === 0 && spans.length > 0 ? undefined : kept
  })

/**
 * The document with the addresses and texts of its references: `url` and `title` of an entry, `url` and `alt` of an asset. An image
 * of a file that is not a picture becomes a link. An entry without an address keeps an empty `url`.
 */
export const withLinks = (document: RichText, links: Links): RichText =>
  mapPhrasing(document, (spans) => spans.map((span) => linked(span, links)))

function linked(span: Span, links: Links): Span {
  if ('image' in span) {
    const { asset: id } = span.image.data
    const asset = links.asset(id)
    if (!asset) return span
    if (!asset.mediaType.startsWith('image/'))
      return { marks: [], text: asset.alt || asset.address, link: { asset: id, url: asset.address } }
    return { ...linkedTarget(span, links), image: { ...span.image, url: asset.address, alt: asset.alt } }
  }
  const target = linkedTarget(span, links)
  if (target.text !== '' || !target.link) return target
  const { link } = target
  return { ...target, text: 'entry' in link ? (link.title ?? '') : (assetOf(link, links)?.alt ?? link.url ?? '') }
}

function linkedTarget<S extends Span>(span: S, links: Links): S {
  const { link } = span
  if (!link) return span
  if ('entry' in link) {
    const entry = links.entry(link.entry)
    return entry ? { ...span, link: { entry: link.entry, url: entry.address ?? '', title: entry.title } } : span
  }
  const asset = assetOf(link, links)
  return asset ? { ...span, link: { ...link, url: asset.address } } : span
}

const assetOf = (link: LinkTarget, links: Links) => ('asset' in link ? links.asset(link.asset) : undefined)

const referenceOf = (link: LinkTarget): Reference | undefined =>
  'entry' in link ? { entry: link.entry } : 'asset' in link ? { asset: link.asset } : undefined

/** The document without broken links: their text stays. */
export const withoutEmptyLinks = (document: RichText): RichText =>
  mapPhrasing(document, (spans) =>
    spans.map((span): Span => {
      const { link, ...plain } = span
      return link && !isLinkAddress(link.url ?? '') ? plain : span
    }),
  )

/** Replaces the running text of every block; a block whose text becomes empty is removed. */
function mapPhrasing(document: RichText, change: (spans: readonly Span[]) => readonly Span[] | undefined): RichText {
  const textOf = (nodes: readonly Phrasing[]): Phrasing[] | undefined => {
    const spans = change(spansOf(nodes))
    return spans && phrasingOf(spans)
  }
  const each = (nodes: readonly RichBlock[]): RichBlock[] =>
    nodes.flatMap((node): RichBlock[] => {
      switch (node.type) {
        case 'paragraph':
        case 'heading': {
          const children = textOf(node.children)
          return children ? [{ ...node, children }] : []
        }
        case 'blockquote':
          return [{ ...node, children: each(node.children) }]
        case 'list':
          return [
            { ...node, children: node.children.map((item): ListItem => ({ ...item, children: each(item.children) })) },
          ]
        default:
          return [node]
      }
    })
  return { ...document, children: each(document.children) }
}
