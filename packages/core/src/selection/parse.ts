import { WisteriaError } from '../base/errors.js'
import { placeIn } from '../text/place.js'

/** One item of a selection as written. Positions are offsets into the text. */
export type SelectionItem =
  /** `*`: every field that is not named beside it. */
  | { readonly is: 'all'; readonly at: number }
  /** `@picture(…)`: the selection for entries or blocks of one type. */
  | { readonly is: 'of'; readonly name: string; readonly at: number; readonly inside: readonly SelectionItem[] }
  | WrittenField

/** `title`, `contact.phone`, `museum(name, town)`, `body(as: html)`. */
export interface WrittenField {
  readonly is: 'field'
  readonly names: readonly string[]
  readonly at: number
  readonly options: readonly WrittenOption[]
  /** Undefined without parentheses, or with nothing but options in them. */
  readonly inside: readonly SelectionItem[] | undefined
}

export interface WrittenOption {
  readonly name: string
  readonly value: string
  readonly at: number
}

/** Selections longer than this, or with more items, or deeper, are refused. */
export const selectionLimits = { characters: 4000, items: 300, depth: 8 } as const

/** An error at a place of a selection. */
export function selectionError(text: string, at: number, message: string): WisteriaError {
  const { line, column, said: place } = placeIn(text, at)
  return new WisteriaError('badSelection', `\`pick\`: ${message} (${place})`, {
    problems: [{ code: 'badSelection', message, line, column }],
  })
}

const word = /[A-Za-z_$][A-Za-z0-9_]*/y
const value = /"([^"\\]|\\.)*"|[A-Za-z0-9_./+-]+/y

/**
 * Reads a selection: `title, museum(name, town), body(as: html), cover(w: 640, format: webp)`.
 * @throws WisteriaError `badSelection` with the position.
 */
export function parseSelection(text: string): SelectionItem[] {
  const fail = (at: number, message: string): never => {
    throw selectionError(text, at, message)
  }
  if (text.length > selectionLimits.characters)
    fail(
      selectionLimits.characters,
      `The selection is longer than ${selectionLimits.characters} characters: ask for less.`,
    )
  let at = 0
  let count = 0
  const skip = (): void => {
    while (/\s/.test(text[at] ?? '')) at++
  }
  const match = (pattern: RegExp): string | undefined => {
    pattern.lastIndex = at
    const match = pattern.exec(text)?.[0]
    if (match !== undefined) at += match.length
    return match
  }
  const seen = (): string => (at >= text.length ? 'the end' : `\`${text[at]}\``)

  const items = (depth: number, options: WrittenOption[] | undefined): SelectionItem[] => {
    if (depth > selectionLimits.depth) fail(at, `A selection nests at most ${selectionLimits.depth} deep.`)
    const all: SelectionItem[] = []
    for (;;) {
      skip()
      if (++count > selectionLimits.items) fail(at, `A selection has at most ${selectionLimits.items} items.`)
      item(depth, all, options)
      skip()
      if (text[at] !== ',') return all
      at++
    }
  }
  const parentheses = (depth: number, options: WrittenOption[] | undefined): SelectionItem[] => {
    at++
    const inside = items(depth + 1, options)
    if (text[at] !== ')') fail(at, `A \`,\` or \`)\` is missing before ${seen()}.`)
    at++
    return inside
  }
  const item = (depth: number, all: SelectionItem[], options: WrittenOption[] | undefined): void => {
    const from = at
    if (text[at] === '*') {
      at++
      all.push({ is: 'all', at: from })
      return
    }
    if (text[at] === '@') {
      at++
      const name = match(word) ?? fail(at, `The name of a type or block is missing after \`@\`, before ${seen()}.`)
      skip()
      const inside = text[at] === '(' ? parentheses(depth, undefined) : [{ is: 'all' as const, at: from }]
      all.push({ is: 'of', name, at: from, inside })
      return
    }
    const names = [match(word) ?? fail(at, `The name of a field is missing before ${seen()}.`)]
    while (text[at] === '.') {
      at++
      names.push(match(word) ?? fail(at, `The name of a field is missing before ${seen()}.`))
    }
    skip()
    if (text[at] === ':') {
      if (!options || names.length > 1)
        return fail(at, 'An option goes in the parentheses of a field: `body(as: html)`.')
      at++
      skip()
      const valueAt = at
      const written = match(value) ?? fail(at, `The value of \`${names[0]}\` is missing before ${seen()}.`)
      const plain = written.startsWith('"') ? written.slice(1, -1).replaceAll(/\\(.)/g, '$1') : written
      options.push({
        name: names[0]!,
        value: plain,
        at: options.some((option) => option.name === names[0]) ? from : valueAt,
      })
      return
    }
    const own: WrittenOption[] = []
    const inside = text[at] === '(' ? parentheses(depth, own) : []
    all.push({ is: 'field', names, at: from, options: own, inside: inside.length > 0 ? inside : undefined })
  }

  skip()
  if (at >= text.length) fail(0, 'Nothing is chosen: name fields, such as `title, slug`, or `*` for all.')
  const all = items(1, undefined)
  if (at < text.length) fail(at, `A \`,\` is missing before ${seen()}.`)
  return all
}
