import { plainText, type RichBlock, type RichText, type Span } from './document.js'

export const richTextForms = ['document', 'html', 'markdown', 'text'] as const
export type RichTextForm = (typeof richTextForms)[number]

/** Where what a document refers to can be reached, and what it is called; undefined where there is nothing to lead to. */
export interface Links {
  readonly entry: (id: string) => { readonly address: string | null; readonly title: string } | undefined
  readonly asset: (
    id: string,
  ) => { readonly address: string; readonly mediaType: string; readonly alt: string } | undefined
}

/** Prints a document in one of its forms. */
export function printRichText(document: RichText, form: RichTextForm, links: Links): unknown {
  switch (form) {
    case 'document':
      return document
    case 'html':
      return toHtml(document, links)
    case 'markdown':
      return toMarkdown(document, links)
    case 'text':
      return plainText(document)
  }
}

const escaped = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;')

const elements = { strong: 'strong', emphasis: 'em', code: 'code', struck: 's' } as const

/** HTML of known elements only; words and addresses are escaped. An entry is a link by its title, an image asset an `img`. */
export function toHtml(document: RichText, links: Links): string {
  const words = (spans: readonly Span[]): string =>
    spans
      .map(({ text, marks = [], link }) => {
        const marked = marks.reduceRight(
          (inner, mark) => `<${elements[mark]}>${inner}</${elements[mark]}>`,
          escaped(text).replaceAll('\n', '<br>'),
        )
        const address = link && ('address' in link ? link.address : links.entry(link.entry)?.address)
        return address ? `<a href="${escaped(address)}">${marked}</a>` : marked
      })
      .join('')
  const block = (one: RichBlock): string => {
    switch (one.is) {
      case 'paragraph':
        return `<p>${words(one.spans)}</p>`
      case 'heading':
        return `<h${one.level}>${words(one.spans)}</h${one.level}>`
      case 'list': {
        const name = one.ordered ? 'ol' : 'ul'
        return `<${name}>${one.items.map((item) => `<li>${inside(item.blocks)}</li>`).join('')}</${name}>`
      }
      case 'quote':
        return `<blockquote>${one.blocks.map(block).join('')}</blockquote>`
      case 'code':
        return `<pre><code>${escaped(one.text)}</code></pre>`
      case 'rule':
        return '<hr>'
      case 'entry': {
        const found = links.entry(one.entry)
        return found
          ? found.address
            ? `<p><a href="${escaped(found.address)}">${escaped(found.title)}</a></p>`
            : `<p>${escaped(found.title)}</p>`
          : ''
      }
      case 'asset': {
        const found = links.asset(one.asset)
        if (!found) return ''
        return found.mediaType.startsWith('image/')
          ? `<figure><img src="${escaped(found.address)}" alt="${escaped(found.alt)}"></figure>`
          : `<p><a href="${escaped(found.address)}">${escaped(found.alt || found.address)}</a></p>`
      }
    }
  }
  /** An item that is one paragraph stands without its element. */
  const inside = (blocks: readonly RichBlock[]): string =>
    blocks.map((one) => (one.is === 'paragraph' && blocks.length === 1 ? words(one.spans) : block(one))).join('')
  return document.blocks.map(block).join('\n')
}

const markdownEscapes = /[\\`*_[\]<>#|~]/g
const fences = { strong: '**', emphasis: '*', code: '`', struck: '~~' } as const

/** CommonMark, with the usual `~~` for what is struck. */
export function toMarkdown(document: RichText, links: Links): string {
  const plain = (text: string): string =>
    text
      .replace(markdownEscapes, '\\$&')
      .replace(
        /^(\s*)([-+]|\d+[.)])(?=\s)/gm,
        (_, space: string, sign: string) => `${space}${sign.slice(0, -1)}\\${sign.slice(-1)}`,
      )
  const words = (spans: readonly Span[]): string =>
    spans
      .map(({ text, marks = [], link }) => {
        // Signs stand against words, so spaces at the ends stay outside them.
        const [, before, middle, after] = /^(\s*)(.*?)(\s*)$/s.exec(text) as unknown as [string, string, string, string]
        if (middle === '') return text
        const code = marks.includes('code')
        const longest = Math.max(0, ...(middle.match(/`+/g) ?? []).map((run) => run.length))
        const fence = '`'.repeat(longest + 1)
        const pad = longest > 0 ? ' ' : ''
        const inner = code ? fence + pad + middle + pad + fence : plain(middle).replaceAll('\n', '\\\n')
        const marked = marks
          .filter((mark) => mark !== 'code')
          .reduceRight((held, mark) => fences[mark] + held + fences[mark], inner)
        const address = link && ('address' in link ? link.address : links.entry(link.entry)?.address)
        return before + (address ? `[${marked}](${target(address)})` : marked) + after
      })
      .join('')
  const target = (address: string): string =>
    address
      .replace(/[()<>\s\\]/g, encodeURIComponent)
      .replaceAll('(', '%28')
      .replaceAll(')', '%29')
  const indented = (text: string, by: string): string =>
    text
      .split('\n')
      .map((line, index) => (index === 0 || line === '' ? line : by + line))
      .join('\n')
  const block = (one: RichBlock): string => {
    switch (one.is) {
      case 'paragraph':
        return words(one.spans)
      case 'heading':
        return `${'#'.repeat(one.level)} ${words(one.spans).replaceAll('\\\n', ' ')}`
      case 'list':
        return one.items
          .map((item, index) => {
            const sign = one.ordered ? `${index + 1}. ` : '- '
            return sign + indented(all(item.blocks), ' '.repeat(sign.length))
          })
          .join('\n')
      case 'quote':
        return all(one.blocks)
          .split('\n')
          .map((line) => (line === '' ? '>' : `> ${line}`))
          .join('\n')
      case 'code': {
        const fence = '`'.repeat(Math.max(3, ...(one.text.match(/`+/g) ?? []).map((run) => run.length + 1)))
        return `${fence}\n${one.text}\n${fence}`
      }
      case 'rule':
        return '---'
      case 'entry': {
        const found = links.entry(one.entry)
        return found ? (found.address ? `[${plain(found.title)}](${target(found.address)})` : plain(found.title)) : ''
      }
      case 'asset': {
        const found = links.asset(one.asset)
        return found
          ? `${found.mediaType.startsWith('image/') ? '!' : ''}[${plain(found.alt)}](${target(found.address)})`
          : ''
      }
    }
  }
  const all = (blocks: readonly RichBlock[]): string =>
    blocks
      .map(block)
      .filter((part) => part !== '')
      .join('\n\n')
  return all(document.blocks)
}
