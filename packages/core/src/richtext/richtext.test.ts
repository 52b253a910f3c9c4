import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  isLinkAddress,
  plainText,
  readRichText,
  referencesIn,
  richTextSchema,
  withoutReferences,
  type RichText,
} from './document.js'
import { printRichText, toHtml, toMarkdown, type Links } from './print.js'

const id = (letter: string) => letter.repeat(20)
const links: Links = {
  entry: (one) =>
    one === id('a')
      ? { address: '/museums/lighthouse', title: 'The <Light>' }
      : one === id('b')
        ? { address: null, title: 'No page' }
        : undefined,
  asset: (one) =>
    one === id('p')
      ? { address: '/assets/x.png', mediaType: 'image/png', alt: 'A "lamp"' }
      : one === id('d')
        ? { address: '/assets/x.pdf', mediaType: 'application/pdf', alt: 'Plan' }
        : undefined,
}
const document: RichText = {
  blocks: [
    { is: 'heading', level: 2, spans: [{ text: 'Room 1 & 2' }] },
    {
      is: 'paragraph',
      spans: [
        { text: 'Lit ' },
        { text: 'every', marks: ['strong', 'emphasis'] },
        { text: ' night, see ' },
        { text: 'the light', link: { entry: id('a') } },
        { text: '.\nTwice.' },
      ],
    },
    {
      is: 'list',
      ordered: true,
      items: [
        { blocks: [{ is: 'paragraph', spans: [{ text: 'one' }] }] },
        {
          blocks: [
            { is: 'paragraph', spans: [{ text: 'two' }] },
            { is: 'list', ordered: false, items: [{ blocks: [{ is: 'paragraph', spans: [{ text: 'inner' }] }] }] },
          ],
        },
      ],
    },
    { is: 'quote', blocks: [{ is: 'paragraph', spans: [{ text: 'It kept us.' }] }] },
    { is: 'code', text: 'a < b ``` c' },
    { is: 'rule' },
    { is: 'entry', entry: id('a') },
    { is: 'asset', asset: id('p') },
    { is: 'asset', asset: id('d') },
  ],
}

describe('printing', () => {
  it('as HTML of known elements, with every word escaped', () => {
    expect(toHtml(document, links)).toBe(
      [
        '<h2>Room 1 &amp; 2</h2>',
        '<p>Lit <strong><em>every</em></strong> night, see <a href="/museums/lighthouse">the light</a>.<br>Twice.</p>',
        '<ol><li>one</li><li><p>two</p><ul><li>inner</li></ul></li></ol>',
        '<blockquote><p>It kept us.</p></blockquote>',
        '<pre><code>a &lt; b ``` c</code></pre>',
        '<hr>',
        '<p><a href="/museums/lighthouse">The &lt;Light&gt;</a></p>',
        '<figure><img src="/assets/x.png" alt="A &quot;lamp&quot;"></figure>',
        '<p><a href="/assets/x.pdf">Plan</a></p>',
      ].join('\n'),
    )
  })
  it('as Markdown, whose signs mean nothing more than was meant', () => {
    expect(toMarkdown(document, links)).toBe(
      [
        '## Room 1 & 2',
        'Lit ***every*** night, see [the light](/museums/lighthouse).\\\nTwice.',
        '1. one\n2. two\n\n   - inner',
        '> It kept us.',
        '````\na < b ``` c\n````',
        '---',
        '[The \\<Light\\>](/museums/lighthouse)',
        '![A "lamp"](/assets/x.png)',
        '[Plan](/assets/x.pdf)',
      ].join('\n\n'),
    )
    const words = (text: string, marks: ('strong' | 'code')[] = []) =>
      toMarkdown({ blocks: [{ is: 'paragraph', spans: [{ text, marks }] }] }, links)
    expect(words('# not a *heading* [x](y)')).toBe('\\# not a \\*heading\\* \\[x\\](y)')
    expect(words('- no list')).toBe('\\- no list')
    expect(words('1. no list')).toBe('1\\. no list')
    expect(words(' bold ', ['strong'])).toBe(' **bold** ')
    expect(words('a`b', ['code'])).toBe('`` a`b ``')
  })
  it('as plain text, and as the document itself', () => {
    expect(plainText(document).split('\n\n').slice(0, 3)).toEqual([
      'Room 1 & 2',
      'Lit every night, see the light.\nTwice.',
      'one\ntwo\n\ninner'.split('\n\n')[0],
    ])
    expect(printRichText(document, 'document', links)).toBe(document)
    expect(printRichText(document, 'text', links)).toBe(plainText(document))
  })
  it('leaves a link to something without an address as words', () =>
    expect(
      toHtml(
        {
          blocks: [
            { is: 'paragraph', spans: [{ text: 'x', link: { entry: id('b') } }] },
            { is: 'entry', entry: id('b') },
          ],
        },
        links,
      ),
    ).toBe('<p>x</p>\n<p>No page</p>'))
})

describe('references', () => {
  it('are found wherever they stand', () =>
    expect(referencesIn(document)).toEqual({ entries: [id('a')], assets: [id('p'), id('d')] }))
  it('that lead nowhere leave their words', () => {
    const settled = withoutReferences(document, () => true)
    expect(referencesIn(settled)).toEqual({ entries: [], assets: [] })
    expect(plainText(settled)).toBe(plainText(document))
  })
})

describe('reading', () => {
  it.each([
    ['text', 'a text'],
    [{ blocks: 'x' }, 'blocks'],
    [{ blocks: [{ is: 'paragraf', spans: [] }] }, 'blocks[0]'],
    [{ blocks: [{ is: 'heading', level: 1, spans: [] }] }, 'blocks[0].level'],
    [{ blocks: [{ is: 'paragraph', spans: [{ text: 'x', marks: ['blink'] }] }] }, 'blocks[0].spans[0].marks[0]'],
    [{ blocks: [{ is: 'paragraph', spans: [{ text: 'x', onclick: 'y' }] }] }, 'spans[0]'],
    [{ blocks: [{ is: 'entry', entry: 'short' }] }, 'blocks[0].entry'],
  ])('refuses %j, and says where', (value, where) => {
    const read = readRichText(value)
    expect('wrong' in read && read.wrong).toMatch(/is not a rich text document/)
    if (where !== 'a text') expect('wrong' in read && read.wrong).toContain(where)
  })
  it('refuses what is nested without end', () => {
    let deep: unknown = { is: 'paragraph', spans: [] }
    for (let level = 0; level < 40; level++) deep = { is: 'quote', blocks: [deep] }
    expect(readRichText({ blocks: [deep] })).toEqual({ wrong: expect.stringMatching(/deep/) as string })
  })
  it.each([
    'javascript:alert(1)',
    'JAVASCRIPT:x',
    'data:text/html,x',
    '//evil.example',
    'vbscript:x',
    'https:x',
    ' https://a',
    'java\nscript:x',
    '',
  ])('refuses a link to %j', (address) => expect(isLinkAddress(address)).toBe(false))
  it.each(['https://marram.example', 'mailto:ask@marram.example', 'tel:+00555', '/nl/agenda', '#top'])(
    'takes a link to %s',
    (address) => expect(isLinkAddress(address)).toBe(true),
  )
  it('has a schema that says the same', () => expect(JSON.stringify(richTextSchema())).toContain('"paragraph"'))
  it('prints no element that was not meant, whatever the words', () => {
    fc.assert(
      fc.property(fc.string(), fc.constantFrom('https://a.example/?a="b"&c=<d>', '/x'), (text, address) => {
        const html = toHtml(
          {
            blocks: [
              { is: 'paragraph', spans: [{ text, link: { address } }] },
              { is: 'code', text },
            ],
          },
          links,
        )
        expect(html.replace(/<\/?(p|a href="[^"<>]*"|a|br|pre|code)>/g, '')).not.toMatch(/[<>]/)
      }),
    )
  })
})
