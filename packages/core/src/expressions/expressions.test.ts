import { describe, expect, it } from 'vitest'
import { cases, moment, samples, type SampleEntry } from '../../../../e2e/support/conditionCases.js'
import { model, refusal, type } from '../../../../e2e/support/models.js'
import type { WisteriaError } from '../base/errors.js'
import { draftFacts } from '../conditions/condition.js'
import type { WrittenCondition } from '../conditions/written.js'
import { parseCondition } from '../conditions/parse.js'
import { fieldWithId, kindOf } from '../model/model.js'
import { spanOf } from '../text/span.js'
import { readExpression, readTest, rootsIn, type ExpressionContext } from './check.js'
import { holds, valueOfExpression, type Data, type Scope } from './evaluate.js'

const activity = [type('activity')]
const context: ExpressionContext = {
  model,
  roots: { entry: { types: activity }, before: { types: activity }, after: { types: activity }, trigger: {} },
  facts: draftFacts,
  follows: true,
}

/** A sample as expressions see it: by names, with the entries that it refers to. */
function dataOf(sample: SampleEntry): Data {
  const values: Record<string, Data> = {}
  for (const [id, fact] of Object.entries(sample.facts)) {
    const field = fieldWithId(type(sample.type), id)!
    const comparison = kindOf(field).comparison
    const one = (value: string | number): Data =>
      comparison === 'boolean'
        ? value === 1
        : comparison === 'span'
          ? spanOf(Number(value))
          : comparison === 'reference'
            ? samples.filter(({ id }) => id === value).map(dataOf)[0]
            : value
    values[field.name] = Array.isArray(fact) ? fact.map(one).filter((value) => value !== undefined) : one(fact)
  }
  const { id, state, updated, published } = sample
  return { ...values, entry: { id, type: sample.type, state, updated, published } }
}

/** The same condition as an expression about `after`, or about `item` inside `any`. */
function rooted(text: string): string {
  const places: [at: number, root: string][] = []
  const look = (part: WrittenCondition, root: string): void => {
    if ('path' in part) places.push([part.path.at, root])
    if (part.is === 'any') look(part.where, 'item')
    if ('of' in part) [part.of].flat().forEach((inner) => look(inner, root))
  }
  look(parseCondition(text), 'after')
  return places
    .sort(([a], [b]) => b - a)
    .reduce((written, [at, root]) => `${written.slice(0, at)}${root}.${written.slice(at)}`, text)
}

const testHolds = (text: string, scope: Scope): boolean => holds(readTest(text, context), scope, moment)
const value = (text: string, scope: Scope = {}): Data => valueOfExpression(readExpression(text, context), scope, moment)

describe('expressions and conditions', () => {
  it.each(cases)('mean the same: %s', (text, expected) => {
    const written = rooted(text)
    const meeting = samples
      .filter((sample) => sample.type === 'activity' && testHolds(written, { after: dataOf(sample) }))
      .map(({ id }) => id.replace(/0+$/, ''))
    expect(meeting.join(' '), written).toBe(expected)
  })
})

describe('values', () => {
  const scope: Scope = {
    trigger: {
      body: {
        price: '12.5',
        count: 3,
        title: 'Night walk',
        lines: [
          { sku: 'a', n: 1 },
          { sku: 'b', n: 4 },
        ],
        none: null,
      },
    },
    entry: {
      title: 'Songs',
      state: 'a field of this name',
      price: 8,
      day: '2031-05-04',
      entry: { id: 'x1', state: 'public' },
    },
  }
  it.each<[string, Data]>([
    ['1 + 2 * 3', 7],
    ['(1 + 2) * 3', 9],
    ['7 - 2 - 1', 4],
    ['entry.price -3', 5],
    ['-entry.price + 1', -7],
    ['1 / 4', 0.25],
    ['1 / 0', undefined],
    ['trigger.body.count * 2', 6],
    ['trigger.body.none + 2', undefined],
    ['trigger.body.nothing', undefined],
    ['number(trigger.body.price) + 1', 13.5],
    ['"Walk: " & trigger.body.title & ", " & 3 & trigger.body.none', 'Walk: Night walk, 3'],
    ['today', '2031-05-04'],
    ['today + 7 days', '2031-05-11'],
    ['now - 90 minutes', '2031-05-04T20:00:00.000Z'],
    ['1 week + today', '2031-05-11'],
    ['entry.day - 1 day', '2031-05-03'],
    ['today - entry.day', 0],
    ['2031-05-10 - entry.day', 6],
    ['day(2031-05-04T23:30:00Z)', '2031-05-05'],
    ['round(2.345, 2)', 2.35],
    ['round(2.5)', 3],
    ['lower("ABC")', 'abc'],
    ['trim("  a ")', 'a'],
    ['split("a, b,,c", ",")', ['a', 'b', 'c']],
    ['join(trigger.body.lines.sku, " and ")', 'a and b'],
    ['count(trigger.body.lines)', 2],
    ['count(trigger.body.none)', 0],
    ['first(trigger.body.lines.n)', 1],
    ['last(trigger.body.lines.n)', 4],
    ['firstOf(trigger.body.none, "", "given")', 'given'],
    ['[1, entry.price]', [1, 8]],
    ['entry.price > 5', true],
    ['entry.price + 1 > 5 * 2', false],
    ['any trigger.body.lines (item.sku = "a" and item.n = 4)', false],
    ['any trigger.body.lines (item.sku = "b" and item.n = 4)', true],
    ['entry.state', 'public'],
    ['entry.entry.id', 'x1'],
  ])('%s', (text, expected) => expect(value(text, scope)).toEqual(expected))

  it('are compared between roots, whatever was there before', () => {
    expect(testHolds('before.title != after.title', { before: { title: 'a' }, after: { title: 'b' } })).toBe(true)
    expect(testHolds('before.title != after.title', { before: { title: 'Á' }, after: { title: 'a' } })).toBe(false)
    expect(testHolds('before.price < after.price', { after: { price: 3 } })).toBe(false)
    expect(
      testHolds('before.museum = after.museum', {
        before: { museum: { id: 'm' } },
        after: { museum: { entry: { id: 'm' } } },
      }),
    ).toBe(true)
  })

  it('say which roots they use', () => {
    expect([...rootsIn(readExpression('before.title & trigger.x', context).expression)]).toEqual(['before', 'trigger'])
  })
})

describe('mistakes in expressions', () => {
  it.each([
    ['', 1, /is empty/],
    ['title = "x"', 1, /begins with entry, before, after, trigger, and not with `title`. Did you mean `entry.title`\?/],
    ['bfore.title = "x"', 1, /Did you mean `before`\?/],
    ['before.titel = "x"', 1, /`titel` is not a field of activity. Did you mean `title`\?/],
    [
      'before.entry.stat = "x"',
      1,
      /`before.entry.stat` is no fact of an entry that can be asked here. Did you mean `state`\?/,
    ],
    ['after.price = "9"', 15, /`after.price` \(kind number\) is compared with a number/],
    ['after.format = "wlak"', 16, /is not one of the values of .*Did you mean `walk`\?/],
    ['"wlak" = after.format', 1, /is not one of the values/],
    ['entry.state = "pubic"', 15, /Did you mean `public`\?/],
    ['entry.title & ', 15, /ends where a value was expected/],
    ['lengthOf("x")', 1, /`lengthOf` is not a function/],
    ['round()', 1, /takes 1 to 2 values, and has 0/],
    ['1.5 days + today', 1, /whole number of days/],
    ['entry.title.x = 1', 1, /nothing follows it after a dot/],
    ["entry.title = 'x'", 15, /double quotes/],
    ['(entry.price', 13, /Expected `\)`/],
    ['entry.price 3', 13, /Expected an operator or the end/],
    ['('.repeat(100) + '1', 66, /nests at most 64 deep/],
  ])('%s', async (text, column, message) => {
    const error = await refusal<WisteriaError>(() => readExpression(text, context))
    expect(error.message).toMatch(message)
    expect(error.problems[0]).toMatchObject({ line: 1, column })
  })

  it('say where a condition is expected and a value stands', async () => {
    expect((await refusal(() => readTest('entry.price + 1', context))).message).toMatch(
      /Expected a condition.*compare it/,
    )
    expect(() => readTest('trigger.body.ready and entry.price > 1', context)).not.toThrow()
  })

  it('are found in values too, with their place', async () => {
    const wrong = async (text: string): Promise<string> =>
      (await refusal(() => value(text, { trigger: { text: 'twelve', list: [1], at: '2031-01-01' } }))).message
    expect(await wrong('trigger.text * 2')).toMatch(
      /`\*` does not go with a text and a number. Texts are joined with `&`.*column 14/,
    )
    expect(await wrong('number(trigger.text)')).toMatch(/`number` wants a text such as/)
    expect(await wrong('trigger.at + 2 hours')).toMatch(/is a whole day/)
    expect(await wrong('2 days')).toMatch(/no value by itself/)
    expect(await wrong('trigger.text + 2 days')).toMatch(/neither a day nor an instant/)
    expect(await wrong('"a" & trigger')).toMatch(/An object is not written in a text/)
  })

  it('do not follow references where only the entry is at hand', async () => {
    const alone = { ...context, follows: false }
    expect((await refusal(() => readExpression('after.museum.name = "x"', alone))).message).toMatch(
      /leads to another entry/,
    )
    expect(() => readExpression('after.museum = "x"', alone)).not.toThrow()
  })
})
