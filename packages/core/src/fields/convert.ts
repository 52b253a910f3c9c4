import { plainText, type RichText } from '../richtext/document.js'
import { phrasingOf } from '../richtext/phrasing.js'
import { isDate, startOfDay, dayIn, instantOf, readZoned, wallTimeIn, withOffset } from '../text/time.js'
import { currentChoice } from './choice.js'
import { kindNamed } from './kinds.js'

/** The settings of the site that a conversion needs. */
export interface ConversionPlace {
  readonly locale: string
  readonly timeZone: string
}

/** A value in its new form, or why there is none. */
export type Converted = { readonly value: unknown } | { readonly because: string }

type Convert = (value: never, place: ConversionPlace) => unknown

const words = ['text', 'longText', 'email', 'webAddress', 'slug', 'choice', 'colour', 'timeSpan']
const asIs: Convert = (value) => value
const printed: Convert = (value) => String(value)

/** `from to`: how a value becomes one of another kind. The result is validated by the new kind. */
const conversions = new Map<string, Convert>()
const add = (from: readonly string[], to: readonly string[], convert: Convert): void => {
  for (const source of from)
    for (const other of to) if (source !== other) conversions.set(`${source} ${other}`, convert)
}
add(words, words, asIs)
add(['number', 'date', 'dateTime', 'boolean'], ['text', 'longText'], printed)
add(['date'], ['choice'], printed)
add(['number'], ['choice', 'slug'], printed)
add(['text', 'longText', 'choice'], ['number'], (value: string) => (value.trim() === '' ? undefined : Number(value)))
add(['text', 'choice'], ['date', 'dateTime'], asIs)
add(
  ['text', 'choice'],
  ['boolean'],
  (value: string) => ({ true: true, yes: true, false: false, no: false })[value.toLowerCase()],
)
add(['boolean'], ['choice'], printed)
add(['date'], ['dateTime'], (value: string, { timeZone }) =>
  withOffset(wallTimeIn(startOfDay(value, timeZone), timeZone), timeZone),
)
add(['dateTime'], ['date'], (value: string, { timeZone }) => {
  const instant = readZoned(value)?.instant ?? instantOf(value)
  return instant === undefined ? undefined : dayIn(Date.parse(instant), timeZone)
})
add(['text', 'longText'], ['richText'], (value: string): RichText => ({
  type: 'root',
  children: value
    .split(/\n{2,}/)
    .filter((part) => part.trim() !== '')
    .map((part, index) => ({
      type: 'paragraph',
      data: { id: `b${index + 1}` },
      children: phrasingOf([{ text: part, marks: [] }]),
    })),
}))
add(['richText'], ['text', 'longText'], (value: RichText) => {
  const isPlain = value.children.every(
    (block) => block.type === 'paragraph' && block.children.every(({ type }) => type === 'text' || type === 'break'),
  )
  return isPlain ? plainText(value) : undefined
})
add(['location', 'metadata', 'richText', 'number', 'boolean', ...words, 'date', 'dateTime'], ['json'], asIs)

/** Whether there is a conversion between two kinds. */
export const canConvert = (from: string, to: string): boolean => from === to || conversions.has(`${from} ${to}`)

/** Converts one value; refused where its meaning would be lost. */
export function convertValue(
  value: unknown,
  from: { readonly kind: string; readonly options: Readonly<Record<string, unknown>> },
  to: { readonly kind: string; readonly options: Readonly<Record<string, unknown>> },
  place: ConversionPlace,
): Converted {
  const say = JSON.stringify(value).slice(0, 60)
  let next: unknown = value
  if (from.kind !== to.kind) {
    const convert = conversions.get(`${from.kind} ${to.kind}`)
    if (!convert) return { because: `${say} cannot become of kind ${to.kind}` }
    next = convert(value as never, place)
    // Times keep their meaning: `2031-05-04` is a day, and as an instant the beginning of it at the site.
    if (to.kind === 'dateTime' && typeof next === 'string' && isDate(next))
      next = withOffset(wallTimeIn(startOfDay(next, place.timeZone), place.timeZone), place.timeZone)
  }
  if (to.kind === 'choice' && typeof next === 'string') next = choiceOf(to.options, next)
  if (to.kind === 'dateTime' && typeof next === 'string') next = zoned(next, to.options['withZone'] === true, place)
  if (to.kind === 'number' && to.options['integer'] && typeof next === 'number' && !Number.isInteger(next))
    return { because: `${say} is not whole` }
  const misfit =
    next === undefined || Number.isNaN(next) ? 'has no such form' : kindNamed(to.kind).checkForm(next, to.options)
  return misfit ? { because: `${say} ${misfit}` } : { value: next }
}

/** The value that an option has now. */
function choiceOf(options: Readonly<Record<string, unknown>>, value: string): string {
  const shape = kindNamed('choice').shape(options)
  return shape.is === 'choice' ? currentChoice(shape.options, value) : value
}

/** A time with the zone, or without it, as the field requires now. */
function zoned(text: string, wanted: boolean, { timeZone }: ConversionPlace): string {
  const zoned = readZoned(text)
  if (wanted && !zoned) {
    const instant = instantOf(text)
    return instant === undefined ? text : `${withOffset(wallTimeIn(instant, timeZone), timeZone)}[${timeZone}]`
  }
  return !wanted && zoned ? text.replace(/\[.*\]$/, '') : text
}
