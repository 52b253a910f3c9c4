import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { cases, moment, samples } from '../../../../e2e/support/conditionCases.js'
import { model, refusal, type } from '../../../../e2e/support/models.js'
import type { WisteriaError } from '../base/errors.js'
import { readCondition, type CheckContext } from './check.js'
import { draftFacts, publicFacts } from './condition.js'
import { meets, orderOf, type Candidate } from './evaluate.js'
import { parseCondition } from './parse.js'
import { often } from '../../../../e2e/support/length.js'

const context: CheckContext = {
  model,
  owners: [type('activity')],
  systemFacts: draftFacts,
  timeZone: 'Europe/Amsterdam',
}

const candidates = new Map<string, Candidate>()
for (const sample of samples)
  candidates.set(sample.id, {
    id: sample.id,
    facts: sample.facts,
    system: {
      type: type(sample.type).id,
      state: sample.state,
      updated: sample.updated,
      ...(sample.published ? { published: sample.published } : {}),
    },
    elements: () => [],
    follow: (field) => [sample.facts[field] ?? []].flat().flatMap((target) => candidates.get(String(target)) ?? []),
  })

const meeting = (text: string): string => {
  const { condition } = readCondition(text, context)
  return samples
    .filter((sample) => sample.type === 'activity' && meets(condition, candidates.get(sample.id)!, moment))
    .map((sample) => sample.id.replace(/0+$/, ''))
    .join(' ')
}

describe('what conditions mean', () => {
  it.each(cases)('%s', (text, expected) => expect(meeting(text)).toBe(expected))

  it('has an entry meet either a condition or its negation, never both', () => {
    for (const [text] of cases) {
      const all = meeting('title has value').split(' ')
      const yes = meeting(text).split(' ').filter(Boolean)
      const no = meeting(`not (${text})`).split(' ').filter(Boolean)
      expect([...yes, ...no].sort(), text).toEqual([...all].sort())
    }
  })
})

describe('mistakes', () => {
  it.each([
    ['', 1, /is empty/],
    ['startz > now', 1, /`startz` is not a field of activity. Did you mean `starts`\?/],
    ['museum.nme = "x"', 1, /`nme` is not a field of museum. Did you mean `name`\?/],
    ['title.name = "x"', 1, /is of kind text, so nothing follows it after a dot/],
    ['format = walk', 10, /found the word `walk`. Write texts in double quotes: `"walk"`/],
    ["format = 'walk'", 10, /Write texts in double quotes/],
    [
      'format = "wolk"',
      10,
      /`wolk` is not one of the values of `format` \(kind choice\): talk, walk, concert, workshop. Did you mean `walk`\?/,
    ],
    ['format > "walk"', 8, /`>` does not go with `format`/],
    ['format contains "a"', 8, /Use `=` or `in`/],
    ['price = "9"', 9, /`price` \(kind number\) is compared with a number/],
    ['price contains "9"', 7, /`contains` does not go with `price`/],
    ['free = 1', 8, /compared with `true` or `false`/],
    ['day = 2031-02-30', 7, /`2031-02-30` is not a day that exists/],
    ['day >= now', 8, /compared with a day: use `today`/],
    ['starts > 2031-05-04T10:00', 10, /needs an offset/],
    ['starts > noow', 10, /Did you mean `now`\?/],
    ['starts > today + 3 hours', 18, /`today` is a whole day/],
    ['starts > now + 3 fortnights', 18, /Expected days, weeks, hours or minutes after 3/],
    ['price >', 8, /Expected a value, found the end/],
    ['price', 6, /Expected an operator after `price`/],
    ['price like 3', 7, /`like` is not an operator/],
    ['price has', 10, /Expected `has value` or `has no value`/],
    ['title starts "x"', 14, /Expected `starts with`/],
    ['(price > 3', 11, /Expected `\)` to close the parenthesis/],
    ['price > 3)', 10, /closes nothing/],
    ['price > 3 price < 4', 11, /Expected `and`, `or` or the end/],
    ['price in 3', 10, /Expected `\[`/],
    ['price in [3 4]', 13, /Expected `,` between the items/],
    ['price in [[3]]', 11, /Expected a value/],
    ['and price > 3', 1, /found the word `and`/],
    ['price > 3 and', 14, /ends where a field was expected/],
    ['title = "unclosed', 9, /no closing quote/],
    ['title = "bad \\q"', 9, /escape that JSON does not know/],
    ['price ~ 3', 7, /`~` does not belong/],
    ['body = 1', 6, /`=` does not go with `body` \(kind block\). Use `has value` or `has no value`/],
    ['any title (name = "x")', 5, /`any` needs a field of kind entry/],
    ['any speakers name = "x"', 14, /Expected `\(`/],
    ['entry.stat = "new"', 1, /`entry.stat` is not a fact of an entry. Did you mean `entry.state`\?/],
    ['entry = "x"', 1, /`entry` is not a fact of an entry. These are: entry.id, entry.type, /],
    ['museum.entry.name = "x"', 1, /`entry.name` is not a fact of an entry/],
    ['entry.state.x = "new"', 1, /`entry.state.x` is not a fact of an entry/],
    ['$state = "new"', 1, /`\$` does not belong in a condition/],
    ['entry.id > "x"', 10, /does not go with entry.id. Use `=`, `!=` or `in`/],
    ['now > starts', 1, /goes on the right of a comparison/],
    ['price > 1e999', 9, /too large/],
    ['price\n  > 3 and\n  startz has value', 3, /line 3, column 3/],
  ])('%s', async (text, column, message) => {
    const error = await refusal<WisteriaError>(() => readCondition(text, context))
    expect(error.code).toBe('badCondition')
    expect(error.message).toMatch(message)
    expect(error.problems[0]?.column).toBe(column)
  })

  it('refuses entry.state to those who read what is public', async () => {
    const error = await refusal(() => readCondition('entry.state = "new"', { ...context, systemFacts: publicFacts }))
    expect(error.message).toMatch(/`entry.state` is not known in the published edition/)
  })

  it('bounds length, depth and the number of comparisons', async () => {
    expect((await refusal(() => parseCondition('('.repeat(70) + 'price > 1' + ')'.repeat(70)))).message).toMatch(
      /nests at most 64 deep/,
    )
    expect((await refusal(() => parseCondition('not '.repeat(70) + 'price > 1'))).message).toMatch(
      /nests at most 64 deep/,
    )
    expect(
      (await refusal(() => parseCondition(Array.from({ length: 201 }, () => 'price > 1').join(' or ')))).message,
    ).toMatch(/at most 200 comparisons/)
    expect((await refusal(() => parseCondition('x'.repeat(10_001)))).message).toMatch(/at most 10000 characters/)
    expect((await refusal(() => parseCondition(`price in [${'1,'.repeat(600)}1]`))).message).toMatch(
      /at most 500 items/,
    )
  })

  it('answers any text with a tree or an error of its own, and never anything else', () => {
    const words = [
      'price',
      'title',
      '(',
      ')',
      '[',
      ']',
      'and',
      'or',
      'not',
      'any',
      'in',
      '=',
      '!=',
      '>',
      '"x"',
      '3',
      'now',
      '+',
      'days',
      'has',
      'value',
      '.',
      ',',
      'true',
      '2031-05-04',
    ]
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string(),
          fc.array(fc.constantFrom(...words), { maxLength: 14 }).map((parts) => parts.join(' ')),
        ),
        (text) => {
          try {
            readCondition(text, context)
          } catch (error) {
            if ((error as WisteriaError).code !== 'badCondition') throw error
          }
        },
      ),
      { numRuns: often(2000, 20_000) },
    )
  })
})

describe('what a condition depends on', () => {
  it('names the types that references lead to, and whether time is among it', () => {
    expect(readCondition('museum.name = "x" and any speakers (home.name = "y")', context).dependencies).toEqual({
      types: ['museum', 'person'],
      time: false,
    })
    expect(readCondition('starts > now', context).dependencies).toEqual({ types: [], time: true })
  })
})

describe('the order of facts', () => {
  it('is that of code points, as the database orders bytes', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), fc.string({ unit: 'grapheme' }), (a, b) => {
        const bytes = Buffer.compare(Buffer.from(a), Buffer.from(b))
        return Math.sign(orderOf(a, b)) === bytes
      }),
      { numRuns: often(500, 5000) },
    )
  })
})
