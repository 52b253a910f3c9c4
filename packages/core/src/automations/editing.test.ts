import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { partsOfStart, partsOfStep, startsBy, stepSays, type AutomationStep } from './automation.js'
import {
  draftFrom,
  flatValues,
  readWritten,
  valuesAt,
  withoutStep,
  withPart,
  withStep,
  withStepMoved,
  writtenValue,
} from './editing.js'

const text = `# Told by the office.
automation: moved # as in the plan
label: Moved
rights: { publish: true }
starts:
  by: hand
  on: site
steps:
  # First it waits.
  - do: wait
    until: now + 1 hours
  - do: publish
    entry: trigger.entry # the one
`

describe('a text that is changed in a form', () => {
  it('keeps what is not changed, with its comments', () => {
    expect(withPart(text, ['label'], 'Has moved')).toBe(text.replace('label: Moved', 'label: Has moved'))
    expect(withPart(text, ['steps', 1, 'locales'], ['en'])).toContain('entry: trigger.entry # the one\n    locales:')
    expect(withPart(text, ['rights', 'publish'], undefined)).toBe(text.replace('rights: { publish: true }\n', ''))
    const more = withStep(text, ['steps'], { do: 'compute', values: '1' })
    expect(draftFrom(more)?.steps).toHaveLength(3)
    expect(more.startsWith('# Told by the office.\nautomation: moved # as in the plan\n')).toBe(true)
    expect(draftFrom(withoutStep(text, ['steps'], 0))?.steps).toEqual([{ do: 'publish', entry: 'trigger.entry' }])
    const moved = withStepMoved(text, ['steps'], 1, 0)
    expect((draftFrom(moved)?.steps as AutomationStep[]).map((step) => step.do)).toEqual(['publish', 'wait'])
    expect(moved).toContain('# the one')
  })

  it('has steps also where there were none, and within others', () => {
    const begun = withStep('automation: x', ['steps'], { do: 'each', steps: [] })
    expect(draftFrom(withStep(begun, ['steps', 0, 'steps'], { do: 'wait' }))?.steps).toEqual([
      { do: 'each', steps: [{ do: 'wait' }] },
    ])
  })

  it.each([
    ['a list', '- a'],
    ['nothing', ''],
    ['broken YAML', 'a: ['],
    ['circles of aliases', 'a: &x [*x]'],
  ])('stays as it is where it is %s', (_, broken) => {
    expect(draftFrom(broken)).toBe(undefined)
    expect(withPart(broken, ['label'], 'x')).toBe(broken)
  })
})

it('reads values as they were written', () => {
  for (const [written, value] of [
    ['12.5', 12.5],
    ['true', true],
    ['null', null],
    ['["a", 1]', ['a', 1]],
    ['entry.title', 'entry.title'],
    ['"Sold out"', '"Sold out"'],
    ['[entry.title]', '[entry.title]'],
    ['  ', undefined],
  ] as const)
    expect(readWritten(written)).toEqual(value)
  expect([writtenValue('a & b'), writtenValue(3), writtenValue([1]), writtenValue(undefined)]).toEqual([
    'a & b',
    '3',
    '[1]',
    '',
  ])
})

it('takes objects apart and puts them together again', () => {
  const name = fc.stringMatching(/^[a-z][a-zA-Z-]{0,8}$/)
  const value = fc.letrec<{ value: unknown }>((tie) => ({
    value: fc.oneof(
      { depthSize: 'small' },
      fc.string(),
      fc.integer(),
      fc.array(fc.integer()),
      fc.dictionary(name, tie('value'), { minKeys: 1, maxKeys: 3 }),
    ),
  })).value
  fc.assert(
    fc.property(fc.dictionary(name, value, { minKeys: 1, maxKeys: 4, noNullPrototype: true }), (values) => {
      expect(valuesAt(flatValues(values))).toEqual(values)
    }),
  )
})

it('knows the parts of every start and every step', () => {
  for (const by of startsBy) expect(partsOfStart(by).length).toBeGreaterThan(0)
  for (const kind of Object.keys(stepSays) as AutomationStep['do'][])
    expect(partsOfStep(kind).length).toBeGreaterThan(0)
  expect(partsOfStep('create').map(({ name, is, isRequired }) => [name, is, isRequired])).toEqual([
    ['type', 'type', true],
    ['key', 'field', false],
    ['values', 'values', true],
  ])
  expect(partsOfStep('withdraw').map(({ name }) => name)).toEqual(['entry', 'locales'])
  expect(partsOfStep('call').find(({ name }) => name === 'method')?.options).toEqual(['GET', 'POST', 'DELETE'])
  expect(partsOfStep('each').map(({ is }) => is)).toEqual(['expression', 'type', 'condition', 'steps'])
  expect(partsOfStart('timetable').map(({ is }) => is)).toEqual(['choice', 'time', 'days'])
})
