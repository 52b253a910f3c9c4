import { WisteriaError } from '@wisteria/core'

/** Deeper than anything that content, models or questions need. */
export const maxNesting = 100

/**
 * Checks the nesting of a JSON text before it is parsed, byte by byte: endless nesting would crash the parser, and everything after
 * it.
 * @throws WisteriaError `badRequest` beyond `maxNesting` levels, with line and column.
 */
export function requireShallow(text: Uint8Array): void {
  let depth = 0
  let inString = false
  for (let at = 0; at < text.length; at++) {
    const byte = text[at]
    if (inString) {
      if (byte === 0x5c) at++
      else if (byte === 0x22) inString = false
    } else if (byte === 0x22) inString = true
    else if (byte === 0x5b || byte === 0x7b) {
      if (++depth > maxNesting) throw tooDeep(text, at)
    } else if (byte === 0x5d || byte === 0x7d) depth--
  }
}

function tooDeep(text: Uint8Array, at: number): WisteriaError {
  const before = text.subarray(0, at)
  const line = before.reduce((count, byte) => count + (byte === 0x0a ? 1 : 0), 1)
  const column = at - before.lastIndexOf(0x0a)
  const message = `Lists and objects nest at most ${maxNesting} deep: line ${line}, column ${column}.`
  return new WisteriaError('badRequest', message, { problems: [{ code: 'tooDeep', line, column, message }] })
}
