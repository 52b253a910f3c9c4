import type { Comparison } from '../../fields/shape.js'
import { typeNamed, type FieldOwner } from '../../model/model.js'
import { fold } from '../../text/fold.js'
import { didYouMean } from '../../text/nearest.js'
import { secondsIn } from '../../text/span.js'
import { instantOf, isDate, startOfDay } from '../../text/time.js'
import type { Value } from '../condition.js'
import type { Operand } from '../written.js'
import type { Checking } from './checking.js'
import { otherField } from './otherField.js'

/** The comparable form of the operand of an operator. */
export function valueOf(
  checking: Checking,
  operand: Operand,
  comparison: Comparison,
  label: string,
  options: readonly string[] | undefined,
  from: readonly FieldOwner[],
): Value {
  const wrong = (wanted: string): never => checking.fail(operand.at, `${label} is compared with ${wanted}.`)
  if (operand.is === 'moment') {
    if (checking.context.own)
      checking.fail(operand.at, `A rule of a form cannot ask \`${operand.base}\`: it must not change by waiting.`)
    checking.usesTime = true
    if (comparison === 'dateTime')
      return { base: operand.base, minutes: operand.minutes, days: operand.days, as: 'dateTime' }
    if (comparison !== 'date') return wrong(wantedFor(comparison))
    if (operand.base === 'now') return wrong('a day: use `today`')
    return { base: 'today', minutes: 0, days: operand.days, as: 'date' }
  }
  if (operand.is === 'path') return otherField(checking, operand, comparison, label, from)
  if (operand.is === 'list') return wrong('one value; only `in` takes a list')
  const { value } = operand
  if (label === 'entry.type') {
    // Stored is the type's internal id, which survives a rename.
    const type = typeof value === 'string' ? typeNamed(checking.context.model, value) : undefined
    if (type) return type.id
  }
  switch (comparison) {
    case 'text':
      return typeof value === 'string' ? fold(value) : wrong(wantedFor(comparison))
    case 'exact':
    case 'reference':
      if (typeof value !== 'string') return wrong(wantedFor(comparison))
      if (options && !options.includes(value))
        checking.fail(
          operand.at,
          `\`${value}\` is not one of the values of ${label}: ${options.slice(0, 12).join(', ')}.${didYouMean(value, options)}`,
        )
      return value
    case 'span': {
      const seconds = typeof value === 'string' ? secondsIn(value) : undefined
      return seconds ?? wrong(wantedFor(comparison))
    }
    case 'presence':
      return wrong('nothing: ask whether it has a value')
    case 'number':
      return typeof value === 'number' ? value : wrong(wantedFor(comparison))
    case 'boolean':
      return typeof value === 'boolean' ? (value ? 1 : 0) : wrong(wantedFor(comparison))
    case 'date':
      return typeof value === 'string' && isDate(value) ? value : wrong(wantedFor(comparison))
    case 'dateTime': {
      const instant =
        typeof value === 'string'
          ? isDate(value)
            ? startOfDay(value, checking.context.timeZone)
            : instantOf(value)
          : undefined
      return instant ?? wrong(wantedFor(comparison))
    }
  }
}

const wantedFor = (comparison: Comparison): string =>
  ({
    text: 'a text in double quotes',
    exact: 'a text in double quotes',
    reference: 'the id of an entry in double quotes',
    number: 'a number',
    span: 'a length of time in double quotes, such as `"PT90M"`',
    presence: 'nothing',
    boolean: '`true` or `false`',
    date: 'a day, such as `2031-05-04` or `today`',
    dateTime: 'an instant, such as `2031-05-04T20:30:00Z`, `2031-05-04` or `now`',
  })[comparison]
