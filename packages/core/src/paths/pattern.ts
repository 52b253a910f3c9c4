/** A path pattern cut into literal text and placeholders. */
export type PatternPiece =
  | { readonly is: 'written'; readonly text: string }
  | { readonly is: 'field'; readonly name: string }
  | { readonly is: 'parent' }

/**
 * Splits a pattern such as `/nl/agenda/{slug}` at its slashes. A piece is either literal or one placeholder, so that a path can be
 * parsed.
 * @returns the pieces, or a sentence with the problem.
 */
export function readPattern(pattern: string): PatternPiece[] | string {
  if (!pattern.startsWith('/')) return 'must begin with `/`'
  if (pattern.length > 1 && pattern.endsWith('/')) return 'must not end with `/`'
  const pieces: PatternPiece[] = []
  for (const text of pattern.slice(1).split('/')) {
    if (text === '') return pattern === '/' ? [] : 'has an empty piece: two slashes in a row'
    const placeholder = /^\{([^{}]*)\}$/.exec(text)
    if (placeholder) {
      const name = placeholder[1]!
      if (!/^[a-z][A-Za-z0-9]*$/.test(name)) return `has a placeholder without a field's name: \`${text}\``
      pieces.push(name === 'parent' ? { is: 'parent' } : { is: 'field', name })
    } else if (/[{}?#%\s\\]/.test(text)) {
      return `has a piece that is neither plain text nor one placeholder: \`${text}\``
    } else pieces.push({ is: 'written', text })
  }
  return pieces
}

/** The value of a placeholder: text; null, empty on purpose, which leaves the piece out; undefined, missing. */
export type Filling = string | null | undefined

/**
 * Fills a pattern. `parentPath` is the parent's own path: the pieces before `{parent}` are part of it already, so
 * `/nl/{parent}/{slug}` under `/nl/visit` makes `/nl/visit/slug`.
 * @returns the path, or undefined when a value is missing.
 */
export function fillPattern(
  pieces: readonly PatternPiece[],
  fill: (field: string) => Filling,
  parentPath: Filling,
): string | undefined {
  let path = ''
  for (const piece of pieces) {
    if (piece.is === 'written') path += '/' + piece.text
    else if (piece.is === 'field') {
      const text = fill(piece.name)
      if (text === undefined) return undefined
      if (text !== null) path += '/' + text
    } else {
      if (parentPath === undefined) return undefined
      if (parentPath !== null) path = parentPath === '/' ? path : parentPath
    }
  }
  return path === '' ? '/' : path
}

/** The form in which a path is looked up: decoded, without a slash at the end. Undefined for a text that is no path. */
export function normalPath(path: string): string | undefined {
  if (!path.startsWith('/') || path.length > 2000) return undefined
  let decoded: string
  try {
    decoded = decodeURIComponent(path)
  } catch {
    return undefined
  }
  const normal = decoded.normalize('NFC')
  return normal.length > 1 ? normal.replace(/\/+$/, '') || '/' : normal
}
