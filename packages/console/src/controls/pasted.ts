/** The longest text that is pasted at once; the rest is left out. */
const maxPasted = 2_000_000

/** Elements that are no text. Names with a colon are a word processor's own. */
const leftOut = new Set(['SCRIPT', 'STYLE', 'META', 'LINK', 'TITLE', 'TEMPLATE', 'XML', 'SVG', 'IFRAME', 'OBJECT'])

/**
 * Cleans HTML from a word processor, a mail or another page, before the editor reads it: lists that are only drawn as such become
 * lists, words that only look bold become bold, and everything else is removed.
 */
export function cleanPasted(html: string): string {
  const document = new DOMParser().parseFromString(html.slice(0, maxPasted), 'text/html')
  const { body } = document
  for (const element of [...body.querySelectorAll('*')])
    if (leftOut.has(element.tagName.toUpperCase()) || element.tagName.includes(':')) element.remove()
  removeComments(body)
  for (const heading of body.querySelectorAll('h1')) rename(heading, 'h2')
  for (const deep of body.querySelectorAll('h5, h6')) rename(deep, 'h4')
  drawnLists(body)
  meantMarks(body)
  for (const element of body.querySelectorAll('*')) {
    for (const { name } of [...element.attributes]) if (!keeps(element, name)) element.removeAttribute(name)
    if (element.tagName === 'A' && !/^(https?:|mailto:|tel:|\/|#)/i.test(element.getAttribute('href') ?? ''))
      unwrap(element)
  }
  for (const wrapper of [...body.querySelectorAll('span, font, div')].reverse())
    if (wrapper.tagName !== 'DIV' || !wrapper.hasAttributes()) flatten(wrapper)
  for (const paragraph of body.querySelectorAll('p'))
    if (paragraph.textContent.replace(/\u00a0/g, ' ').trim() === '' && !paragraph.querySelector('br, img'))
      paragraph.remove()
  return body.innerHTML
}

const keeps = (element: Element, name: string): boolean =>
  name === 'href' ||
  (element.tagName === 'OL' && name === 'start') ||
  name.startsWith('data-held-') ||
  name === 'data-entry'

function removeComments(root: Node): void {
  for (const child of [...root.childNodes]) {
    if (child.nodeType === 8) child.remove()
    else removeComments(child)
  }
}

function rename(element: Element, name: string): Element {
  const created = element.ownerDocument.createElement(name)
  created.append(...element.childNodes)
  for (const { name: attribute, value } of [...element.attributes]) created.setAttribute(attribute, value)
  element.replaceWith(created)
  return created
}

const unwrap = (element: Element): void => element.replaceWith(...element.childNodes)

/** An element around blocks is removed, and one around text alone becomes a paragraph. */
function flatten(element: Element): void {
  if (element.tagName !== 'DIV') return unwrap(element)
  const hasBlocks = [...element.children].some((child) =>
    /^(P|H\d|UL|OL|DIV|BLOCKQUOTE|PRE|TABLE|HR)$/.test(child.tagName),
  )
  if (hasBlocks || element.textContent === '') unwrap(element)
  else rename(element, 'p')
}

const styleOf = (element: Element): string => element.getAttribute('style') ?? ''

/** Bold and italics by style become elements; a bold element styled as not bold is removed. */
function meantMarks(body: HTMLElement): void {
  for (const element of body.querySelectorAll('b, strong'))
    if (/font-weight:\s*(normal|[1-4]00)/i.test(styleOf(element))) unwrap(element)
  for (const element of body.querySelectorAll('span, font')) {
    const style = styleOf(element)
    if (/font-weight:\s*(bold|[6-9]00)/i.test(style)) wrapInside(element, 'strong')
    if (/font-style:\s*italic/i.test(style)) wrapInside(element, 'em')
    if (/text-decoration[^;]*line-through/i.test(style)) wrapInside(element, 's')
  }
}

function wrapInside(element: Element, name: string): void {
  const created = element.ownerDocument.createElement(name)
  created.append(...element.childNodes)
  element.append(created)
}

/** Paragraphs that a word processor draws as a list: a style has the level, the bullet is part of the text. */
function drawnLists(body: HTMLElement): void {
  let lists: Element[] = []
  for (const paragraph of [...body.querySelectorAll('p')]) {
    const level = Number(/mso-list:[^;]*level(\d)/i.exec(styleOf(paragraph))?.[1] ?? 0)
    if (level === 0) {
      lists = []
      continue
    }
    for (const sign of paragraph.querySelectorAll('[style*="mso-list:Ignore"], [style*="mso-list: Ignore"]'))
      sign.remove()
    const text = paragraph.textContent
    const mark = /^[\s\u00a0]*([·•o§▪–-]|\d+[.)]|[a-z][.)])[\s\u00a0]+/.exec(text)
    const isOrdered = mark ? /\d|[a-z][.)]/.test(mark[1]!) && mark[1] !== 'o' : false
    if (mark) cutStart(paragraph, mark[0].length)
    if (lists.length > 0 && paragraph.previousElementSibling !== lists[0]) lists = []
    lists = lists.slice(0, level)
    while (lists.length < level) {
      const list = body.ownerDocument.createElement(isOrdered ? 'ol' : 'ul')
      const around = lists.at(-1)
      if (around) (around.lastElementChild ?? around.appendChild(body.ownerDocument.createElement('li'))).append(list)
      else paragraph.before(list)
      lists.push(list)
    }
    const item = body.ownerDocument.createElement('li')
    item.append(...paragraph.childNodes)
    lists.at(-1)!.append(item)
    paragraph.remove()
  }
}

/** Removes letters from the start of an element, wherever they are in it. */
function cutStart(element: Element, letters: number): void {
  let left = letters
  const walk = (node: Node): void => {
    for (const child of [...node.childNodes]) {
      if (left === 0) return
      if (child.nodeType === 3) {
        const text = child.textContent!
        child.textContent = text.slice(left)
        left = Math.max(0, left - text.length)
      } else walk(child)
    }
  }
  walk(element)
}
