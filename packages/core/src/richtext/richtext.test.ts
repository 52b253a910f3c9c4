import fc from 'fast-check'
import { toHtml as hastToHtml } from 'hast-util-to-html'
import type { Nodes, Root } from 'mdast'
import { fromMarkdown } from 'mdast-util-from-markdown'
import { gfmStrikethroughFromMarkdown } from 'mdast-util-gfm-strikethrough'
import { gfmStrikethrough } from 'micromark-extension-gfm-strikethrough'
import { toHast } from 'mdast-util-to-hast'
import remarkRehype from 'remark-rehype'
import { unified } from 'unified'
import { describe, expect, it } from 'vitest'
import { eachBlock, isLinkAddress, plainText, referencesIn, type RichBlock, type RichText } from './document.js'
import { marks, phrasingOf, spansOf, type Phrasing } from './phrasing.js'
import { readRichText, richTextSchema } from './reading.js'
import { printRichText, toHtml, toMarkdown } from './print.js'
import { withLinks, withoutReferences, type Links } from './references.js'
import { upgradeRichText, upgradeRichTextIn } from './upgrade.js'

const id = (letter: string) => letter.repeat(20)
const links: Links = {
  entry: (target) =>
    target === id('a')
      ? { address: '/museums/lighthouse', title: 'The <Light>' }
      : target === id('b')
        ? { address: null, title: 'No page' }
        : undefined,
  asset: (target) =>
    target === id('p')
      ? { address: '/assets/x.png', mediaType: 'image/png', alt: 'A "lamp"' }
      : target === id('d')
        ? { address: '/assets/x.pdf', mediaType: 'application/pdf', alt: 'Plan' }
        : undefined,
}
const counting = () => {
  let count = 0
  return () => `n${++count}`
}
const read = (value: unknown, before?: RichText) => readRichText(value, counting(), before)
const documentOf = (value: unknown, before?: RichText): RichText => {
  const result = read(value, before)
  if ('wrong' in result) throw new Error(result.wrong)
  return result.document
}
const text = (value: string) => ({ type: 'text', value })
const paragraph = (...children: unknown[]) => ({ type: 'paragraph', children })
const root = (...children: unknown[]) => ({ type: 'root', children })
const entryLink = (entry: string, ...children: unknown[]) => ({ type: 'link', url: '', data: { entry }, children })
const image = (asset: string) => ({ type: 'image', url: '', data: { asset } })

const document = documentOf(
  root(
    { type: 'heading', depth: 2, children: [text('Room 1 & 2')] },
    paragraph(
      text('Lit '),
      { type: 'emphasis', children: [{ type: 'strong', children: [text('every')] }] },
      text(' night, see '),
      entryLink(id('a'), text('the light')),
      text('.'),
      { type: 'break' },
      text('Twice.'),
    ),
    {
      type: 'list',
      ordered: true,
      children: [
        { type: 'listItem', children: [paragraph(text('one'))] },
        {
          type: 'listItem',
          children: [
            paragraph(text('two')),
            { type: 'list', children: [{ type: 'listItem', children: [paragraph(text('inner'))] }] },
          ],
        },
      ],
    },
    { type: 'blockquote', children: [paragraph(text('It kept us.'))] },
    { type: 'code', lang: 'sh', value: 'a < b ``` c' },
    { type: 'thematicBreak' },
    paragraph(entryLink(id('a'))),
    paragraph(image(id('p'))),
    paragraph(image(id('d'))),
  ),
)

describe('printing', () => {
  it('as HTML of known elements, with every text escaped', () => {
    expect(printRichText(document, 'html', links)).toBe(
      [
        '<h2>Room 1 &amp; 2</h2>',
        '<p>Lit <strong><em>every</em></strong> night, see <a href="/museums/lighthouse" title="The &lt;Light&gt;">the light</a>.<br>\nTwice.</p>',
        '<ol>\n<li>one</li>\n<li>two\n<ul>\n<li>inner</li>\n</ul></li>\n</ol>',
        '<blockquote>\n<p>It kept us.</p>\n</blockquote>',
        '<pre><code class="language-sh">a &lt; b ``` c\n</code></pre>',
        '<hr>',
        '<p><a href="/museums/lighthouse" title="The &lt;Light&gt;">The &lt;Light&gt;</a></p>',
        '<p><img src="/assets/x.png" alt="A &quot;lamp&quot;"></p>',
        '<p><a href="/assets/x.pdf">Plan</a></p>',
      ].join('\n'),
    )
  })
  it('as Markdown, whose signs mean nothing more than was meant', () => {
    expect(printRichText(document, 'markdown', links)).toBe(
      [
        '## Room 1 & 2',
        'Lit **_every_** night, see [the light](/museums/lighthouse "The <Light>").\\\nTwice.',
        '1. one\n2. two\n   - inner',
        '> It kept us.',
        '````sh\na < b ``` c\n````',
        '---',
        '[The \\<Light>](/museums/lighthouse "The <Light>")',
        '![A "lamp"](/assets/x.png)',
        '[Plan](/assets/x.pdf)',
      ].join('\n\n'),
    )
  })
  it('as plain text, and as the tree with its addresses', () => {
    expect(plainText(document).split('\n\n').slice(0, 2)).toEqual([
      'Room 1 & 2',
      'Lit every night, see the light.\nTwice.',
    ])
    expect(printRichText(document, 'text', links)).toBe(plainText(document))
    expect(JSON.stringify(printRichText(document, 'document', links))).toContain(
      JSON.stringify({
        type: 'link',
        url: '/museums/lighthouse',
        title: 'The <Light>',
        data: { entry: id('a') },
        children: [text('the light')],
      }),
    )
  })
  it('leaves a link to something without an address as text', () =>
    expect(
      printRichText(
        documentOf(root(paragraph(entryLink(id('b'), text('x'))), paragraph(entryLink(id('b'))))),
        'html',
        links,
      ),
    ).toBe('<p>x</p>\n<p>No page</p>'))
})

/** Any valid document: random ones are made valid. */
const anyDocument = (() => {
  const words = fc.oneof(
    fc.string({ maxLength: 12 }),
    fc.constantFrom('<b>', '**x**', '1. a', '# b', '`', '~~', '[a](b)', '&amp;', '- ', '\\'),
  )
  const { phrasing } = fc.letrec<{ phrasing: unknown }>((tie) => ({
    phrasing: fc.oneof(
      { depthSize: 'small' },
      words.map(text),
      words.map((value) => ({ type: 'inlineCode', value })),
      fc.constant({ type: 'break' }),
      fc.constant(image(id('p'))),
      fc.record({
        type: fc.constantFrom('strong', 'emphasis', 'delete'),
        children: fc.array(tie('phrasing'), { maxLength: 3 }),
      }),
    ),
  }))
  const inline = fc.array(
    fc.oneof(
      phrasing,
      fc.record({
        type: fc.constant('link'),
        url: fc.constantFrom('https://a.example/?b="c"&d=<e>', '/x', '#y'),
        children: fc.array(phrasing, { maxLength: 2 }),
      }),
      fc.array(phrasing, { maxLength: 2 }).map((children) => entryLink(id('a'), ...children)),
    ),
    { maxLength: 5 },
  )
  const { block } = fc.letrec<{ block: unknown }>((tie) => ({
    block: fc.oneof(
      { depthSize: 'small' },
      inline.map((children) => paragraph(...children)),
      fc.record({ type: fc.constant('heading'), depth: fc.constantFrom(2, 3, 4), children: inline }),
      fc.record({ type: fc.constant('code'), lang: fc.constantFrom(null, 'ts'), value: words }),
      fc.constant({ type: 'thematicBreak' }),
      fc.array(tie('block'), { maxLength: 2 }).map((children) => ({ type: 'blockquote', children })),
      fc.record({
        type: fc.constant('list'),
        ordered: fc.boolean(),
        spread: fc.boolean(),
        children: fc.array(
          fc.array(tie('block'), { minLength: 1, maxLength: 2 }).map((children) => ({ type: 'listItem', children })),
          { minLength: 1, maxLength: 3 },
        ),
      }),
    ),
  }))
  return fc.array(block, { maxLength: 5 }).map((blocks) => documentOf(root(...blocks)))
})()

describe('the usual tools of Markdown syntax trees', () => {
  // White space after a line break is not shown, and the usual tools drop it.
  const squeezed = (html: string) =>
    html
      .replace(/>\s+</g, '><')
      .replace(/(<br>(?:<\w[^>]*>)*)\s+/g, '$1')
      .replace(/\s+/g, ' ')
  it('print the same HTML, whatever the document', () =>
    fc.assert(
      fc.property(anyDocument, (any) => {
        const linked = withLinks(any, links)
        const theirs = hastToHtml(toHast(linked as unknown as Nodes), {
          characterReferences: { useNamedReferences: true },
        })
        const plain = (html: string) =>
          squeezed(
            html
              .replace(/&(quot|#x22);/g, '"')
              .replace(/&(gt|#x3E);/g, '>')
              .replace(/&(lt|#x3C);/g, '<')
              .replace(/&(amp|#x26);/g, '&'),
          )
        const rehyped = unified()
          .use(remarkRehype)
          .runSync(linked as unknown as Root) as Parameters<typeof hastToHtml>[0]
        expect(hastToHtml(rehyped, { characterReferences: { useNamedReferences: true } })).toBe(theirs)
        fc.pre(!/[^\x20-\x7E\n]/.test(theirs))
        expect(decodeURI(plain(toHtml(linked)).replaceAll('%', '')).trim()).toBe(
          decodeURI(
            plain(theirs)
              .replace(/%(22|3C|3E)/g, (all) => decodeURIComponent(all))
              .replaceAll('%', ''),
          ).trim(),
        )
      }),
    ))
  it('find no HTML in the Markdown, whatever the document', () =>
    fc.assert(
      fc.property(anyDocument, (any) => {
        const tree = fromMarkdown(toMarkdown(withLinks(any, links)), {
          extensions: [gfmStrikethrough()],
          mdastExtensions: [gfmStrikethroughFromMarkdown()],
        })
        expect(JSON.stringify(tree)).not.toContain('"type":"html"')
      }),
    ))
  it('are read: what a parser of Markdown makes can be sent as it is', () => {
    const tree = fromMarkdown(
      '## Rings\n\nIt *turns*, see [there](/x "Title").\n\n- a\n- b\n\n1. c\n\n   d\n\n```ts\nlet a\n```\n\n---\n\n> quoted\n> text\n',
    )
    const parsed = documentOf(tree)
    expect(JSON.stringify(parsed)).not.toContain('position')
    expect(toMarkdown(parsed)).toBe(
      '## Rings\n\nIt *turns*, see [there](/x "Title").\n\n- a\n- b\n\n1. c\n\n   d\n\n```ts\nlet a\n```\n\n---\n\n> quoted text',
    )
  })
})

describe('running text', () => {
  const spans = fc.array(
    fc.record({
      text: fc.string({ minLength: 1, maxLength: 4 }).map((text) => text.replaceAll(/[\r\n]/g, 'x')),
      marks: fc.subarray([...marks]),
      link: fc.option(fc.constantFrom({ url: '/x' }, { entry: id('a') }), { nil: undefined }),
    }),
    { maxLength: 6 },
  )
  it('has one form, however it was nested', () => {
    const nested: Phrasing[] = [
      {
        type: 'delete',
        children: [
          { type: 'strong', children: [{ type: 'text', value: 'a' }] },
          { type: 'text', value: 'b' },
        ],
      },
    ]
    expect(phrasingOf(spansOf(nested))).toEqual([
      { type: 'strong', children: [{ type: 'delete', children: [{ type: 'text', value: 'a' }] }] },
      { type: 'delete', children: [{ type: 'text', value: 'b' }] },
    ])
  })
  it('is the same there and back', () =>
    fc.assert(
      fc.property(spans, (any) => {
        const nodes = phrasingOf(any)
        const again = phrasingOf(spansOf(nodes))
        expect(spansOf(again)).toEqual(spansOf(nodes))
        expect(phrasingOf(spansOf(again))).toEqual(again)
        expect(
          spansOf(nodes)
            .map((span) => ('text' in span ? span.text : ''))
            .join(''),
        ).toBe(any.map((span) => span.text).join(''))
      }),
    ))
})

describe('references', () => {
  it('are found wherever they stand', () =>
    expect(referencesIn(document)).toEqual({ entries: [id('a')], assets: [id('p'), id('d')] }))
  it('that are broken leave their text, and drop out where they have none', () => {
    const left = withoutReferences(document, () => true)
    expect(referencesIn(left)).toEqual({ entries: [], assets: [] })
    expect(plainText(left)).toBe(plainText(document))
    expect(left.children.length).toBe(document.children.length - 3)
  })
  it('are stored without what is only filled in for readers', () => {
    const filled = withLinks(document, links)
    expect(documentOf(filled).children[1]).toEqual(document.children[1])
    expect(documentOf(filled).children[7]).toEqual(document.children[7])
  })
})

describe('ids of blocks', () => {
  const ids = ({ children }: RichText) => children.map(({ data }) => data.id)
  it('are given to every block and list item, each once', () => {
    const all = [...eachBlock(document)].map(({ data }) => data.id)
    expect(new Set(all).size).toBe(all.length)
    expect(all.every((id) => /^n\d+$/.test(id))).toBe(true)
  })
  it('stay those that were sent, and never clash with new ones', () =>
    expect(ids(documentOf(root({ ...paragraph(text('a')), data: { id: 'n1' } }, paragraph(text('b')))))).toEqual([
      'n1',
      'n2',
    ]))
  it('stay with blocks that are sent again without them', () => {
    const before = documentOf(
      root(...['a', 'b', 'b'].map((letter, index) => ({ ...paragraph(text(letter)), data: { id: `k${index}` } }))),
    )
    expect(ids(documentOf(root(paragraph(text('b')), paragraph(text('new')), paragraph(text('a'))), before))).toEqual([
      'k1',
      'n1',
      'k0',
    ])
  })
})

describe('reading', () => {
  const inParagraph = (node: unknown) => root(paragraph(node))
  it.each([
    ['text', /is not a rich text document/],
    [{ blocks: [] }, /`type`|type/],
    [root({ type: 'paragraf', children: [] }), /`children\[0\].*thematicBreak/],
    [root({ type: 'heading', depth: 1, children: [] }), /children\[0\]\.depth.*2, 3, 4/],
    [root({ type: 'html', value: '<b>' }), /children\[0\]/],
    [inParagraph({ type: 'html', value: '<b>' }), /children\[0\]\.children\[0\]/],
    [inParagraph({ type: 'text', value: 'x', onclick: 'y' }), /`onclick` does not belong here/],
    [inParagraph({ type: 'text', value: 'x', data: { hName: 'script' } }), /`data` does not belong here/],
    [root({ ...paragraph(), data: { id: 'a', hProperties: {} } }), /`hProperties` does not belong here/],
    [inParagraph({ type: 'link', url: 'javascript:x', children: [] }), /children\[0\]\.url.*https/],
    [inParagraph({ type: 'image', url: 'https://a.example/x.png' }), /children\[0\]\.data/],
    [inParagraph(entryLink('short')), /entry.*20 characters/],
    [
      inParagraph({
        type: 'link',
        url: '/a',
        children: [{ type: 'strong', children: [{ type: 'link', url: '/b', children: [] }] }],
      }),
      /link inside a link/,
    ],
    [root({ ...paragraph(), data: { id: 'a' } }, { ...paragraph(), data: { id: 'a' } }), /two blocks with the id `a`/],
  ])('refuses %j, and says where', (value, says) => {
    const result = read(value)
    expect('wrong' in result && result.wrong).toMatch(says)
  })
  it('refuses what is nested without end', () => {
    let deep: unknown = paragraph()
    for (let level = 0; level < 13; level++) deep = { type: 'blockquote', children: [deep] }
    expect(read(root(deep))).toEqual({ wrong: 'nests more than 12 deep' })
    for (let level = 0; level < 4000; level++) deep = { type: 'blockquote', children: [deep] }
    expect(read(root(deep))).toEqual({ wrong: 'nests more than 12 deep' })
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
  it('prints no element that was not meant, whatever the text', () => {
    fc.assert(
      fc.property(anyDocument, (any) => {
        const html = toHtml(withLinks(any, links))
        expect(
          html.replace(
            /<\/?(p|h[234]|ul|ol|li|blockquote|strong|em|del|a href="[^"<>]*"( title="[^"<>]*")?|a|img src="[^"<>]*" alt="[^"<>]*"|br|hr|pre|code( class="language-\w+")?)>/g,
            '',
          ),
        ).not.toMatch(/[<>]/)
      }),
    )
  })
})

describe('documents of the earlier form', () => {
  const earlier = {
    blocks: [
      { is: 'heading', level: 3, spans: [{ text: 'A' }] },
      {
        is: 'paragraph',
        spans: [
          { text: 'b', marks: ['struck', 'strong'] },
          { text: 'c\nd', marks: ['strong', 'struck'] },
          { text: ' e', link: { address: '/x' } },
          { text: ' f', link: { entry: id('a') } },
        ],
      },
      { is: 'list', ordered: true, items: [{ blocks: [{ is: 'paragraph', spans: [] }] }] },
      { is: 'quote', blocks: [{ is: 'code', text: 'x' }] },
      { is: 'rule' },
      { is: 'entry', entry: id('a') },
      { is: 'asset', asset: id('p') },
    ],
  }
  const upgraded = upgradeRichText(earlier) as RichText
  it('are read in the form of now, with the same ids each time', () => {
    expect(upgradeRichText(earlier)).toEqual(upgraded)
    expect(upgraded.children.map(({ type, data }: RichBlock) => [type, data.id])).toEqual([
      ['heading', 'b1'],
      ['paragraph', 'b2'],
      ['list', 'b3'],
      ['blockquote', 'b6'],
      ['thematicBreak', 'b8'],
      ['paragraph', 'b9'],
      ['paragraph', 'b10'],
    ])
    expect(upgraded.children[1]).toMatchObject({
      children: [
        { type: 'strong', children: [{ type: 'delete', children: [text('bc'), { type: 'break' }, text('d')] }] },
        { type: 'link', url: '/x', children: [text(' e')] },
        { type: 'link', url: '', data: { entry: id('a') }, children: [text(' f')] },
      ],
    })
    expect(referencesIn(upgraded)).toEqual({ entries: [id('a')], assets: [id('p')] })
  })
  it('are in the one stored form then, so that nothing seems to have changed', () =>
    expect(documentOf(upgraded)).toEqual(upgraded))
  it('are found inside what a browser kept, and nothing else is touched', () => {
    expect(upgradeRichTextIn({ at: 'x', values: { story: { en: earlier } }, blocks: [1] })).toEqual({
      at: 'x',
      values: { story: { en: upgraded } },
      blocks: [1],
    })
    expect(upgradeRichText(upgraded)).toBe(upgraded)
  })
})
