import { canonicalText, type SegmentPiece, type SegmentText } from './segmentText.js'

/*
 * Texts with inline codes as one line that people can type: `<1>bold</1>`, and `<2/>` for a code that stands alone. A backslash before
 * such a code, or before another backslash in front of it, makes it ordinary text.
 */

const codePattern = /(\\*)<(\/?)([A-Za-z0-9._-]{1,32})(\/?)>/g

/** The text with its codes written out. */
export const printCoded = (text: SegmentText): string => printed(text, false)

const printed = (text: SegmentText, isInside: boolean): string =>
  text
    .map((piece, index) => {
      if (typeof piece !== 'string')
        return piece.inside === undefined
          ? `<${piece.code}/>`
          : `<${piece.code}>${printed(piece.inside, true)}</${piece.code}>`
      const isBeforeCode = isInside || index < text.length - 1
      return isBeforeCode ? escaped(piece).replace(/\\+$/, (slashes) => slashes + slashes) : escaped(piece)
    })
    .join('')

/** Backslashes before something that looks like a code are doubled, and one more makes it text. */
const escaped = (text: string): string =>
  text.replace(
    codePattern,
    (match, slashes: string) => '\\'.repeat(slashes.length * 2 + 1) + match.slice(slashes.length),
  )

/** A text that cannot be read, and where: the position counts from 0. */
export interface CodedTextFault {
  readonly is: 'unopened' | 'unclosed' | 'crossed'
  readonly code: string
  readonly at: number
}

/**
 * Reads a text with its codes written out.
 * @param codes the ids of the codes of the source: other things in angle brackets are ordinary text.
 */
export function readCoded(text: string, codes: ReadonlySet<string>): { text: SegmentText } | { fault: CodedTextFault } {
  interface Open {
    readonly code: string
    readonly at: number
    readonly pieces: SegmentPiece[]
  }
  const root: Open = { code: '', at: 0, pieces: [] }
  const open: Open[] = [root]
  let from = 0
  const add = (piece: SegmentPiece): void => void open.at(-1)!.pieces.push(piece)
  for (const match of text.matchAll(codePattern)) {
    const [all, slashes, closes, code, alone] = match as unknown as [string, string, string, string, string]
    const at = match.index + slashes.length
    const isText = slashes.length % 2 === 1
    add(text.slice(from, match.index) + '\\'.repeat(Math.floor(slashes.length / 2)))
    from = match.index + all.length
    if (isText || !codes.has(code) || (closes && alone)) add(all.slice(slashes.length))
    else if (alone) add({ code })
    else if (!closes) open.push({ code, at, pieces: [] })
    else {
      const last = open.pop()!
      if (last === root) return { fault: { is: 'unopened', code, at } }
      if (last.code !== code) return { fault: { is: 'crossed', code, at } }
      add({ code, inside: last.pieces })
    }
  }
  const last = open.at(-1)!
  if (last !== root) return { fault: { is: 'unclosed', code: last.code, at: last.at } }
  add(text.slice(from))
  return { text: canonicalText(root.pieces) }
}

/** The fault in words. */
export const codedFaultMessage = ({ is, code }: CodedTextFault): string =>
  is === 'unclosed'
    ? `\`<${code}>\` has no \`</${code}>\` after it.`
    : is === 'unopened'
      ? `\`</${code}>\` has no \`<${code}>\` before it.`
      : `\`</${code}>\` closes inside another code. Close that one first.`
