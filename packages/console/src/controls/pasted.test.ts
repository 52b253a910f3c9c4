import { describe, expect, it } from 'vitest'
import { cleanPasted } from './pasted'

describe('what is pasted', () => {
  it('keeps headings, lists, links and marks, and nothing that only decorates', () => {
    expect(
      cleanPasted(
        '<meta charset="utf-8"><h1 style="color:red" class="x">Tides</h1><p><span style="font-size:9pt">Low <b>water</b></span></p><ul><li>one</li></ul>',
      ),
    ).toBe('<h2>Tides</h2><p>Low <b>water</b></p><ul><li>one</li></ul>')
    expect(
      cleanPasted('<p><a href="https://marram.example" onclick="x()">site</a> <a href="javascript:x()">no</a></p>'),
    ).toBe('<p><a href="https://marram.example">site</a> no</p>')
  })
  it('says what was only drawn: bold, italics, and what is not bold after all', () => {
    expect(cleanPasted('<p><span style="font-weight:700">a</span> <span style="font-style:italic">b</span></p>')).toBe(
      '<p><strong>a</strong> <em>b</em></p>',
    )
    expect(cleanPasted('<b style="font-weight:normal"><p>all of it</p></b>')).toBe('<p>all of it</p>')
  })
  it('makes lists of paragraphs that were drawn as lists, at any depth', () => {
    const item = (level: number, sign: string, text: string) =>
      `<p class="MsoListParagraph" style="mso-list:l0 level${level} lfo1"><span style="mso-list:Ignore">${sign}<span>&nbsp;&nbsp;</span></span>${text}</p>`
    expect(
      cleanPasted(`<p>Before</p>${item(1, '·', 'one')}${item(2, 'o', 'inner')}${item(1, '·', 'two')}<p>After</p>`),
    ).toBe('<p>Before</p><ul><li>one<ul><li>inner</li></ul></li><li>two</li></ul><p>After</p>')
  })
  it('takes out scripts, comments and empty paragraphs', () => {
    expect(
      cleanPasted(
        '<!--StartFragment--><p>&nbsp;</p><p>x</p><script>alert(1)</script><style>p{}</style><o:p></o:p><!--End-->',
      ),
    ).toBe('<p>x</p>')
  })
  it('unwraps frames, and makes paragraphs of words in them', () => {
    expect(cleanPasted('<div class="page"><div>one</div><div><p>two</p></div></div>')).toBe('<p>one</p><p>two</p>')
  })
  it('is done with a megabyte of it', () => {
    const much = `<p style="x">${'word '.repeat(10)}</p>`.repeat(16_000)
    expect(much.length).toBeGreaterThan(1_000_000)
    expect(cleanPasted(much).match(/<p>/g)?.length).toBeGreaterThan(15_000)
  })
})
