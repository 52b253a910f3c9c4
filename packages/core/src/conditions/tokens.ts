import { WisteriaError } from '../base/errors.js'
import { placeIn } from '../text/place.js'
import { instantOf, isDate } from '../text/time.js'

/** An error in a condition: line and column count from 1. */
export function conditionError(text: string, at: number, message: string): WisteriaError {
  const { line, column, said } = placeIn(text, at)
  return new WisteriaError('badCondition', `${message} (${said})`, {
    problems: [{ code: 'badCondition', message, line, column }],
  })
}

/** A piece of a condition or an expression. */
export interface Token {
  readonly is: 'name' | 'text' | 'number' | 'date' | 'dateTime' | 'sign' | 'end'
  readonly text: string
  readonly value?: string | number
  readonly at: number
}

type Forms = readonly (readonly [Token['is'] | 'space', RegExp])[]

const conditionForms: Forms = [
  ['space', /\s+/y],
  ['dateTime', /\d{4}-\d{2}-\d{2}[Tt][\d:.]+([Zz]|[+-]\d{2}:\d{2})?/y],
  ['date', /\d{4}-\d{2}-\d{2}(?![\d-])/y],
  ['number', /-?\d+(\.\d+)?([eE][+-]?\d+)?/y],
  ['name', /[\p{L}_][\p{L}\p{N}_]*/uy],
  ['text', /"(?:[^"\\]|\\.)*"/sy],
  ['sign', /!=|<=|>=|[=<>()[\],.+-]/y],
]
/** Expressions also calculate and join. */
const expressionForms: Forms = [...conditionForms, ['sign', /[*/&]/y]]

/** The longest text, in characters. */
const maxLength = 10_000

/**
 * The tokens of a condition or an expression; the last one is its end.
 * @throws WisteriaError `badCondition` where something belongs in neither.
 */
export function tokenize(text: string, what: 'condition' | 'expression'): Token[] {
  if (text.length > maxLength)
    throw conditionError(
      text,
      maxLength,
      `${what === 'condition' ? 'A condition' : 'An expression'} has at most ${maxLength} characters.`,
    )
  const forms = what === 'condition' ? conditionForms : expressionForms
  const tokens: Token[] = []
  let at = 0
  while (at < text.length) {
    const token = match(text, at, forms)
    if (!token) {
      const letter = String.fromCodePoint(text.codePointAt(at)!)
      const message =
        letter === '"'
          ? 'This text has no closing quote.'
          : letter === "'"
            ? 'Write texts in double quotes.'
            : `\`${letter}\` does not belong in ${what === 'condition' ? 'a condition' : 'an expression'}.`
      throw conditionError(text, at, message)
    }
    const [is, written] = token
    if (is !== 'space') tokens.push(tokenOf(text, is, written, at))
    at += written.length
  }
  tokens.push({ is: 'end', text: '', at: text.length })
  return tokens
}

function match(text: string, at: number, forms: Forms): [Token['is'] | 'space', string] | undefined {
  for (const [is, form] of forms) {
    form.lastIndex = at
    const match = form.exec(text)
    if (match) return [is, match[0]]
  }
  return undefined
}

function tokenOf(text: string, is: Token['is'], written: string, at: number): Token {
  switch (is) {
    case 'text': {
      let value: string
      try {
        value = JSON.parse(written.replaceAll('\n', '\\n').replaceAll('\r', '\\r').replaceAll('\t', '\\t')) as string
      } catch {
        throw conditionError(
          text,
          at,
          'This text has an escape that JSON does not know; a backslash is written `\\\\`.',
        )
      }
      return { is, text: written, value, at }
    }
    case 'number': {
      const value = Number(written)
      if (!Number.isFinite(value)) throw conditionError(text, at, 'This number is too large.')
      return { is, text: written, value, at }
    }
    case 'date':
      if (!isDate(written)) throw conditionError(text, at, `\`${written}\` is not a day that exists.`)
      return { is, text: written, value: written, at }
    case 'dateTime': {
      const instant = instantOf(written)
      if (instant === undefined)
        throw conditionError(
          text,
          at,
          `\`${written}\` is not an instant: it needs an offset, such as \`2031-05-04T20:30:00Z\`.`,
        )
      return { is, text: written, value: instant, at }
    }
    default:
      return { is, text: written, at }
  }
}
