import type { Fact } from '../fields/shape.js'
import { addDays, dayIn, startOfDay } from '../text/time.js'
import {
  isOfField,
  type Condition,
  type FactSource,
  type Step,
  type Subject,
  type SystemFact,
  type Value,
} from './condition.js'

/** An entry as conditions read it, in one edition and locale; or one element of a repeated group. */
export interface Candidate {
  readonly id: string
  readonly facts: Readonly<Record<string, Fact | readonly Fact[]>>
  readonly system: Readonly<Partial<Record<SystemFact, Fact>>>
  /** The entries that a field refers to, as far as the reader may see them. */
  readonly follow: (field: string) => readonly Candidate[]
  /** The elements of a repeated group. */
  readonly elements: (group: string) => readonly Candidate[]
}

/** The moment, and the time zone of its day. */
export interface Moment {
  /** Milliseconds since the epoch. */
  readonly now: number
  /** IANA name. */
  readonly timeZone: string
}

/** Evaluates a condition for one candidate. */
export type Meeting = (candidate: Candidate, moment: Moment) => boolean

const compiled = new WeakMap<Condition, Meeting>()

/** Whether a candidate matches a condition. */
export const meets = (condition: Condition, candidate: Candidate, moment: Moment): boolean =>
  meetingOf(condition)(candidate, moment)

/**
 * A condition as a function. Two-valued: a comparison with a missing value is false, and `not` negates that; of many values, one
 * must match. Made once for a condition.
 */
export function meetingOf(condition: Condition): Meeting {
  const cached = compiled.get(condition)
  if (cached) return cached
  const passes = make(condition)
  compiled.set(condition, passes)
  return passes
}

function make(condition: Condition): Meeting {
  const direct = onOneField(condition)
  if (direct) return direct
  switch (condition.is) {
    case 'and':
      return condition.of
        .map(meetingOf)
        .reduceRight((rest, part) => (candidate, moment) => part(candidate, moment) && rest(candidate, moment))
    case 'or':
      return condition.of
        .map(meetingOf)
        .reduceRight((rest, part) => (candidate, moment) => part(candidate, moment) || rest(candidate, moment))
    case 'not': {
      const inner = meetingOf(condition.of)
      return (candidate, moment) => !inner(candidate, moment)
    }
    case 'any': {
      const inner = meetingOf(condition.where)
      const { step } = condition
      return (candidate, moment) => next(step, candidate).some((element) => inner(element, moment))
    }
    case 'hasValue':
      return onFacts(
        condition.subject,
        always(() => true),
      )
    case 'contains': {
      const { text } = condition
      return onFacts(
        condition.subject,
        always((fact) => (typeof fact === 'string' ? fact : String(fact)).includes(text)),
      )
    }
    case 'startsWith': {
      const { text } = condition
      return onFacts(
        condition.subject,
        always((fact) => (typeof fact === 'string' ? fact : String(fact)).startsWith(text)),
      )
    }
    case 'in':
      return onFacts(condition.subject, atMoment(condition.values, oneOf))
    case 'compare':
      if (isOfField(condition.value))
        return withOtherField(condition.subject, condition.operator, condition.value.field)
      return onFacts(
        condition.subject,
        atMoment([condition.value], ([wanted]) => comparison(condition.operator, wanted!)),
      )
  }
}

/** A comparison with another field of the candidate: one of its values must match. */
const withOtherField =
  (subject: Subject, operator: '=' | '<' | '<=' | '>' | '>=', field: string): Meeting =>
  (candidate, moment) => {
    const fact = candidate.facts[field]
    const others = fact === undefined ? [] : typeof fact === 'object' ? fact : [fact]
    return others.some((other) => onFacts(subject, always(comparison(operator, other)))(candidate, moment))
  }

/**
 * A test of one field of the candidate itself, against a value that does not depend on the moment: the most frequent case. Each
 * operator has a function of its own, which the JavaScript engine can inline; lists use the general one.
 */
function onOneField(condition: Condition): Meeting | undefined {
  if (condition.is !== 'compare' && condition.is !== 'in' && condition.is !== 'contains') return undefined
  const { steps, fact: source } = condition.subject
  if (steps.length > 0 || source.is !== 'field' || source.fields.length !== 1) return undefined
  const id = source.fields[0]!
  if (condition.is === 'contains') {
    const { text } = condition
    const otherwise = onFacts(
      condition.subject,
      always((fact) => String(fact).includes(text)),
    )
    return (candidate, moment) => {
      const fact = candidate.facts[id]
      return typeof fact === 'string' ? fact.includes(text) : otherwise(candidate, moment)
    }
  }
  if (condition.is === 'in') {
    const values = condition.values.filter((value) => typeof value !== 'object')
    if (values.length !== condition.values.length || values.length > 3) return undefined
    const [first, second, third] = values
    const otherwise = onFacts(condition.subject, always(oneOf(values)))
    return (candidate, moment) => {
      const fact = candidate.facts[id]
      if (typeof fact === 'object') return otherwise(candidate, moment)
      return fact !== undefined && (fact === first || fact === second || fact === third)
    }
  }
  if (condition.is !== 'compare') return undefined
  const { value: wanted, operator } = condition
  if (typeof wanted === 'object' || !isPlain(wanted)) return undefined
  const otherwise = onFacts(condition.subject, always(comparison(operator, wanted)))
  switch (operator) {
    case '=':
      return (candidate) => {
        const fact = candidate.facts[id]
        return typeof fact === 'object' ? fact.includes(wanted) : fact === wanted
      }
    case '<':
      return (candidate, moment) => {
        const fact = candidate.facts[id]
        return typeof fact === 'object' ? otherwise(candidate, moment) : fact !== undefined && fact < wanted
      }
    case '<=':
      return (candidate, moment) => {
        const fact = candidate.facts[id]
        return typeof fact === 'object' ? otherwise(candidate, moment) : fact !== undefined && fact <= wanted
      }
    case '>':
      return (candidate, moment) => {
        const fact = candidate.facts[id]
        return typeof fact === 'object' ? otherwise(candidate, moment) : fact !== undefined && fact > wanted
      }
    case '>=':
      return (candidate, moment) => {
        const fact = candidate.facts[id]
        return typeof fact === 'object' ? otherwise(candidate, moment) : fact !== undefined && fact >= wanted
      }
  }
}

/**
 * Whether JavaScript's order of texts is the order by code point: it compares code units, which gives the same order unless the
 * operand has units from the surrogates on.
 */
const isPlain = (wanted: Fact): boolean => typeof wanted === 'number' || /^[\0-\ud7ff]*$/.test(wanted)

/** A test that is the same at every moment, or one that is made for each. */
type Tests = { readonly passes: Passes } | { readonly passesAt: (moment: Moment) => Passes }
const always = (passes: Passes): Tests => ({ passes })

/** A few values are compared one by one, which is faster than a set. */
function oneOf(wanted: readonly Fact[]): Passes {
  if (wanted.length === 1) return (fact) => fact === wanted[0]
  if (wanted.length === 2) return (fact) => fact === wanted[0] || fact === wanted[1]
  if (wanted.length <= 8) return (fact) => wanted.includes(fact)
  const all = new Set(wanted)
  return (fact) => all.has(fact)
}

type Passes = (fact: Fact) => boolean

/** A test of values that may depend on the moment: made once where they do not, and once a moment where they do. */
function atMoment(values: readonly Value[], build: (facts: readonly Fact[]) => Passes): Tests {
  if (values.every((value) => typeof value !== 'object')) return always(build(values))
  let last: Moment | undefined
  let passes: Passes | undefined
  return {
    passesAt: (moment) => {
      if (passes === undefined || moment !== last) {
        last = moment
        passes = build(values.map((value) => factAt(value, moment)))
      }
      return passes
    },
  }
}

function comparison(operator: '=' | '<' | '<=' | '>' | '>=', wanted: Fact): Passes {
  const plain = isPlain(wanted)
  switch (operator) {
    case '=':
      return (fact) => fact === wanted
    case '<':
      return plain ? (fact) => fact < wanted : (fact) => orderOf(fact, wanted) < 0
    case '<=':
      return plain ? (fact) => fact <= wanted : (fact) => orderOf(fact, wanted) <= 0
    case '>':
      return plain ? (fact) => fact > wanted : (fact) => orderOf(fact, wanted) > 0
    case '>=':
      return plain ? (fact) => fact >= wanted : (fact) => orderOf(fact, wanted) >= 0
  }
}

/** The order of two facts of the same comparison: texts by code point, as the database's bytes order them. */
export function orderOf(a: Fact, b: Fact): number {
  if (typeof a === 'number' || typeof b === 'number') return Number(a) - Number(b)
  const length = Math.min(a.length, b.length)
  for (let index = 0; index < length; index++) {
    const [left, right] = [a.charCodeAt(index), b.charCodeAt(index)]
    if (left !== right) return inPlane(left) - inPlane(right)
  }
  return a.length - b.length
}

/** UTF-16 puts surrogates below U+E000; code points of the higher planes come after it. */
const inPlane = (unit: number): number => (unit < 0xd800 ? unit : unit < 0xe000 ? unit + 0x2000 : unit - 0x800)

const next = (step: Step, candidate: Candidate): readonly Candidate[] => {
  const go = step.to === 'entries' ? candidate.follow : candidate.elements
  return step.fields.length === 1 ? go(step.fields[0]!) : step.fields.flatMap((field) => go(field))
}

function onFacts(subject: Subject, tests: Tests): Meeting {
  const { steps, fact } = subject
  const here = 'passes' in tests ? onOwnFacts(fact, tests.passes) : at(fact, tests.passesAt)
  return steps.reduceRight<Meeting>(
    (inner, step) => (candidate, moment) => next(step, candidate).some((element) => inner(element, moment)),
    here,
  )
}

/** The same for a test that is another at each moment. */
function at(fact: FactSource, passesAt: (moment: Moment) => Passes): Meeting {
  let passes: Passes | undefined
  const here = onOwnFacts(fact, (value) => passes!(value))
  return (candidate, moment) => {
    passes = passesAt(moment)
    return here(candidate, moment)
  }
}

function onOwnFacts(source: FactSource, passes: Passes): Meeting {
  switch (source.is) {
    case 'system':
      if (source.name === 'id') return ({ id }) => passes(id)
      return ({ system }) => {
        const fact = system[source.name]
        return fact !== undefined && passes(fact)
      }
    case 'reference':
      return ({ follow }) => source.fields.some((field) => follow(field).some(({ id }) => passes(id)))
    case 'field': {
      const tests = source.fields.map((field): Meeting => ({ facts }) => {
        const fact = facts[field]
        if (fact === undefined) return false
        if (typeof fact !== 'object') return passes(fact)
        for (const value of fact) if (passes(value)) return true
        return false
      })
      return tests.length === 1 ? tests[0]! : (candidate, moment) => tests.some((test) => test(candidate, moment))
    }
  }
}

/** The comparable form of a value at a moment. */
export function factAt(value: Value, { now, timeZone }: Moment): Fact {
  if (typeof value !== 'object') return value
  if (isOfField(value)) throw new Error('what another field holds is no fact by itself')
  if (value.base === 'now') return new Date(now + value.minutes * 60_000 + value.days * 86_400_000).toISOString()
  const day = addDays(dayIn(now, timeZone), value.days)
  return value.as === 'date' ? day : startOfDay(day, timeZone)
}
