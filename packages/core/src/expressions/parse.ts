import { conditionError, tokenize, type Token } from '../conditions/tokens.js'
import { didYouMean } from '../text/nearest.js'
import { functions, isFunction, type Arithmetic, type Expression, type TestOperator } from './grammar.js'

const maxDepth = 64
const maxParts = 1000
const comparisons: readonly string[] = ['=', '!=', '<', '<=', '>', '>=']
const units: Readonly<Record<string, { readonly minutes: number; readonly days: number }>> = {
  minute: { minutes: 1, days: 0 },
  hour: { minutes: 60, days: 0 },
  day: { minutes: 0, days: 1 },
  week: { minutes: 0, days: 7 },
}
const unitOf = (word: string) =>
  Object.hasOwn(units, word.replace(/s$/, '')) ? units[word.replace(/s$/, '')] : undefined
/** Words that are no names where a value is expected. */
const words = ['and', 'or', 'in', 'contains', 'starts', 'has']

/**
 * Parses an expression.
 * @throws WisteriaError `badCondition` with the position of the first error.
 */
export const parseExpression = (text: string): Expression => new Parser(text).whole()

/** A parser by recursive descent; what binds loosest comes first. */
class Parser {
  readonly #text: string
  readonly #tokens: readonly Token[]
  #index = 0
  #parts = 0

  constructor(text: string) {
    this.#text = text
    this.#tokens = tokenize(text, 'expression')
  }

  whole(): Expression {
    if (this.#isEnd) this.#fail('The expression is empty.')
    const whole = this.#either(0)
    if (!this.#isEnd)
      this.#fail(
        this.#isSign(')')
          ? 'This parenthesis closes nothing.'
          : `Expected an operator or the end, found ${this.#seen}.`,
      )
    return whole
  }

  #either(depth: number): Expression {
    return this.#logical('or', () => this.#logical('and', () => this.#negated(depth)))
  }

  #logical(word: 'and' | 'or', part: () => Expression): Expression {
    const parts = [part()]
    while (this.#takeWord(word)) parts.push(part())
    return parts.length === 1 ? parts[0]! : { is: word, of: parts }
  }

  #negated(depth: number): Expression {
    if (depth > maxDepth) this.#fail(`An expression nests at most ${maxDepth} deep.`)
    if (this.#takeWord('not')) return { is: 'not', of: this.#negated(depth + 1) }
    if (!this.#isWord('any') || this.#isSign('.', this.#next)) return this.#test(depth)
    const { at } = this.#take()
    const isPath = this.#peek.is === 'name' && !isFunction(this.#peek.text)
    const list = isPath ? this.#name(depth, true) : this.#single(depth)
    this.#takeSign('(', 'after the list that `any` is about')
    const where = this.#either(depth + 1)
    this.#takeSign(')', 'to close `any`')
    return { is: 'any', list, where, at }
  }

  #test(depth: number): Expression {
    const left = this.#joined(depth)
    const { at } = this.#peek
    const operator = this.#operator()
    if (operator === undefined) return left
    if (operator === 'has value' || operator === 'has no value') return { is: 'test', left, operator, at }
    return { is: 'test', left, operator, right: this.#joined(depth), at }
  }

  #operator(): TestOperator | undefined {
    const token = this.#peek
    if (token.is === 'sign' && comparisons.includes(token.text)) return this.#take().text as TestOperator
    if (this.#isWord('in') || this.#isWord('contains')) return this.#take().text as TestOperator
    if (this.#takeWord('starts')) {
      if (!this.#takeWord('with')) this.#fail(`Expected \`starts with\`, found \`starts\` and ${this.#seen}.`)
      return 'starts with'
    }
    if (this.#takeWord('has')) {
      const isNo = this.#takeWord('no')
      if (!this.#takeWord('value')) this.#fail(`Expected \`has value\` or \`has no value\`, found ${this.#seen}.`)
      return isNo ? 'has no value' : 'has value'
    }
    return undefined
  }

  #joined(depth: number): Expression {
    const { at } = this.#peek
    const parts = [this.#sum(depth)]
    while (this.#isSign('&')) {
      this.#take()
      parts.push(this.#sum(depth))
    }
    return parts.length === 1 ? parts[0]! : { is: 'joined', of: parts, at }
  }

  #sum(depth: number): Expression {
    let left = this.#product(depth)
    for (;;) {
      const { at } = this.#peek
      // `entry.price -3` reads its sign as part of the number.
      if (this.#peek.is === 'number' && this.#peek.text.startsWith('-'))
        left = this.#arithmetic('+', left, this.#product(depth), at)
      else if (this.#isSign('+') || this.#isSign('-'))
        left = this.#arithmetic(this.#take().text as '+' | '-', left, this.#product(depth), at)
      else return left
    }
  }

  #product(depth: number): Expression {
    let left = this.#single(depth)
    while (this.#isSign('*') || this.#isSign('/')) {
      const { text, at } = this.#take()
      left = this.#arithmetic(text as '*' | '/', left, this.#single(depth), at)
    }
    return left
  }

  #arithmetic(operator: Arithmetic['operator'], left: Expression, right: Expression, at: number): Arithmetic {
    return { is: 'arithmetic', operator, left, right, at }
  }

  #single(depth: number): Expression {
    if (++this.#parts > maxParts) this.#fail(`An expression has at most ${maxParts} parts.`)
    const token = this.#peek
    const { at } = token
    if (this.#isSign('(')) {
      this.#take()
      const inner = this.#either(depth + 1)
      this.#takeSign(')', 'to close the parenthesis')
      return inner
    }
    if (this.#isSign('[')) return this.#list(depth)
    if (this.#isSign('-')) {
      if (depth > maxDepth) this.#fail(`An expression nests at most ${maxDepth} deep.`)
      this.#take()
      return this.#arithmetic('-', { is: 'constant', value: 0, at }, this.#single(depth + 1), at)
    }
    switch (token.is) {
      case 'number':
        return this.#number()
      case 'text':
      case 'date':
      case 'dateTime':
        this.#take()
        return { is: 'constant', value: token.value!, at }
      case 'name':
        return this.#name(depth)
      default:
        return this.#fail(
          token.is === 'end'
            ? 'The expression ends where a value was expected.'
            : `Expected a value, found ${this.#seen}.`,
        )
    }
  }

  #number(): Expression {
    const { value, at, text } = this.#take()
    const unit = this.#peek.is === 'name' ? unitOf(this.#peek.text) : undefined
    if (!unit) return { is: 'constant', value: value!, at }
    if (!Number.isInteger(value) || Math.abs(value as number) > 1_000_000)
      this.#fail(`Expected a whole number of ${this.#peek.text}, found ${text}.`, this.#tokens[this.#index - 1])
    this.#take()
    return { is: 'duration', minutes: unit.minutes * (value as number), days: unit.days * (value as number), at }
  }

  /** @param isPath whether a parenthesis after it belongs to something else. */
  #name(depth: number, isPath = false): Expression {
    const { text: name, at } = this.#peek
    if (words.includes(name)) this.#fail(`Expected a value, found the word \`${name}\`.`)
    this.#take()
    if (name === 'true' || name === 'false') return { is: 'constant', value: name === 'true', at }
    if (name === 'now' || name === 'today') return { is: 'moment', base: name, at }
    if (!isPath && this.#isSign('(')) return this.#call(name, at, depth)
    const names = [name]
    while (this.#isSign('.')) {
      this.#take()
      if (this.#peek.is !== 'name') this.#fail(`Expected a name after \`.\`, found ${this.#seen}.`)
      names.push(this.#take().text)
    }
    return { is: 'path', names, at }
  }

  #call(name: string, at: number, depth: number): Expression {
    if (!isFunction(name))
      throw conditionError(
        this.#text,
        at,
        `\`${name}\` is not a function.${didYouMean(name, Object.keys(functions)) || ` There are ${Object.keys(functions).join(', ')}.`}`,
      )
    this.#take()
    const of = this.#items(')', depth)
    const { least, most } = functions[name]
    if (of.length < least || of.length > most)
      throw conditionError(
        this.#text,
        at,
        `\`${name}\` takes ${least === most ? least : `${least} to ${most}`} value${most === 1 ? '' : 's'}, and has ${of.length}.`,
      )
    return { is: 'call', name, of, at }
  }

  #list(depth: number): Expression {
    const { at } = this.#take()
    return { is: 'list', of: this.#items(']', depth), at }
  }

  #items(close: ')' | ']', depth: number): Expression[] {
    const items: Expression[] = []
    while (!this.#isSign(close)) {
      if (items.length > 0) this.#takeSign(',', 'between values')
      items.push(this.#either(depth + 1))
    }
    this.#take()
    return items
  }

  get #peek(): Token {
    return this.#tokens[this.#index]!
  }

  get #next(): Token {
    return this.#tokens[Math.min(this.#index + 1, this.#tokens.length - 1)]!
  }

  get #isEnd(): boolean {
    return this.#peek.is === 'end'
  }

  get #seen(): string {
    return this.#isEnd ? 'the end' : `\`${this.#peek.text.slice(0, 40)}\``
  }

  #take(): Token {
    const token = this.#peek
    if (token.is !== 'end') this.#index++
    return token
  }

  #isWord(word: string): boolean {
    return this.#peek.is === 'name' && this.#peek.text === word
  }

  #takeWord(word: string): boolean {
    const isThere = this.#isWord(word)
    if (isThere) this.#take()
    return isThere
  }

  #isSign(sign: string, token = this.#peek): boolean {
    return token.is === 'sign' && token.text === sign
  }

  #takeSign(sign: string, why: string): void {
    if (!this.#isSign(sign)) this.#fail(`Expected \`${sign}\` ${why}, found ${this.#seen}.`)
    this.#take()
  }

  #fail(message: string, token: Token = this.#peek): never {
    throw conditionError(this.#text, token.at, message)
  }
}
