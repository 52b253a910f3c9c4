import type { ListedEntry } from '@wisteria/client'
import { describe, expect, it } from 'vitest'
import { entryOf } from '../testing/desk'
import { settings, type } from '../../../../e2e/support/models.js'
import type { Site } from '../session'
import { isNarrowed, readAsks, writeAsks } from './asks'
import { cellWords } from './cells'
import { settable } from './bulkActions'
import { createSelection } from './selection'

const row = (id: string): ListedEntry => ({ ...entryOf({}), id, path: null })
const rows = ['a', 'b', 'c', 'd', 'e'].map(row)
const site = { settings } as unknown as Site
const activity = type('activity')

describe('what a list asks for', () => {
  it('is written into its address and read from it', () => {
    const asks = { where: 'format = "walk"', sort: '-starts', columns: ['format', 'starts'] }
    expect(readAsks(writeAsks(asks))).toEqual(asks)
    expect(writeAsks({ search: 'salt', columns: [] })).toEqual({ search: 'salt' })
    expect(readAsks({ where: ['a', 'b'], search: '', other: 'x' })).toEqual({})
    expect([isNarrowed({}), isNarrowed({ search: 'x' }), isNarrowed({ sort: 'x' })]).toEqual([false, true, false])
  })
})

describe('what is chosen in a list', () => {
  it('is rows one by one, or all between two of them', () => {
    const selection = createSelection()
    selection.toggle(rows[1]!, rows)
    selection.toggle(rows[3]!, rows, true)
    expect([...selection.chosen.keys()]).toEqual(['b', 'c', 'd'])
    selection.toggle(rows[2]!, rows)
    expect([...selection.chosen.keys()]).toEqual(['b', 'd'])
    selection.toggle(rows[0]!, rows, true)
    expect([...selection.chosen.keys()].sort()).toEqual(['a', 'b', 'c', 'd'])
  })
  it('is all that the list finds, until one is chosen by itself', () => {
    const selection = createSelection()
    selection.toggle(rows[0]!, rows)
    selection.all()
    expect([selection.has('e'), selection.isAll.value]).toEqual([true, true])
    selection.toggle(rows[1]!, rows)
    expect([selection.has('e'), selection.isAll.value]).toEqual([false, false])
    selection.page(rows)
    expect(selection.chosen.size).toBe(5)
    selection.clear()
    expect(selection.isEmpty.value).toBe(true)
  })
})

describe('a cell of a column', () => {
  it.each([
    ['format', 'walk', 'Walk'],
    ['free', true, 'Yes'],
    ['free', false, 'No'],
    ['price', 9.5, '9.5'],
    ['tags', ['dark', 'wet'], 'dark, wet'],
    ['museum', 'The Lighthouse', 'The Lighthouse'],
    ['speakers', ['Wilma', null, 'Piet'], 'Wilma, Piet'],
    ['title', null, ''],
    ['day', '2031-05-04', '4 May 2031'],
    ['body', [{ id: 'a', block: 'quote', values: { text: 'Dark is not empty.' } }], 'Dark is not empty.'],
  ])('says %s of %j', (name, value, words) => {
    expect(cellWords(value, site, activity, name)).toBe(words)
  })
  it('says a time as the clocks of the site show it, or those of its own zone', () => {
    expect(cellWords('2031-05-04T18:30:00Z', site, activity, 'starts')).toBe('4 May 2031, 20:30')
    const zoned = { local: '2031-05-05T03:30:00', zone: 'Asia/Tokyo', instant: '2031-05-04T18:30:00Z' }
    expect(cellWords(zoned, site, activity, 'starts')).toBe('5 May 2031, 03:30 (Asia/Tokyo)')
  })
})

describe('what is done to many', () => {
  it('sets the fields that hold one plain value', () => {
    expect(settable(activity).map((field) => field.name)).toEqual([
      'title',
      'format',
      'starts',
      'day',
      'price',
      'free',
      'summary',
    ])
  })
})
