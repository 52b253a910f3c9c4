import { describe, expect, it } from 'vitest'
import { id, model, type } from '../../../../e2e/support/models.js'
import { readCondition } from './check.js'
import { endOfDay, timeDependenciesOf } from './timeDependencies.js'

const waits = (text: string) =>
  timeDependenciesOf(
    readCondition(text, { model, owners: [type('activity')], systemFacts: ['updated'], timeZone: 'UTC' }).condition,
  )
const starts = { field: id('activity', 'starts') }
const hour = 3_600_000

describe('where a condition waits for the time', () => {
  it.each([
    ['price > 3', { facts: [], daily: false, unknown: false }],
    ['starts >= now', { facts: [{ by: starts, shift: 0 }], daily: false, unknown: false }],
    ['not (starts < now - 2 hours)', { facts: [{ by: starts, shift: -2 * hour }], daily: false, unknown: false }],
    [
      'starts > now and (price < 3 or starts < now + 1 days)',
      {
        facts: [
          { by: starts, shift: 0 },
          { by: starts, shift: 24 * hour },
        ],
        daily: false,
        unknown: false,
      },
    ],
    [
      'entry.updated > now - 1 hours',
      { facts: [{ by: { system: 'updated' }, shift: -hour }], daily: false, unknown: false },
    ],
    ['day = today', { facts: [], daily: true, unknown: false }],
    ['starts >= today', { facts: [], daily: true, unknown: false }],
    ['starts in [now]', { facts: [], daily: false, unknown: true }],
  ])('%s', (text, wanted) => expect(waits(text)).toEqual(wanted))

  it('ends with the day of the site', () => {
    const now = Date.parse('2031-03-29T23:30:00Z')
    expect(new Date(endOfDay({ now, timeZone: 'UTC' })).toISOString()).toBe('2031-03-30T00:00:00.000Z')
    // Already the next day there, and one that is an hour shorter.
    expect(new Date(endOfDay({ now, timeZone: 'Europe/Amsterdam' })).toISOString()).toBe('2031-03-30T22:00:00.000Z')
  })
})
