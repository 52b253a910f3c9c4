import type { Fact } from '../fields/shape.js'
import { addDays, dayIn, startOfDay } from '../text/time.js'
import type { Condition, FactSource, Step, Subject, SystemFact, Value } from './condition.js'

/** An entry as conditions see it, in one edition and locale; or one element of a repeated group. */
export interface Candidate {
  readonly id: string
  readonly facts: Readonly<Record<string, Fact | readonly Fact[]>>
  readonly system: Readonly<Partial<Record<SystemFact, Fact>>>
  /** The entries that a field refers to, as far as the reader may see them. */
  readonly follow: (field: string) => readonly Candidate[]
  /** The elements of a repeated group. */
  readonly elements: (group: string) => readonly Candidate[]
}

/** When, and where a day begins. */
export interface Moment {
  /** Milliseconds since the epoch. */
  readonly now: number
  /** IANA name. */
  readonly timeZone: string
}

/** Answers a condition for one candidate. */
export type Meeting = (candidate: Candidate, moment: Moment) => boolean

const compiled = new WeakMap<Condition, Meeting>()

/** Whether a candidate meets a condition. */
export const meets = (condition: Condition, candidate: Candidate, moment: Moment): boolean =>
  meetingOf(condition)(candidate, moment)

/**
 * A condition as a function. Two-valued: a comparison with a missing value is false, and `not` turns that around; of many
 * values, any will do. Made once for a condition.
 */
export function meetingOf(condition: Condition): Meeting {
  const known = compiled.get(condition)
  if (known) return known
  const made = make(condition)
  compiled.set(condition, made)
  return made
}

function make(condition: Condition): Meeting {
  switch (condition.is) {
    case 'and': {
      const parts = condition.of.map(meetingOf)
      if (parts.length === 2) {
        const [first, second] = parts as [Meeting, Meeting]
        return (candidate, moment) => first(candidate, moment) && second(candidate, moment)
      }
      return (candidate, moment) => {
        for (const part of parts) if (!part(candidate, moment)) return false
        return true
      }
    }
    case 'or': {
      const parts = condition.of.map(meetingOf)
      return (candidate, moment) => {
        for (const part of parts) if (part(candidate, moment)) return true
        return false
      }
    }
    case 'not': {
      const inner = meetingOf(condition.of)
      return (candidate, moment) => !inner(candidate, moment)
    }
    case 'any': {
      const inner = meetingOf(condition.where)
      const { step } = condition
      return (candidate, moment) => next(step, candidate).some((one) => inner(one, moment))
    }
    case 'hasValue':
      return onFacts(condition.subject, () => () => true)
    case 'contains':
      return onFacts(condition.subject, () => (fact) => String(fact).includes(condition.text))
    case 'startsWith':
      return onFacts(condition.subject, () => (fact) => String(fact).startsWith(condition.text))
    case 'in':
      return onFacts(
        condition.subject,
        atMoment(condition.values, (wanted) => {
          const all = new Set(wanted)
          return (fact) => all.has(fact)
        }),
      )
    case 'compare':
      return onFacts(
        condition.subject,
        atMoment([condition.value], ([wanted]) => comparison(condition.operator, wanted!)),
      )
  }
}

type Passes = (fact: Fact) => boolean

/** A test of values that may depend on the moment: made once where they do not, and once a moment where they do. */
function atMoment(values: readonly Value[], build: (facts: readonly Fact[]) => Passes): (moment: Moment) => Passes {
  if (values.every((value) => typeof value !== 'object')) {
    const always = build(values as readonly Fact[])
    return () => always
  }
  const made = new WeakMap<Moment, Passes>()
  return (moment) => {
    const known = made.get(moment)
    if (known) return known
    const passes = build(values.map((value) => factAt(value, moment)))
    made.set(moment, passes)
    return passes
  }
}

function comparison(operator: '=' | '<' | '<=' | '>' | '>=', wanted: Fact): Passes {
  switch (operator) {
    case '=':
      return (fact) => fact === wanted
    case '<':
      return (fact) => orderOf(fact, wanted) < 0
    case '<=':
      return (fact) => orderOf(fact, wanted) <= 0
    case '>':
      return (fact) => orderOf(fact, wanted) > 0
    case '>=':
      return (fact) => orderOf(fact, wanted) >= 0
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

function onFacts(subject: Subject, passesAt: (moment: Moment) => Passes): Meeting {
  const { steps, fact } = subject
  const here = onOwnFacts(fact, passesAt)
  return steps.reduceRight<Meeting>(
    (inner, step) => (candidate, moment) => next(step, candidate).some((one) => inner(one, moment)),
    here,
  )
}

function onOwnFacts(source: FactSource, passesAt: (moment: Moment) => Passes): Meeting {
  switch (source.is) {
    case 'system':
      return (candidate, moment) => {
        const fact = candidate.system[source.name]
        return fact !== undefined && passesAt(moment)(fact)
      }
    case 'reference':
      return (candidate, moment) => {
        const passes = passesAt(moment)
        return source.fields.some((field) => candidate.follow(field).some(({ id }) => passes(id)))
      }
    case 'field': {
      const test =
        (field: string): Meeting =>
        (candidate, moment) => {
          const fact = candidate.facts[field]
          if (fact === undefined) return false
          const passes = passesAt(moment)
          return typeof fact === 'object' ? fact.some(passes) : passes(fact)
        }
      const tests = source.fields.map(test)
      return tests.length === 1 ? tests[0]! : (candidate, moment) => tests.some((one) => one(candidate, moment))
    }
  }
}

/** The comparable form of a value at a moment. */
export function factAt(value: Value, { now, timeZone }: Moment): Fact {
  if (typeof value !== 'object') return value
  if (value.base === '$now') return new Date(now + value.minutes * 60_000 + value.days * 86_400_000).toISOString()
  const day = addDays(dayIn(now, timeZone), value.days)
  return value.as === 'date' ? day : startOfDay(day, timeZone)
}
