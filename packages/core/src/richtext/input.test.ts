import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { toHtml, toMarkdown } from './print.js'
import { readRichText } from './reading.js'
import type { RichText } from './document.js'

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
const wrongIn = (value: unknown): string => {
  const result = read(value)
  return 'wrong' in result ? result.wrong : ''
}
const markdown = (text: string) => toHtml(documentOf({ markdown: text }))
const html = (text: string) => toHtml(documentOf({ html: text }))
const entry = 'a'.repeat(20)

describe('rich text sent as Markdown', () => {
  it('becomes the tree that it says', () => {
    expect(
      markdown('# Room 1\n\nLit *every*\n~~day~~ **night**.\n\n- one\n- two\n\n> kept\n\n---\n\n```sh\na < b\n```'),
    ).toBe(
      [
        '<h2>Room 1</h2>',
        '<p>Lit <em>every</em> <del>day</del> <strong>night</strong>.</p>',
        '<ul>\n<li>one</li>\n<li>two</li>\n</ul>',
        '<blockquote>\n<p>kept</p>\n</blockquote>',
        '<hr>',
        '<pre><code class="language-sh">a &lt; b\n</code></pre>',
      ].join('\n'),
    )
  })

  it('names entries and assets by their ids', () => {
    const { children } = documentOf({ markdown: `See [the light](entry:${entry}) and ![](asset:${entry}).` })
    expect(JSON.stringify(children)).toContain(`"data":{"entry":"${entry}"}`)
    expect(JSON.stringify(children)).toContain(`{"type":"image","url":"","data":{"asset":"${entry}"}}`)
  })

  it('follows definitions of addresses', () => {
    expect(markdown('See [the site][s].\n\n[s]: https://marram.example')).toBe(
      '<p>See <a href="https://marram.example">the site</a>.</p>',
    )
  })

  it('takes an image from elsewhere for a link to it', () => {
    expect(markdown('![A lamp](https://marram.example/lamp.png)')).toBe(
      '<p><a href="https://marram.example/lamp.png">A lamp</a></p>',
    )
  })

  it('refuses HTML in it, with the line', () => {
    expect(wrongIn({ markdown: 'one\n\n<script>alert(1)</script>' })).toMatch(/HTML in its Markdown, at line 3/)
    expect(wrongIn({ markdown: 'one <b>two</b>' })).toMatch(/at line 1/)
  })

  it('keeps the ids of blocks that are as they were', () => {
    const before = documentOf({ markdown: 'one\n\ntwo' })
    const after = documentOf({ markdown: 'zero\n\ntwo' }, before)
    expect(after.children[1]!.data.id).toBe(before.children[1]!.data.id)
  })

  it('reads what was printed as Markdown back to the same text', () => {
    const words = fc.stringMatching(/^[a-z&*_~`[\]()#>!.+-]{1,8}( [a-z*_~1.)-]{1,6}){0,3}$/)
    const span = fc.oneof(
      words.map((value) => ({ type: 'text', value })),
      words.map((value) => ({ type: 'strong', children: [{ type: 'text', value: `${value}x` }] })),
    )
    const paragraph = span.map((child) => ({ type: 'paragraph', children: [child] }))
    fc.assert(
      fc.property(fc.array(paragraph, { minLength: 1, maxLength: 4 }), (children) => {
        const document = documentOf({ type: 'root', children })
        expect(markdown(toMarkdown(document))).toBe(toHtml(document))
      }),
    )
  })
})

describe('rich text sent as HTML', () => {
  it('becomes the tree that it says', () => {
    expect(
      html(
        '<h1>Room 1</h1><div><p>Lit <i>every</i><br>night, <a href="/museums/x">see</a></p></div><ul><li>one<li>two</ul><h6>End</h6>',
      ),
    ).toBe(
      '<h2>Room 1</h2>\n<p>Lit <em>every</em><br>\nnight, <a href="/museums/x">see</a></p>\n<ul>\n<li>one</li>\n<li>two</li>\n</ul>\n<h4>End</h4>',
    )
  })

  it('keeps the text of tables, a paragraph a row', () => {
    expect(html('<table><tr><th>Day<th>Hours</tr><tr><td>Friday<td>10 to 17</tr></table>')).toBe(
      '<p>Day | Hours</p>\n<p>Friday | 10 to 17</p>',
    )
  })

  it('keeps nothing that runs', () => {
    for (const hostile of [
      '<script>alert(1)</script>',
      '<style>p{background:url(javascript:alert(1))}</style>',
      '<p onclick="alert(1)">Hi</p>',
      '<img src=x onerror=alert(1)>',
      '<svg><script>alert(1)</script></svg>',
      '<iframe srcdoc="<script>alert(1)</script>"></iframe>',
      '<template><script>alert(1)</script></template>',
      '<p><a href="https://a.example" onmouseover="alert(1)">x</a></p>',
    ])
      expect(html(hostile).replace('<p>Hi</p>', ''), hostile).not.toMatch(/alert|javascript|on\w+=/)
    expect(wrongIn({ html: '<a href="javascript:alert(1)">x</a>' })).toMatch(
      /link to `javascript:alert\(1\)`: it must begin/,
    )
    expect(wrongIn({ html: '<a href=" &#106;avascript:alert(1)">x</a>' })).toMatch(/it must begin/)
  })

  it('is read or refused, whatever is sent', () => {
    const piece = fc.constantFrom(
      '<p>',
      '</p>',
      '<b>',
      '</i>',
      '<li>',
      '<ul>',
      '<td>',
      '<a href=/x>',
      'word',
      ' ',
      '<',
      '&lt',
      '<!--',
      '<h1 ',
    )
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 40 }), (pieces) => {
        const result = read({ html: pieces.join('') })
        if ('wrong' in result) expect(result.wrong).toMatch(/nests|must begin/)
        else expect(read(result.document)).toEqual(result)
      }),
    )
  })
})

describe('rich text sent in another form', () => {
  it('is refused where it cannot be meant', () => {
    expect(wrongIn({ markdown: 'x', html: '<p>x' })).toMatch(/alone/)
    expect(wrongIn({ markdown: 7 })).toMatch(/must have a text in `markdown`/)
    expect(wrongIn({ markdown: '', note: 1 })).toMatch(/without `note` beside it/)
    expect(wrongIn({ html: '<div>'.repeat(101) })).toMatch(/nests more than 100 elements/)
    expect(wrongIn({ markdown: '> '.repeat(14) + 'deep' })).toMatch(/nests more than 12 deep/)
    expect(wrongIn({ markdown: 'a'.repeat(200_001) })).toMatch(/at most 200000 fit/)
    expect(wrongIn({ markdown: '**a*'.repeat(2000) })).toMatch(/more Markdown marks than are read/)
  })

  it('may be empty', () => {
    expect(documentOf({ markdown: ' \n' }).children).toEqual([])
    expect(documentOf({ html: '<p> </p>' }).children).toEqual([])
  })
})
