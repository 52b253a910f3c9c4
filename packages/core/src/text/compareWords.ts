import { diffArrays } from 'diff'

/** A piece of text that both sides have, or only one. */
export interface Piece {
  readonly is: 'same' | 'added' | 'removed'
  readonly text: string
}

/** With more differing words than this two texts have little in common, and everything between their common ends is one change. */
const maxDiffering = 1000

const segmenters = new Map<string, Intl.Segmenter>()

/** Words, spaces and signs, as the language divides them (UAX 29): nothing is lost, joined again they are the text. */
function tokensOf(text: string, locale: string): string[] {
  const cached = segmenters.get(locale) ?? new Intl.Segmenter(locale, { granularity: 'word' })
  segmenters.set(locale, cached)
  return Array.from(cached.segment(text), ({ segment }) => segment)
}

/**
 * Compares two texts word by word. Removed words come before added ones in the same place; a space between two changed words
 * belongs to the change.
 * @param locale BCP 47, for word boundaries.
 */
export function compareWords(before: string, after: string, locale = 'en'): Piece[] {
  const [old, now] = [tokensOf(before, locale), tokensOf(after, locale)]
  const runs = diffArrays(old, now, { maxEditLength: maxDiffering })
  const pieces = runs
    ? runs.map(({ added, removed, value }): Piece => ({
        is: added ? 'added' : removed ? 'removed' : 'same',
        text: value.join(''),
      }))
    : betweenEnds(old, now)
  return joined(pieces)
}

function betweenEnds(old: readonly string[], now: readonly string[]): Piece[] {
  const most = Math.min(old.length, now.length)
  let start = 0
  while (start < most && old[start] === now[start]) start++
  let end = 0
  while (end < most - start && old.at(-1 - end) === now.at(-1 - end)) end++
  const text = (tokens: readonly string[], from: number, to: number) => tokens.slice(from, to).join('')
  return [
    { is: 'same', text: text(old, 0, start) },
    { is: 'removed', text: text(old, start, old.length - end) },
    { is: 'added', text: text(now, start, now.length - end) },
    { is: 'same', text: text(old, old.length - end, old.length) },
  ]
}

/** Joins changes with only a space between them, removed words before added ones. */
function joined(pieces: readonly Piece[]): Piece[] {
  const all: Piece[] = []
  let [removed, added] = ['', '']
  const close = () => {
    if (removed !== '') all.push({ is: 'removed', text: removed })
    if (added !== '') all.push({ is: 'added', text: added })
    removed = added = ''
  }
  pieces.forEach(({ is, text }, index) => {
    if (text === '') return
    const isBetween = is === 'same' && index < pieces.length - 1 && removed + added !== '' && /^\s+$/.test(text)
    if (is === 'removed' || isBetween) removed += text
    if (is === 'added' || isBetween) added += text
    if (is !== 'same' || isBetween) return
    close()
    const last = all.at(-1)
    if (last?.is === 'same') all[all.length - 1] = { is, text: last.text + text }
    else all.push({ is, text })
  })
  close()
  return all
}
