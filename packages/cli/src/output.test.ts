import { describe, expect, it } from 'vitest'
import { fittingWidths } from './output.js'

describe('the columns of a table', () => {
  const total = (widths: readonly number[]) => widths.reduce((sum, width) => sum + width, 0) + 2 * (widths.length - 1)
  it('stay as they are where they fit', () => {
    expect(fittingWidths([10, 20], 32)).toBeUndefined()
    expect(fittingWidths([], 80)).toBeUndefined()
  })
  it('give way to fit, the widest first', () => {
    expect(fittingWidths([10, 40, 12], 60)).toEqual([10, 34, 12])
    const widths = fittingWidths([30, 31, 32, 9], 80)!
    expect(total(widths)).toBe(80)
    expect(widths[3]).toBe(9)
  })
  it('get no narrower than what can be read, however narrow the terminal is', () => {
    expect(fittingWidths([30, 30, 4], 10)).toEqual([8, 8, 4])
  })
})
