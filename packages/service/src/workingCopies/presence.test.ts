import { describe, expect, it } from 'vitest'
import { Presence } from './presence.js'

describe('presence', () => {
  it('tells of others while they are heard of, and forgets them after a while', () => {
    let now = Date.parse('2031-03-12T09:00:00Z')
    const presence = new Presence(() => now)
    presence.heard('a', 'account:ilse', '/values/title')
    presence.heard('a', 'account:maren', null)
    expect(presence.others('a', 'account:maren')).toEqual([
      { actor: 'account:ilse', at: '/values/title', since: '2031-03-12T09:00:00.000Z' },
    ])
    now += 30_000
    presence.heard('a', 'account:ilse', '/values/price')
    expect(presence.others('a', 'account:maren')[0]).toMatchObject({
      at: '/values/price',
      since: '2031-03-12T09:00:00.000Z',
    })
    now += 41_000
    expect(presence.others('a', 'account:maren')).toEqual([])
    expect(presence.others('b', 'account:maren')).toEqual([])
  })
  it('does not grow with entries that nobody has open any more', () => {
    let now = 0
    const presence = new Presence(() => now)
    for (let entry = 0; entry < 3000; entry++) {
      now += 1000
      presence.heard(String(entry), 'account:ilse', null)
    }
    const open = Array.from({ length: 3000 }, (_, entry) => presence.others(String(entry), 'somebody').length)
    expect(open.filter((count) => count > 0).length).toBe(41)
  })
})
