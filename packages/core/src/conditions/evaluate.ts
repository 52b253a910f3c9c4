import type { Fact } from '../fields/shape.js'
import { addDays, dayIn, startOfDay } from '../text/time.js'
import type { Condition, FactSource, Subject, SystemFact, Value } from './condition.js'

/** An entry as conditions see it, in one edition and locale. */
export interface Candidate {
  readonly id: string
  readonly facts: Readonly<Record<string, Fact | readonly Fact[]>>
  readonly system: Readonly<Partial<Record<SystemFact, Fact>>>
  /** The entries that a field refers to, as far as the reader may see them. */
  readonly follow: (field: string) => readonly Candidate[]
}

/** When, and where a day begins. */
export interface Moment {
  /** Milliseconds since the epoch. */
  readonly now: number
  /** IANA name. */
  readonly timeZone: string
}

/**
 * Whether a candidate meets a condition. Two-valued: a comparison with a missing value is false, and `not` turns that
 * around; of many values, any will do.
 */
export function meets(condition: Condition, candidate: Candidate, moment: Moment): boolean {
  switch (condition.is) {
    case 'and':
      return condition.of.every((part) => meets(part, candidate, moment))
    case 'or':
      return condition.of.some((part) => meets(part, candidate, moment))
    case 'not':
      return !meets(condition.of, candidate, moment)
    case 'any':
      return condition.step.fields.some((field) =>
        candidate.follow(field).some((next) => meets(condition.where, next, moment)),
      )
    case 'hasValue':
      return factsOf(condition.subject, candidate).length > 0
    case 'contains':
      return factsOf(condition.subject, candidate).some((fact) => String(fact).includes(condition.text))
    case 'startsWith':
      return factsOf(condition.subject, candidate).some((fact) => String(fact).startsWith(condition.text))
    case 'in': {
      const wanted = condition.values.map((value) => factAt(value, moment))
      return factsOf(condition.subject, candidate).some((fact) => wanted.includes(fact))
    }
    case 'compare': {
      const wanted = factAt(condition.value, moment)
      return factsOf(condition.subject, candidate).some((fact) => compare(fact, condition.operator, wanted))
    }
  }
}

function compare(fact: Fact, operator: '=' | '<' | '<=' | '>' | '>=', wanted: Fact): boolean {
  const order = orderOf(fact, wanted)
  switch (operator) {
    case '=':
      return order === 0
    case '<':
      return order < 0
    case '<=':
      return order <= 0
    case '>':
      return order > 0
    case '>=':
      return order >= 0
  }
}

/** The order of two facts of the same comparison: texts by code point, as the database's bytes order them. */
export function orderOf(a: Fact, b: Fact): number {
  if (typeof a === 'number' || typeof b === 'number') return Number(a) - Number(b)
  const [left, right] = [[...a], [...b]]
  for (let index = 0; index < Math.min(left.length, right.length); index++) {
    const difference = left[index]!.codePointAt(0)! - right[index]!.codePointAt(0)!
    if (difference !== 0) return difference
  }
  return left.length - right.length
}

function factsOf(subject: Subject, candidate: Candidate): Fact[] {
  let here: readonly Candidate[] = [candidate]
  for (const step of subject.steps) here = here.flatMap((one) => step.fields.flatMap((field) => one.follow(field)))
  return here.flatMap((one) => factsAt(subject.fact, one))
}

function factsAt(source: FactSource, candidate: Candidate): Fact[] {
  switch (source.is) {
    case 'system': {
      const fact = candidate.system[source.name]
      return fact === undefined ? [] : [fact]
    }
    case 'reference':
      return source.fields.flatMap((field) => candidate.follow(field).map((next) => next.id))
    case 'field':
      return source.fields.flatMap((field) => candidate.facts[field] ?? [])
  }
}

/** The comparable form of a value at a moment. */
export function factAt(value: Value, { now, timeZone }: Moment): Fact {
  if (typeof value !== 'object') return value
  if (value.base === '$now') return new Date(now + value.minutes * 60_000 + value.days * 86_400_000).toISOString()
  const day = addDays(dayIn(now, timeZone), value.days)
  return value.as === 'date' ? day : startOfDay(day, timeZone)
}
