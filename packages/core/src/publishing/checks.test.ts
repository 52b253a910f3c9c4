import { describe, expect, it } from 'vitest'
import { locales, makeModel, randomBytes, refusal, settings } from '../../../../e2e/support/models.js'
import type { WisteriaError } from '../base/errors.js'
import { readValues } from '../documents/names.js'
import { layersAfter, validate } from './validate.js'

const model = makeModel({
  show: `
type: show
check:
  - until >= from
  - { holds: 'phone has value or mail has value', message: 'Say how to reach somebody.' }
  - { holds: 'title != subtitle', message: 'Title and subtitle are the same.' }
fields:
  title: { kind: text, localized: true }
  subtitle: { kind: text, localized: true }
  from: { kind: date }
  until: { kind: date, showIf: 'open != true' }
  open: { kind: boolean }
  phone: { kind: text }
  mail: { kind: email }
  price: { kind: group, check: { holds: 'reduced <= full', message: 'Reduced is more than full.' }, fields: { full: { kind: number }, reduced: { kind: number } } }
  hours: { kind: group, many: true, check: 'closes > opens', fields: { opens: { kind: number }, closes: { kind: number } } }
  body: { kind: block, accepts: [pair], many: true }
`,
  pair: `
block: pair
check: 'left != right'
fields:
  left: { kind: text }
  right: { kind: text }
`,
})
const show = model.types[0]!
const problemsOf = (values: Record<string, unknown>, tags = ['en', 'nl']) => {
  const { document, problems } = readValues(model, show, { phone: '1', ...values }, locales, randomBytes())
  expect(problems).toEqual([])
  return validate(model, show, layersAfter(document, tags, undefined), settings).map(
    ({ code, message, pointer, locale }) => [code, message, pointer, locale],
  )
}

describe('a rule across fields', () => {
  it('stops a publish where it does not hold, and points to a field of it', () => {
    expect(problemsOf({ from: '2031-05-04', until: '2031-05-03' })).toEqual([
      ['checkFailed', 'Show: `until >= from` does not hold.', '/values/until', undefined],
    ])
    expect(problemsOf({ from: '2031-05-04', until: '2031-05-04' })).toEqual([])
  })
  it('compares two fields once both have a value', () => {
    expect(problemsOf({ from: '2031-05-04' })).toEqual([])
    expect(problemsOf({ until: '2031-05-04' })).toEqual([])
  })
  it('asks of what is missing where it says so', () =>
    expect(problemsOf({ phone: '' })).toEqual([
      ['checkFailed', 'Say how to reach somebody.', '/values/phone', undefined],
    ]))
  it('leaves out what is hidden', () =>
    expect(problemsOf({ from: '2031-05-04', until: '2031-05-03', open: true })).toEqual([]))
  it('is asked in each locale where it is about localized fields', () =>
    expect(problemsOf({ title: { en: 'A', nl: 'B' }, subtitle: { en: 'C', nl: 'b' } })).toEqual([
      ['checkFailed', 'Title and subtitle are the same. (nl)', '/values/title/nl', 'nl'],
    ]))
  it('holds in groups, in each element of a repeated one, and in blocks', () => {
    expect(
      problemsOf({
        price: { full: 5, reduced: 6 },
        hours: [{ values: { opens: 9, closes: 17 } }, { values: { opens: 9, closes: 9 } }],
        body: [{ block: 'pair', values: { left: 'x', right: 'X' } }],
      }),
    ).toEqual([
      ['checkFailed', 'Reduced is more than full.', '/values/price/reduced', undefined],
      ['checkFailed', 'Hours: `closes > opens` does not hold.', '/values/hours/1/values/closes', undefined],
      ['checkFailed', 'Pair: `left != right` does not hold.', '/values/body/0/values/left', undefined],
    ])
  })
})

describe('mistakes of rules across fields', () => {
  const thing = (check: string, more = '') =>
    `type: thing\ncheck: '${check}'\nfields:\n  name: { kind: text${more} }\n  size: { kind: number }\n  kin: { kind: entry, accepts: [thing] }\n`
  it.each([
    [thing('size >= nme'), /`check`: `nme` is not a field of thing. Did you mean `name`/],
    [thing('size >= name'), /`size` \(kind number\) is not compared with `name`, which is of kind text/],
    [thing('size > kin.size'), /only sees its own entry/],
    [thing('size > now'), /must not change by waiting/],
    [thing('size in [size]'), /A list holds values/],
    [thing('size > here.size'), /`here` is the entry around a list/],
    [thing('size > 1', ', check: "size > 1"'), /`check` belongs to a type, a block type or a group/],
  ])('%s', async (text, message) => {
    const { problems } = await refusal<WisteriaError>(() => makeModel({ thing: text }))
    expect(problems?.map((problem) => problem.message).join()).toMatch(message)
  })
})
