import { describe, expect, it } from 'vitest'
import { evaluated, projected, shapedCases, shapedModel, shapedType, tours } from '../../../../e2e/support/shaped.js'
import { refusal } from '../../../../e2e/support/models.js'
import type { WisteriaError } from '../base/errors.js'
import { readCondition, type CheckContext } from './check.js'

const context: CheckContext = {
  model: shapedModel,
  owners: [shapedType('tour')],
  systemFacts: ['type', 'updated'],
  timeZone: 'Europe/Amsterdam',
}
const moment = { now: Date.parse('2031-05-04T21:30:00Z'), timeZone: 'Europe/Amsterdam' }
const projections = projected(tours)
const meeting = (text: string): string =>
  evaluated(readCondition(text, context).condition, 'tour', projections, moment)
    .map((id) => id.replace(/0+$/, ''))
    .sort()
    .join(' ')
const sorted = (names: string) => names.split(' ').filter(Boolean).sort().join(' ')

describe('what conditions mean of shaped content', () => {
  it.each(shapedCases)('%s', (text, expected) => expect(meeting(text)).toBe(sorted(expected)))

  it('an entry meets a condition or its negation, never both', () => {
    for (const [text, expected] of shapedCases) {
      const others = ['walk', 'talk', 'song', 'bare'].filter((name) => !expected.split(' ').includes(name))
      expect(meeting(`not (${text})`), text).toBe(sorted(others.join(' ')))
    }
  })
})

describe('mistakes in shaped content', () => {
  it.each([
    ['venue.seat > 1', 1, /`seat` is not a field of venue. Did you mean `seats`\?/],
    ['sessions.weekday = "tuesday"', 20, /monday, friday, sunday/],
    ['any venue (seats > 1)', 5, /`any` needs a field of kind entry or a repeated group, and `venue` is one group/],
    ['any title (x = 1)', 5, /`title` is of kind text/],
    ['any sessions.stops (minutes > 1)', 5, /begin with `any` of the outer group/],
    ['any sessions (entry.updated > 2031-01-01)', 15, /is a fact of an entry, and sessions is a group in one/],
    ['place > 1', 7, /Use `has value` or `has no value`/],
    ['venue = "x"', 7, /Use `has value` or `has no value`/],
    ['takes > 90', 9, /a length of time in double quotes, such as `"PT90M"`/],
    ['takes > "90 minutes"', 9, /a length of time/],
    ['takes contains "P"', 7, /does not go with `takes`/],
    ['story.text = "x"', 1, /nothing follows it after a dot/],
    ['sessions.host.speak = "en"', 1, /`speak` is not a field of guide. Did you mean `speaks`\?/],
  ])('%s', async (text, column, message) => {
    const error = await refusal<WisteriaError>(() => readCondition(text, context))
    expect(error.message).toMatch(message)
    expect(error.problems[0]?.column).toBe(column)
  })
})
