import { describe, expect, it } from 'vitest'
import { patch } from './patching'

describe('making values like others, in place', () => {
  it('keeps the items of a list, by their ids', () => {
    const values = {
      tags: [
        { id: 'a', value: 'dark' },
        { id: 'b', value: 'late' },
      ],
    }
    const [a, b] = values.tags
    patch(values, {
      tags: [
        { id: 'b', value: 'early' },
        { id: 'a', value: 'dark' },
      ],
    })
    expect(values.tags).toEqual([
      { id: 'b', value: 'early' },
      { id: 'a', value: 'dark' },
    ])
    expect([values.tags[0] === b, values.tags[1] === a]).toEqual([true, true])
  })

  it('takes a JSON value as it is, also where its items have the same id', () => {
    const values = { data: [{ id: 'x', seats: 1 }] }
    const next = {
      data: [
        { id: 'x', seats: 2 },
        { id: 'x', seats: 3 },
      ],
    }
    patch(values, next)
    expect(values).toEqual(next)
    expect(values.data[0]).not.toBe(next.data[0])
  })
})
