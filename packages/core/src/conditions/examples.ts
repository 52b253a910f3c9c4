import type { ContentType, Model } from '../model/model.js'
import { askables, operatorsFor, writeTest, type Askable } from './pieces.js'
import type { Operator } from './written.js'

/**
 * Example conditions for some types, for people who are new to the language: on states, and one for each kind of comparison.
 * @param word for a field of text.
 */
export function exampleConditions(model: Model, types: readonly ContentType[], word: string): string[] {
  const all = askables(model, types, {})
  const choice = all.find(({ options }) => options && options.length > 1)
  const listed = choice?.options!.slice(0, 2).map(({ value }) => JSON.stringify(value))
  const written: readonly (readonly [Askable['comparison'], Operator, string])[] = [
    ['text', 'contains', word],
    ['dateTime', '>=', 'now'],
    ['date', '>=', 'today - 30 days'],
    ['number', '>', '10'],
    ['boolean', '=', 'true'],
  ]
  const tests = written.flatMap(([comparison, operator, operand]) => {
    const askable = all.find((candidate) => candidate.comparison === comparison && !candidate.options)
    return askable && operatorsFor(askable).includes(operator) ? [writeTest(askable, operator, operand)] : []
  })
  return [
    'entry.state = "edited"',
    'entry.freshness in ["missing", "outdated"]',
    ...(listed ? [`${choice!.path} in [${listed.join(', ')}]`] : []),
    ...tests.slice(0, 3),
    ...(tests[0] ? [`entry.state != "public" and not (${tests[0]})`] : []),
  ]
}
