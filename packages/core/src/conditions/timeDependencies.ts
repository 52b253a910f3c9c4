import { addDays, dayIn, startOfDay } from '../text/time.js'
import type { Condition, Value } from './condition.js'
import type { Moment } from './evaluate.js'

/** A single fact of an entry that a condition compares with the time, which passes it at some moment. */
export interface TimeDependency {
  readonly by: { readonly field: string } | { readonly system: 'updated' | 'published' }
  /** Milliseconds by which the time is ahead of the clock: `now + 1 days`. */
  readonly shift: number
}

/** How the answer to a condition changes with the time. */
export interface TimeDependencies {
  readonly facts: readonly TimeDependency[]
  /** Whether it changes when the day does. */
  readonly daily: boolean
  /** Whether it may change at moments that are not single facts of the entries themselves. */
  readonly unknown: boolean
}

const none: TimeDependencies = { facts: [], daily: false, unknown: false }
const unknown: TimeDependencies = { ...none, unknown: true }

const isNow = (value: Value): value is Extract<Value, { base: string }> =>
  typeof value === 'object' && 'base' in value && value.base === 'now'
const isToday = (value: Value): boolean => typeof value === 'object' && 'base' in value && value.base === 'today'

/** Where a condition waits for the time. */
export function timeDependenciesOf(condition: Condition): TimeDependencies {
  switch (condition.is) {
    case 'and':
    case 'or':
      return condition.of.map(timeDependenciesOf).reduce(together, none)
    case 'not':
      return timeDependenciesOf(condition.of)
    case 'any': {
      const inside = timeDependenciesOf(condition.where)
      return inside.facts.length > 0 ? { ...inside, facts: [], unknown: true } : inside
    }
    case 'in':
      return condition.values.some(isNow) ? unknown : { ...none, daily: condition.values.some(isToday) }
    case 'compare': {
      const { subject, value } = condition
      if (!isNow(value)) return { ...none, daily: isToday(value) }
      const { steps, fact } = subject
      if (steps.length > 0) return unknown
      const shift = value.minutes * 60_000 + value.days * 86_400_000
      if (fact.is === 'system' && (fact.name === 'updated' || fact.name === 'published'))
        return { ...none, facts: [{ by: { system: fact.name }, shift }] }
      const [field, ...others] = fact.is === 'field' && !fact.many ? fact.fields : []
      return field === undefined || others.length > 0 ? unknown : { ...none, facts: [{ by: { field }, shift }] }
    }
    default:
      return none
  }
}

const together = (a: TimeDependencies, b: TimeDependencies): TimeDependencies => ({
  facts: [...a.facts, ...b.facts],
  daily: a.daily || b.daily,
  unknown: a.unknown || b.unknown,
})

/** When the day ends, in milliseconds since the epoch. */
export const endOfDay = ({ now, timeZone }: Moment): number =>
  Date.parse(startOfDay(addDays(dayIn(now, timeZone), 1), timeZone))
