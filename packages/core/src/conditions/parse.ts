import { didYouMean } from '../text/nearest.js'
import type { WrittenCondition, Operand, Operator, WrittenPath } from './written.js'
import { conditionError, tokenize, type Token } from './tokens.js'

const maxDepth = 64
const maxTests = 200
const maxListItems = 500
const moments = ['now', 'today'] as const

/**
 * Parses a condition.
 * @throws WisteriaError `badCondition` with the position of the first error.
 */
export const parseCondition = (text: string): WrittenCondition => read(text, 'condition') as WrittenCondition

/**
 * Parses a moment alone: `now`, `today + 7 days`.
 * @throws WisteriaError `badCondition` with the position of the first error.
 */
export const parseMoment = (text: string): Operand & { readonly is: 'moment' } =>
  read(text, 'moment') as Operand & { readonly is: 'moment' }

function read(text: string, what: 'condition' | 'moment'): WrittenCondition | Operand {
  const tokens = tokenize(text, 'condition')
  let index = 0
  let tests = 0
  const peek = (): Token => tokens[index]!
  const fail = (message: string, token = peek()): never => {
    throw conditionError(text, token.at, message)
  }
  const isWord = (word: string, token = peek()): boolean => token.is === 'name' && token.text === word
  const isMoment = (token: Token): boolean => token.is === 'name' && (moments as readonly string[]).includes(token.text)
  const isSign = (sign: string, token = peek()): boolean => token.is === 'sign' && token.text === sign
  const seen = (token = peek()): string => (token.is === 'end' ? 'the end' : `\`${token.text.slice(0, 40)}\``)
  const takeSign = (sign: string, why: string): void => {
    if (!isSign(sign)) fail(`Expected \`${sign}\` ${why}, found ${seen()}.`)
    index++
  }

  const either = (depth: number): WrittenCondition => joined('or', depth, both)
  const both = (depth: number): WrittenCondition => joined('and', depth, negated)
  const joined = (word: 'and' | 'or', depth: number, part: (depth: number) => WrittenCondition): WrittenCondition => {
    const parts = [part(depth)]
    while (isWord(word)) {
      index++
      parts.push(part(depth))
    }
    return parts.length === 1 ? parts[0]! : { is: word, of: parts }
  }
  const negated = (depth: number): WrittenCondition => {
    if (depth > maxDepth) fail(`A condition nests at most ${maxDepth} deep.`)
    if (!isWord('not')) return single(depth)
    index++
    return { is: 'not', of: negated(depth + 1) }
  }
  const single = (depth: number): WrittenCondition => {
    if (isSign('(')) {
      index++
      const inner = either(depth + 1)
      takeSign(')', 'to close the parenthesis')
      return inner
    }
    if (++tests > maxTests) fail(`A condition has at most ${maxTests} comparisons.`)
    if (isWord('any')) {
      index++
      const path = readPath()
      takeSign('(', 'after the field that `any` is about')
      const where = either(depth + 1)
      takeSign(')', 'to close `any`')
      return { is: 'any', path, where }
    }
    const path = readPath()
    const at = peek().at
    const operator = readOperator(path)
    if (operator === 'has value' || operator === 'has no value') return { is: 'test', path, operator, at }
    return { is: 'test', path, operator, operand: operator === 'in' ? readList() : readOperand(), at }
  }
  const readPath = (): WrittenPath => {
    const first = peek()
    if (first.is !== 'name')
      fail(
        first.is === 'end'
          ? 'The condition ends where a field was expected.'
          : `Expected the name of a field, found ${seen()}.`,
      )
    if (['and', 'or', 'in', 'contains', 'true', 'false'].includes(first.text))
      fail(`Expected the name of a field, found the word \`${first.text}\`.`)
    if (isMoment(first)) fail(`\`${first.text}\` goes on the right of a comparison.`)
    index++
    const names = [first.text]
    while (isSign('.')) {
      index++
      if (peek().is !== 'name') fail(`Expected the name of a field after \`.\`, found ${seen()}.`)
      names.push(tokens[index++]!.text)
    }
    return { names, at: first.at }
  }
  const readOperator = (path: WrittenPath): Operator => {
    const token = peek()
    const place = path.names.join('.')
    if (token.is === 'sign' && ['=', '!=', '<', '<=', '>', '>='].includes(token.text)) {
      index++
      return token.text as Operator
    }
    if (isWord('in') || isWord('contains')) {
      index++
      return token.text as Operator
    }
    if (isWord('starts')) {
      index++
      if (!isWord('with')) fail(`Expected \`starts with\`, found \`starts\` and ${seen()}.`)
      index++
      return 'starts with'
    }
    if (isWord('has')) {
      index++
      const no = isWord('no')
      if (no) index++
      if (!isWord('value')) fail(`Expected \`has value\` or \`has no value\`, found ${seen()}.`)
      index++
      return no ? 'has no value' : 'has value'
    }
    if (token.is === 'name')
      fail(
        `\`${token.text}\` is not an operator.${didYouMean(token.text, ['in', 'contains', 'starts with', 'has value', 'and', 'or'])}`,
      )
    return fail(
      `Expected an operator after \`${place}\` (= != < <= > >=, in, contains, starts with, has value, has no value), found ${seen()}.`,
    )
  }
  const readList = (): Operand => {
    const at = peek().at
    takeSign('[', 'to begin the list after `in`')
    const items: Operand[] = []
    while (!isSign(']')) {
      if (items.length > 0) takeSign(',', 'between the items of the list')
      items.push(readOperand())
      if (items.length > maxListItems) fail(`A list has at most ${maxListItems} items.`)
    }
    index++
    return { is: 'list', of: items, at }
  }
  const readOperand = (): Operand => {
    const token = peek()
    if (token.is === 'text' || token.is === 'number' || token.is === 'date' || token.is === 'dateTime') {
      index++
      return { is: token.is, value: token.value!, at: token.at }
    }
    if (isWord('true') || isWord('false')) {
      index++
      return { is: 'boolean', value: token.text === 'true', at: token.at }
    }
    if (isMoment(token)) {
      index++
      return readMoment(token)
    }
    if (token.is === 'name') {
      const { names } = readPath()
      const last = tokens[index - 1]!
      return { is: 'path', names, at: token.at, end: last.at + last.text.length }
    }
    return fail(`Expected a value, found ${seen()}.`)
  }
  const readMoment = (token: Token): Operand => {
    let minutes = 0
    let days = 0
    // `today -7 days` reads its sign as part of the number.
    while (isSign('+') || isSign('-') || (peek().is === 'number' && (peek().value as number) < 0)) {
      const sign = peek().is === 'sign' ? (tokens[index++]!.text === '-' ? -1 : 1) : 1
      const amount = peek()
      if (amount.is !== 'number' || !Number.isInteger(amount.value) || Math.abs(amount.value as number) > 1_000_000)
        fail(`Expected a whole number of days, weeks, hours or minutes, found ${seen()}.`)
      index++
      const unit = peek().text
      const size = { minute: 1, hour: 60, day: 1, week: 7 }[unit.replace(/s$/, '')]
      if (size === undefined) fail(`Expected days, weeks, hours or minutes after ${amount.text}, found ${seen()}.`)
      index++
      const total = sign * (amount.value as number) * size!
      if (/^(minute|hour)/.test(unit)) {
        if (token.text === 'today') fail('`today` is a whole day: add days or weeks to it, or use `now`.', amount)
        minutes += total
      } else days += total
    }
    return { is: 'moment', base: token.text as 'now' | 'today', minutes, days, at: token.at }
  }

  if (peek().is === 'end') fail(`The ${what} is empty.`)
  if (what === 'moment' && !isMoment(peek())) fail(`Expected \`now\` or \`today\`, found ${seen()}.`)
  const whole = what === 'moment' ? readMoment(tokens[index++]!) : either(0)
  if (peek().is !== 'end')
    fail(isSign(')') ? 'This parenthesis closes nothing.' : `Expected \`and\`, \`or\` or the end, found ${seen()}.`)
  return whole
}
