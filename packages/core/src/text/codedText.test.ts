import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { printCoded, readCoded } from './codedText.js'
import { canonicalText, codesIn, type SegmentPiece, type SegmentText } from './segmentText.js'

const read = (text: string, codes = ['1', '2']) => readCoded(text, new Set(codes))

describe('a text with its codes written out', () => {
  it('has pairs and codes alone', () => {
    expect(read('A <1>night</1> walk<2/>')).toEqual({
      text: ['A ', { code: '1', inside: ['night'] }, ' walk', { code: '2' }],
    })
  })
  it('keeps what only looks like a code', () => {
    expect(read('a < b, <b>, <9>')).toEqual({ text: ['a < b, <b>, <9>'] })
    expect(read('\\<1>')).toEqual({ text: ['<1>'] })
    expect(read('C:\\\\<2/>')).toEqual({ text: ['C:\\', { code: '2' }] })
    expect(read('a \\ b')).toEqual({ text: ['a \\ b'] })
  })
  it.each([
    ['<1>night', { is: 'unclosed', code: '1', at: 0 }],
    ['night</1>', { is: 'unopened', code: '1', at: 5 }],
    ['<1><2>a</1></2>', { is: 'crossed', code: '1', at: 7 }],
  ])('tells what is wrong in %s', (text, fault) => expect(read(text)).toEqual({ fault }))

  const { piece } = fc.letrec<{ piece: SegmentPiece; text: SegmentPiece[] }>((tie) => ({
    piece: fc.oneof(
      { depthSize: 'small' },
      fc.string({ unit: fc.constantFrom('a', '<', '>', '/', '\\', '1', ' ', '<1>', '</2>') }),
      fc.record({ code: fc.constantFrom('1', '2', '3') }),
      fc.record({ code: fc.constantFrom('1', '2', '3'), inside: tie('text') }),
    ),
    text: fc.array(tie('piece'), { maxLength: 4 }),
  }))
  it('is read in linear time, however many backslashes it has', () => {
    // A pattern that counted them would take minutes.
    const slashes = '\\'.repeat(400_000)
    expect(read(slashes)).toEqual({ text: [slashes] })
    expect(printCoded([{ code: '1', inside: [slashes + 'a'] }])).toHaveLength(slashes.length + 8)
  })
  it('reads back what it printed', () => {
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 5 }), (pieces) => {
        const text: SegmentText = canonicalText(pieces)
        const codes = new Set([...codesIn(text)].map(({ code }) => code))
        expect(readCoded(printCoded(text), codes)).toEqual({ text })
      }),
    )
  })
})
