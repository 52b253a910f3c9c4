import { describe, expect, it } from 'vitest'
import { model, settings, type } from '../../../../e2e/support/models.js'
import { readCondition } from './check.js'
import { exampleConditions } from './examples.js'
import { askables, operatorsFor, withTest, writeTest } from './pieces.js'

const facts = { state: 'State', updated: 'Last changed' } as const
const context = (owner = type('activity')) =>
  ({ model, owners: [owner], systemFacts: ['state', 'updated'], timeZone: settings.timeZone }) as const
const sampleOperand: Readonly<Record<string, string>> = {
  text: 'Boat',
  exact: 'Boat',
  number: '12',
  boolean: 'true',
  date: '2031-03-12',
  dateTime: 'now - 7 days',
  span: 'PT1H',
  reference: '',
  presence: '',
}

describe('conditions by choosing', () => {
  it('offer what can be asked, also through a reference', () => {
    const paths = askables(model, [type('activity')], facts).map(({ path }) => path)
    expect(paths).toEqual(
      expect.arrayContaining(['entry.state', 'entry.updated', 'title', 'format', 'museum', 'museum.name', 'starts']),
    )
    expect(askables(model, [type('activity'), type('page')], {}).map(({ path }) => path)).toEqual(['title', 'slug'])
    expect(askables(model, [], facts).map(({ label }) => label)).toEqual(['State', 'Last changed'])
  })
  it('write only what the language reads, for everything and every operator', () => {
    for (const askable of askables(model, [type('activity')], facts))
      for (const operator of operatorsFor(askable)) {
        const operand = askable.options?.[0]?.value ?? sampleOperand[askable.comparison]!
        const text = writeTest(askable, operator, operand)
        expect(() => readCondition(text, context()), text).not.toThrow()
      }
  })
  it('join what was there, so that it goes on meaning the same', () => {
    const title = askables(model, [type('activity')], {})[0]!
    const test = writeTest(title, 'contains', 'a "b" or c')
    expect(test).toBe('title contains "a \\"b\\" or c"')
    expect(withTest('', test)).toBe(test)
    expect(withTest('price > 3', 'free = true')).toBe('price > 3 and free = true')
    expect(withTest(test, 'free = true')).toBe(`${test} and free = true`)
    expect(withTest('price > 3 or free = true', 'title has value')).toBe(
      '(price > 3 or free = true) and title has value',
    )
  })
})

describe('conditions to try', () => {
  it('can all be asked of the types they are for, of one or of all', () => {
    const systemFacts = ['state', 'freshness'] as const
    for (const owners of [...model.types.map((owner) => [owner]), model.types]) {
      const examples = exampleConditions(model, owners, 'night')
      expect(examples.length).toBeGreaterThan(1)
      for (const example of examples)
        expect(() => readCondition(example, { model, owners, systemFacts, timeZone: 'UTC' }), example).not.toThrow()
    }
    expect(exampleConditions(model, [type('activity')], 'night')).toContain('format in ["talk", "walk"]')
  })
})
