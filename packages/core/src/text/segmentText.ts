/*
 * A unit of translation as XLIFF has it: running text with inline codes. A code is a pair around text (`pc`), such as bold, or stands
 * in place of text (`ph`), such as a picture. The text has only the ids of its codes; their meaning stays with the source.
 */

export type SegmentPiece = string | { readonly code: string; readonly inside?: SegmentText }
export type SegmentText = readonly SegmentPiece[]

/** The text alone, without codes. */
export const wordsOf = (text: SegmentText): string =>
  text.map((piece) => (typeof piece === 'string' ? piece : wordsOf(piece.inside ?? []))).join('')

/** Whether a text says nothing: then it is no translation. */
export const hasNoWords = (text: SegmentText): boolean => wordsOf(text).trim() === ''

/** The one form of a text: without empty pieces, neighbouring texts joined. */
export function canonicalText(text: SegmentText): SegmentText {
  const pieces: SegmentPiece[] = []
  for (const piece of text) {
    const last = pieces.at(-1)
    if (typeof piece !== 'string')
      pieces.push(piece.inside ? { code: piece.code, inside: canonicalText(piece.inside) } : { code: piece.code })
    else if (typeof last === 'string') pieces[pieces.length - 1] = last + piece
    else if (piece !== '') pieces.push(piece)
  }
  return pieces
}

/** The deepest that codes are inside each other. */
const maxDepth = 20

/** Whether something is a text with codes: strings, and codes with an id that may enclose a text. */
export const isSegmentText = (value: unknown, depth = 0): value is SegmentText =>
  Array.isArray(value) &&
  depth <= maxDepth &&
  value.every((piece: unknown) => {
    if (typeof piece === 'string') return true
    if (typeof piece !== 'object' || piece === null) return false
    const { code, inside, ...rest } = piece as Record<string, unknown>
    if (typeof code !== 'string' || code === '' || code.length > 32 || Object.keys(rest).length > 0) return false
    return inside === undefined || isSegmentText(inside, depth + 1)
  })

/** The ids of the codes in a text, in their order, each as often as it is there; pairs and single ones apart. */
export function* codesIn(text: SegmentText): Generator<{ code: string; isPair: boolean }> {
  for (const piece of text) {
    if (typeof piece === 'string') continue
    yield { code: piece.code, isPair: piece.inside !== undefined }
    if (piece.inside) yield* codesIn(piece.inside)
  }
}

/** The difference between the codes of a translation and those of its source. */
export interface CodeFault {
  readonly is: 'missing' | 'unknown' | 'twice' | 'otherForm'
  readonly code: string
}

/** The faults in the codes of a translation: each code of the source must be there once, as a pair or alone as in the source. */
export function codeFaults(source: SegmentText, translation: SegmentText): CodeFault[] {
  const wanted = new Map([...codesIn(source)].map(({ code, isPair }) => [code, isPair]))
  const seen = new Set<string>()
  const faults: CodeFault[] = []
  for (const { code, isPair } of codesIn(translation)) {
    const form = wanted.get(code)
    if (form === undefined) faults.push({ is: 'unknown', code })
    else if (seen.has(code)) faults.push({ is: 'twice', code })
    else if (form !== isPair) faults.push({ is: 'otherForm', code })
    seen.add(code)
  }
  for (const code of wanted.keys()) if (!seen.has(code)) faults.push({ is: 'missing', code })
  return faults
}
