import type { TreeNode } from '@wisteria/client'
import { describe, expect, it } from 'vitest'
import { forestOf, isWithin, linesOf, placeAfter, placeAt, placeOf } from './forest'

const node = (id: string, parent: string | null = null): TreeNode => ({
  id,
  type: 'page',
  title: id,
  path: null,
  region: null,
  parent,
  order: null,
  inMenu: null,
  state: 'new',
  states: {},
})
const forest = forestOf([node('a'), node('b'), node('a1', 'a'), node('a2', 'a'), node('c'), node('a1x', 'a1')])

describe('the tree of pages', () => {
  it('stands as it came, orphans and circles too', () => {
    expect(linesOf(forest, new Set()).map((line) => `${line.depth}${line.node.id}`)).toEqual([
      '0a',
      '1a1',
      '2a1x',
      '1a2',
      '0b',
      '0c',
    ])
    expect(linesOf(forest, new Set(['a'])).map((line) => line.node.id)).toEqual(['a', 'b', 'c'])
    expect(forestOf([node('x', 'gone')]).map((other) => other.node.id)).toEqual(['x'])
  })
  it('knows where each page is, so that a move can be undone', () => {
    expect(placeOf(forest, 'a')).toEqual({ parent: null, after: null })
    expect(placeOf(forest, 'a2')).toEqual({ parent: 'a', after: 'a1' })
    expect(placeOf(forest, 'gone')).toBeUndefined()
  })
  it('is walked by keyboard in four directions', () => {
    expect(placeAfter(forest, 'b', 'up')).toEqual({ parent: null, after: null })
    expect(placeAfter(forest, 'b', 'down')).toEqual({ parent: null, after: 'c' })
    expect(placeAfter(forest, 'b', 'in')).toEqual({ parent: 'a', after: 'a2' })
    expect(placeAfter(forest, 'a1x', 'out')).toEqual({ parent: 'a', after: 'a1' })
    expect(placeAfter(forest, 'a2', 'up')).toEqual({ parent: 'a', after: null })
    for (const [id, move] of [
      ['a', 'up'],
      ['c', 'down'],
      ['a', 'in'],
      ['a', 'out'],
      ['gone', 'up'],
    ] as const)
      expect(placeAfter(forest, id, move)).toBeUndefined()
  })
  it('takes what is dropped before, after and below', () => {
    expect(placeAt(forest, 'b', 'before')).toEqual({ parent: null, after: 'a' })
    expect(placeAt(forest, 'a1', 'after')).toEqual({ parent: 'a', after: 'a1' })
    expect(placeAt(forest, 'c', 'below')).toEqual({ parent: 'c', after: null })
    expect([isWithin(forest, 'a1x', 'a'), isWithin(forest, 'a', 'a'), isWithin(forest, 'b', 'a')]).toEqual([
      true,
      true,
      false,
    ])
  })
})
