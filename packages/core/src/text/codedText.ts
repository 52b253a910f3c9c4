import { canonicalText, type SegmentPiece, type SegmentText } from './segmentText.js'

/*
 * Texts with inline codes as one line that people can type: `<1>bold</1>`, and `<2/>` for a code that stands alone. A backslash before
 * such a code, or before another backslash in front of it, makes it ordinary text.
 */

const codePattern = /<(\/?)([A-Za-z0-9._-]{1,32})(\/?)>/g

/** How many backslashes stand right before a place, and not before another. Counted by hand: a pattern would look at long runs again and again. */
function slashesBefore(text: string, end: number, start: number): number {
  let at = end
  while (at > start && text[at - 1] === '\\') at--
  return end - at
}

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
      const slashes = isBeforeCode ? slashesBefore(piece, piece.length, 0) : 0
      return escaped(piece) + '\\'.repeat(slashes)
    })
    .join('')

/** Backslashes before something that looks like a code are doubled, and one more makes it text. */
function escaped(text: string): string {
  const parts: string[] = []
  let from = 0
  for (const match of text.matchAll(codePattern)) {
    const slashes = slashesBefore(text, match.index, from)
    parts.push(text.slice(from, match.index), '\\'.repeat(slashes + 1), match[0])
    from = match.index + match[0].length
  }
  return parts.join('') + text.slice(from)
}

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
    const [all, closes, code, alone] = match as unknown as [string, string, string, string]
    const at = match.index
    const slashes = slashesBefore(text, at, from)
    const isText = slashes % 2 === 1
    add(text.slice(from, at - slashes) + '\\'.repeat(Math.floor(slashes / 2)))
    from = at + all.length
    if (isText || !codes.has(code) || (closes && alone)) add(all)
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
