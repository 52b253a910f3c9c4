import { describe, expect, it } from 'vitest'
import { childrenFirst, parentsFirst } from './parentsFirst.js'

const entry = (id: string, parent?: string) => ({ id, parent })
const ids = (entries: readonly { readonly id: string }[]) => entries.map(({ id }) => id).join('')

describe('entries by their parents', () => {
  const all = [entry('c', 'b'), entry('x'), entry('b', 'a'), entry('y', 'elsewhere'), entry('a')]

  it('follow them, and keep their order otherwise', () => expect(ids(parentsFirst(all))).toBe('xyabc'))
  it('come before them, and keep their order otherwise', () => expect(ids(childrenFirst(all))).toBe('cbxya'))
  it('are all there where parents go in a circle', () =>
    expect(ids(parentsFirst([entry('a', 'b'), entry('b', 'a'), entry('c')]))).toBe('cab'))
})
