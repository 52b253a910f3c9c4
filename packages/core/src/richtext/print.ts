import { gfmStrikethroughToMarkdown } from 'mdast-util-gfm-strikethrough'
import { toMarkdown as markdownOf } from 'mdast-util-to-markdown'
import { plainText, type List, type ListItem, type RichBlock, type RichText } from './document.js'
import type { Phrasing } from './phrasing.js'
import { withLinks, withoutEmptyLinks, type Links } from './references.js'

export const richTextForms = ['document', 'html', 'markdown', 'text'] as const
export type RichTextForm = (typeof richTextForms)[number]

/** Prints a document in one of its forms. */
export function printRichText(document: RichText, form: RichTextForm, links: Links): unknown {
  switch (form) {
    case 'document':
      return withLinks(document, links)
    case 'html':
      return toHtml(withLinks(document, links))
    case 'markdown':
      return toMarkdown(withLinks(document, links))
    case 'text':
      return plainText(document)
  }
}

const escaped = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;')

const attribute = (name: string, value: string | null | undefined): string =>
  value ? ` ${name}="${escaped(value)}"` : ''

const elements = { strong: 'strong', emphasis: 'em', delete: 'del' } as const

/** HTML of known elements only; text and addresses are escaped. The elements are those of the usual mdast printers. */
export function toHtml(document: RichText): string {
  const blocks = (nodes: readonly RichBlock[]): string => nodes.map((node) => block(node)).join('\n')
  const block = (node: RichBlock, isTight = false): string => {
    switch (node.type) {
      case 'paragraph':
        return isTight ? inline(node.children) : `<p>${inline(node.children)}</p>`
      case 'heading':
        return `<h${node.depth}>${inline(node.children)}</h${node.depth}>`
      case 'list':
        return list(node)
      case 'blockquote':
        return `<blockquote>\n${blocks(node.children)}\n</blockquote>`
      case 'code': {
        const language = node.lang ? ` class="language-${escaped(node.lang.split(/\s/)[0]!)}"` : ''
        return `<pre><code${language}>${escaped(node.value)}\n</code></pre>`
      }
      case 'thematicBreak':
        return '<hr>'
    }
  }
  const list = (node: List): string => {
    const name = node.ordered ? 'ol' : 'ul'
    const isTight = !node.spread && node.children.every((item) => !item.spread)
    const start = node.start === undefined ? '' : ` start="${node.start}"`
    return `<${name}${start}>\n${node.children.map((item) => listItem(item, isTight)).join('\n')}\n</${name}>`
  }
  const listItem = ({ children }: ListItem, isTight: boolean): string =>
    `<li>${children.map((node) => block(node, isTight)).join('\n')}</li>`
  return blocks(document.children)
}

function inline(nodes: readonly Phrasing[]): string {
  return nodes
    .map((node) => {
      switch (node.type) {
        case 'text':
          return escaped(node.value)
        case 'inlineCode':
          return `<code>${escaped(node.value)}</code>`
        case 'break':
          return '<br>\n'
        case 'image':
          return node.url
            ? `<img src="${escaped(node.url)}" alt="${escaped(node.alt ?? '')}"${attribute('title', node.title)}>`
            : ''
        case 'link':
          return node.url
            ? `<a href="${escaped(node.url)}"${attribute('title', node.title)}>${inline(node.children)}</a>`
            : inline(node.children)
        default:
          return `<${elements[node.type]}>${inline(node.children)}</${elements[node.type]}>`
      }
    })
    .join('')
}

/** CommonMark, with the usual `~~` for struck-through text. */
export const toMarkdown = (document: RichText): string =>
  // The same tree: its types there are not readonly.
  markdownOf(withoutEmptyLinks(document) as unknown as Parameters<typeof markdownOf>[0], {
    bullet: '-',
    rule: '-',
    fences: true,
    listItemIndent: 'one',
    extensions: [gfmStrikethroughToMarkdown()],
  }).replace(/\n$/, '')
