import { describe, expect, it } from 'vitest'
import { model, settings } from '../../../../e2e/support/models.js'
import type { WisteriaError } from '../base/errors.js'
import { automationForm, type Automation } from './automation.js'
import { readAutomation, valueOf } from './check.js'
import { readAutomationFiles, writeAutomation } from './file.js'
import { nextTime, type Timetable } from './timetable.js'

describe('a timetable', () => {
  const zone = 'Europe/Amsterdam'
  it.each<[string, Timetable, string, string]>([
    ['every hour', { every: 'hour', at: '00:15' }, '2031-05-04T10:20:00Z', '2031-05-04T11:15:00.000Z'],
    ['every hour, at its minute', { every: 'hour', at: '00:15' }, '2031-05-04T10:15:00Z', '2031-05-04T11:15:00.000Z'],
    ['every hour, just before', { every: 'hour', at: '00:15' }, '2031-05-04T10:14:59Z', '2031-05-04T10:15:00.000Z'],
    ['every day', { every: 'day', at: '07:30' }, '2031-05-04T05:30:00Z', '2031-05-05T05:30:00.000Z'],
    ['every day, later that day', { every: 'day', at: '07:30' }, '2031-05-04T05:29:00Z', '2031-05-04T05:30:00.000Z'],
    ['where the clock goes forward', { every: 'day', at: '02:30' }, '2031-03-29T12:00:00Z', '2031-03-30T01:30:00.000Z'],
    ['where an hour comes twice', { every: 'day', at: '02:30' }, '2031-10-25T12:00:00Z', '2031-10-26T00:30:00.000Z'],
    [
      'once where an hour comes twice',
      { every: 'day', at: '02:30' },
      '2031-10-26T00:30:00Z',
      '2031-10-27T01:30:00.000Z',
    ],
    ['every week', { every: 'week', on: ['friday', 'monday'] }, '2031-05-04T12:00:00Z', '2031-05-04T22:00:00.000Z'],
    ['every month', { every: 'month', on: [1, 15], at: '09:00' }, '2031-05-04T12:00:00Z', '2031-05-15T07:00:00.000Z'],
    [
      'the last of a short month',
      { every: 'month', on: [31], at: '09:00' },
      '2031-02-04T12:00:00Z',
      '2031-02-28T08:00:00.000Z',
    ],
    [
      'the last once where two fall on it',
      { every: 'month', on: [30, 31] },
      '2031-02-27T22:59:00Z',
      '2031-02-27T23:00:00.000Z',
    ],
  ])('%s', (_, timetable, after, next) => expect(nextTime(timetable, Date.parse(after), zone)).toBe(next))
})

const automation = (steps: Automation['steps'], more: Partial<Automation> = {}): Automation => ({
  automation: 'one',
  label: 'One',
  starts: { by: 'hand', on: 'site' },
  steps,
  ...more,
})
const problemsOf = (written: Automation): string[] => {
  try {
    readAutomation(written, model, settings)
    return []
  } catch (error) {
    return (error as WisteriaError).problems.map(({ pointer, message }) => `${pointer}: ${message}`)
  }
}

describe('an automation', () => {
  it('fits where its types, fields, locales and paths are there', () => {
    expect(
      problemsOf(
        automation(
          [
            { do: 'compute', name: 'sum', values: { a: '1 + 2', b: [true, null, 'today'] } },
            {
              do: 'each',
              type: 'activity',
              where: 'format = "walk" and starts >= now',
              steps: [
                { do: 'set', if: 'steps.sum.a > 2 and item.format != "talk"', values: { price: 'item.price * 2' } },
              ],
            },
          ],
          { rights: { publish: true, types: ['activity'], locales: ['nl'] } },
        ),
      ),
    ).toEqual([])
  })

  it.each<[Automation, RegExp]>([
    [automation([{ do: 'set', values: { town: '"x"' } }]), /^\/steps\/0: `set` needs `entry`/],
    [automation([{ do: 'compute', values: 'entry.title' }]), /A path begins with trigger, and not with `entry`/],
    [
      automation([
        { do: 'compute', values: 'steps.later' },
        { do: 'compute', name: 'later', values: 1 },
      ]),
      /A path begins with trigger/,
    ],
    [automation([{ do: 'compute', values: 'secrets.token' }]), /A path begins with trigger/],
    [automation([{ do: 'each', steps: [{ do: 'compute', values: 1 }] }]), /either `in`, which is a list, or `type`/],
    [automation([{ do: 'each', in: '[1]', type: 'museum', steps: [{ do: 'compute', values: 1 }] }]), /either `in`/],
    [
      automation([{ do: 'each', type: 'museum', where: 'name = 3', steps: [{ do: 'compute', values: 1 }] }]),
      /^\/steps\/0\/where/,
    ],
    [automation([{ do: 'create', type: 'museum', key: 'body', values: {} }]), /`body` is not a field of museum/],
    [automation([{ do: 'create', type: 'museum', key: 'town', values: {} }]), /The key `town` is not among the values/],
    [automation([{ do: 'create', type: 'museum', values: '"x"' }]), /are an object, by the names of its fields/],
    [automation([{ do: 'publish', entry: 'trigger.id', locales: ['fy'] }]), /`fy` is not a locale/],
    [automation([{ do: 'compute', values: 1 }], { rights: { types: ['musem'] } }), /Did you mean `museum`/],
    [
      automation([{ do: 'compute', values: 1 }], { starts: { by: 'event', events: ['entry.save'] } }),
      /not an event of an entry/,
    ],
    [
      automation([{ do: 'compute', values: 1 }], { starts: { by: 'timetable', every: 'day', on: ['monday'] } }),
      /`on` goes with/,
    ],
    [
      automation([
        { do: 'compute', name: 'a', values: 1 },
        { do: 'compute', name: 'a', values: 1 },
      ]),
      /Another step is named `a`/,
    ],
  ])('says what is wrong at its place: %#', (written, says) => expect(problemsOf(written).join('\n')).toMatch(says))

  it('keeps the types of its values', () => {
    const { steps } = readAutomation(
      automation([
        {
          do: 'compute',
          values: { text: '"a" & 1', number: '1 + 1', truth: '1 = 1', none: 'trigger.x', list: ['2', 3, null] },
        },
      ]),
      model,
      settings,
    )
    const moment = { now: Date.parse('2031-05-04T12:00:00Z'), timeZone: 'UTC' }
    expect(valueOf(steps[0]!.parts['values']!, { trigger: {} }, moment)).toEqual({
      text: 'a1',
      number: 2,
      truth: true,
      none: undefined,
      list: [2, 3, null],
    })
  })
})

describe('a file of an automation', () => {
  const written = automation([{ do: 'compute', name: 'a', values: { text: '"yes" & "no"', list: ['on', true] } }])
  it('says the same as the automation that was written into it', () => {
    expect(readAutomationFiles([{ name: 'one.yaml', text: writeAutomation(written) }])).toEqual([written])
    expect(automationForm.parse(written)).toEqual(written)
  })

  it.each([
    [
      'automation: One\nlabel: x\nstarts: { by: hand, on: site }\nsteps: [{ do: compute, values: 1 }]\n',
      1,
      'lower-case',
    ],
    [
      'automation: one\nlabel: x\nstarts: { by: hand, on: site }\nsteps:\n  - do: compute\n    values: 1\n    extra: 2\n',
      5,
      'extra',
    ],
    ['automation: one\nlabel: x\nstarts: { by: hand, on: site }\nsteps: []\n', 4, 'must have a step'],
    ['automation: one\nlabel: x\nstarts: { by: hand\nsteps: []\n', 4, ''],
  ])('says the line of what is wrong: %#', (text, line, says) => {
    let error: WisteriaError | undefined
    try {
      readAutomationFiles([{ name: 'one.yaml', text }])
    } catch (thrown) {
      error = thrown as WisteriaError
    }
    expect(error?.problems[0]).toMatchObject({ file: 'one.yaml', line })
    expect(error?.problems[0]!.message).toContain(says)
  })

  it('is refused where it nests without end, or repeats itself', () => {
    const deep = `automation: one\nlabel: x\nstarts: { by: hand, on: site }\nsteps: [{ do: compute, values: ${'['.repeat(40)}1${']'.repeat(40)} }]\n`
    expect(() => readAutomationFiles([{ name: 'deep.yaml', text: deep }])).toThrow(/at most 20 deep/)
    const two = { name: 'two.yaml', text: writeAutomation(written) }
    expect(() => readAutomationFiles([{ ...two, name: 'one.yaml' }, two])).toThrow(
      /`one.yaml` has the automation `one`/,
    )
  })
})
