/** A condition of the condition language: give it as `where`. */
export class Condition {
  readonly #text: string
  /** Whether it needs no parentheses. */
  readonly #isSimple: boolean

  constructor(text: string, isSimple = true) {
    this.#text = text
    this.#isSimple = isSimple
  }

  /** As it is written. */
  toString(): string {
    return this.#text
  }

  /** As a part of a larger condition. */
  get part(): string {
    return this.#isSimple ? this.#text : `(${this.#text})`
  }
}

/** A moment that the service computes. */
export class Moment {
  readonly #text: string

  constructor(text: 'now' | 'today' | (string & {})) {
    this.#text = text
  }

  plus(count: number, unit: 'minutes' | 'hours' | 'days' | 'weeks'): Moment {
    return new Moment(`${this.#text} ${count < 0 ? '-' : '+'} ${Math.abs(count)} ${unit}`)
  }

  toString(): string {
    return this.#text
  }
}

/** The time of asking. */
export const now = new Moment('now')
/** The day of asking, in the site's time zone. */
export const today = new Moment('today')

type Scalar = string | number | boolean

/** The values that a field is compared with: of lists, any of them; of references, an id. */
type Compared<Value> =
  NonNullable<Value> extends readonly (infer One)[]
    ? Compared<One>
    : NonNullable<Value> extends { readonly id: string }
      ? string
      : NonNullable<Value> extends Scalar
        ? NonNullable<Value>
        : Scalar

const literal = (value: Scalar | Date | Moment): string =>
  value instanceof Date || typeof value === 'string' ? JSON.stringify(value) : String(value)

/** Tests of one field. */
export interface FieldTests<Value> {
  is(value: Compared<Value> | Moment | Date): Condition
  isNot(value: Compared<Value> | Moment | Date): Condition
  in(values: readonly Compared<Value>[]): Condition
  lessThan(value: Compared<Value> | Moment | Date): Condition
  atMost(value: Compared<Value> | Moment | Date): Condition
  moreThan(value: Compared<Value> | Moment | Date): Condition
  atLeast(value: Compared<Value> | Moment | Date): Condition
  contains(text: string): Condition
  startsWith(text: string): Condition
  hasValue(): Condition
  hasNoValue(): Condition
}

/** The fields of a type by name; paths through references and groups have dots in them. */
type FieldName<Values> = (keyof Values & string) | `${keyof Values & string}.${string}` | `$${string}`
type ValueOf<Values, Name> = Name extends keyof Values ? Values[Name] : Scalar

/**
 * A test of a field of a type: `field<Content['activity']>('format').in(['walk', 'talk'])`. With a type of `wisteria types`,
 * names and values are checked when it is compiled.
 */
export function field<Values = Record<string, Scalar | null>, Name extends FieldName<Values> = FieldName<Values>>(
  name: Name,
): FieldTests<ValueOf<Values, Name>> {
  if (!/^[$A-Za-z_][\w$]*(\.[$A-Za-z_][\w$]*)*$/.test(name)) throw new TypeError(`${name} is not the name of a field.`)
  const test = (operator: string) => (value: Scalar | Date | Moment) =>
    new Condition(`${name} ${operator} ${literal(value)}`)
  const tests: FieldTests<Scalar> = {
    is: test('='),
    isNot: test('!='),
    lessThan: test('<'),
    atMost: test('<='),
    moreThan: test('>'),
    atLeast: test('>='),
    in: (values) => new Condition(`${name} in [${values.map((value) => literal(value)).join(', ')}]`),
    contains: (text) => new Condition(`${name} contains ${JSON.stringify(text)}`),
    startsWith: (text) => new Condition(`${name} starts with ${JSON.stringify(text)}`),
    hasValue: () => new Condition(`${name} has value`),
    hasNoValue: () => new Condition(`${name} has no value`),
  }
  return tests as unknown as FieldTests<ValueOf<Values, Name>>
}

/** `field` for one type, so that it need not be repeated: `const activity = fieldsOf<Content['activity']>()`. */
export const fieldsOf =
  <Values>() =>
  <Name extends FieldName<Values>>(name: Name): FieldTests<ValueOf<Values, Name>> =>
    field<Values, Name>(name)

type Part = Condition | undefined | null | false

const joined = (word: 'and' | 'or', parts: readonly Part[]): Condition => {
  const given = parts.filter((part) => part instanceof Condition)
  if (given.length === 0) throw new TypeError(`\`${word === 'and' ? 'all' : 'either'}\` needs a condition.`)
  return given.length === 1 ? given[0]! : new Condition(given.map((part) => part.part).join(` ${word} `), false)
}

/** All of them hold; `undefined` and `false` are left out. */
export const all = (...parts: readonly Part[]): Condition => joined('and', parts)
/** At least one of them holds. */
export const either = (...parts: readonly Part[]): Condition => joined('or', parts)
/** It does not hold. */
export const not = (condition: Condition): Condition => new Condition(`not (${condition})`)
/** One element of a list, or one of several referenced entries, meets all of it: `any('speakers', …)`. */
export const any = (path: string, condition: Condition): Condition => new Condition(`any ${path} (${condition})`)
