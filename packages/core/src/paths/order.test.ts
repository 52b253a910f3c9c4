import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ordersAfter, type Sibling } from './order.js'

const siblings = (...orders: (number | undefined)[]): Sibling[] =>
  orders.map((order, index) => ({ id: String.fromCharCode(97 + index), order }))
/** The order of siblings once the numbers are set: those without one last, in their earlier order. */
const orderOf = (all: readonly Sibling[], numbers: ReadonlyMap<string, number>): string[] =>
  all
    .map((item, index) => ({ id: item.id, order: numbers.get(item.id) ?? item.order ?? Infinity, index }))
    .sort((a, b) => (a.order === b.order ? a.index - b.index : a.order - b.order))
    .map(({ id }) => id)

describe('the place of an entry among its siblings', () => {
  it('takes its own number only, where there is room', () => {
    expect([...ordersAfter(siblings(10, 20, 30), 'c', 'a')]).toEqual([['c', 15]])
    expect([...ordersAfter(siblings(10, 20, 30), 'c', null)]).toEqual([['c', 0]])
    expect([...ordersAfter(siblings(10, 20, 30), 'a', 'c')]).toEqual([['a', 40]])
    expect([...ordersAfter([], 'a', null)]).toEqual([['a', 10]])
  })
  it('numbers all of them anew where there is none', () => {
    expect([...ordersAfter(siblings(1, 2, 3), 'c', 'a', true)]).toEqual([
      ['a', 10],
      ['c', 20],
      ['b', 30],
    ])
    expect([...ordersAfter(siblings(undefined, undefined), 'b', null)]).toEqual([
      ['b', 10],
      ['a', 20],
    ])
  })
  it('always ends where it was asked to, whatever the numbers were', () => {
    const some = fc.array(fc.option(fc.integer({ min: -50, max: 50 }), { nil: undefined }), { maxLength: 8 })
    fc.assert(
      fc.property(some, fc.nat(8), fc.nat(9), fc.boolean(), (orders, moved, place, isWhole) => {
        const numbered = orders.filter((order) => order !== undefined).sort((a, b) => a - b)
        const all = siblings(...numbered, ...orders.filter((order) => order === undefined))
        const id = all[moved % Math.max(all.length, 1)]?.id ?? 'z'
        const others = all.filter((other) => other.id !== id)
        const at = place % (others.length + 1)
        const after = at === 0 ? null : others[at - 1]!.id
        const numbers = ordersAfter(all, id, after, isWhole)
        const wanted = [
          ...others.slice(0, at).map((other) => other.id),
          id,
          ...others.slice(at).map((other) => other.id),
        ]
        const stood = [...others.slice(0, at), { id, order: undefined }, ...others.slice(at)].map((other) => ({
          id: other.id,
          order: all.find((sibling) => sibling.id === other.id)?.order,
        }))
        expect(orderOf(stood, numbers)).toEqual(wanted)
        if (isWhole) for (const number of numbers.values()) expect(Number.isInteger(number)).toBe(true)
      }),
    )
  })
})
