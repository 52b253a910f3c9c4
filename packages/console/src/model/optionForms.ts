import { canBeUnique, isMoment, kindNamed, type FieldSource } from '@wisteria/core'
import type { MessageKey } from '../messages'

/** How an option of a field is written in the form beside the list. */
export type OptionControl =
  | 'text'
  | 'words'
  | 'check'
  | 'bounds'
  | 'textBounds'
  | 'condition'
  | 'section'
  | 'default'
  | 'types'
  | 'blocks'
  | 'textFields'
  | 'choices'
  | 'whole'
  | 'pattern'
  | 'schema'
  | 'media'
  | 'each'
  | 'metadataFrom'
  | 'checks'

/** Labels have no parameters. */
type OptionLabel = Exclude<
  Extract<MessageKey, `options.${string}`>,
  | 'options.from'
  | 'options.most'
  | 'options.patternMessage'
  | 'options.valueOf'
  | 'options.labelOf'
  | 'options.labelOfIn'
  | 'options.wasValue'
  | 'options.removeOption'
  | 'options.removeRule'
>

export interface OptionForm {
  readonly name: string
  /** The key of its label in the catalogue. */
  readonly label: OptionLabel
  readonly control: OptionControl
}

const form = (name: string, label: OptionLabel, control: OptionControl): OptionForm => ({ name, label, control })

/** The options of each kind, in the order of the form. */
const ownForms: Readonly<Record<string, readonly OptionForm[]>> = {
  text: [form('length', 'options.length', 'bounds'), form('pattern', 'options.pattern', 'pattern')],
  longText: [form('length', 'options.length', 'bounds'), form('pattern', 'options.pattern', 'pattern')],
  richText: [form('accepts', 'options.mayReferTo', 'types'), form('length', 'options.length', 'bounds')],
  slug: [form('from', 'options.madeFrom', 'textFields')],
  number: [
    form('unit', 'options.unit', 'text'),
    form('integer', 'options.wholeOnly', 'check'),
    form('range', 'options.range', 'bounds'),
  ],
  date: [form('range', 'options.fromAndTo', 'textBounds')],
  dateTime: [form('withZone', 'options.withZone', 'check')],
  timeSpan: [form('range', 'options.shortestAndLongest', 'textBounds')],
  choice: [form('options', 'options.choices', 'choices')],
  json: [form('schema', 'options.jsonSchema', 'schema')],
  entry: [form('accepts', 'options.accepts', 'types')],
  listing: [form('accepts', 'options.lists', 'types'), form('max', 'options.atMost', 'whole')],
  asset: [form('accepts', 'options.mediaTypes', 'media')],
  block: [form('accepts', 'options.accepts', 'blocks'), form('each', 'options.atMostEach', 'each')],
  group: [form('check', 'options.check', 'checks')],
  metadata: [form('from', 'options.fallback', 'metadataFrom')],
}

const withDefault = new Set([
  'text',
  'longText',
  'number',
  'boolean',
  'date',
  'dateTime',
  'timeSpan',
  'choice',
  'colour',
  'email',
  'webAddress',
])

/** All options of a field, in its present state. */
export function optionFormsFor(field: FieldSource, isInside: boolean, hasSections: boolean): OptionForm[] {
  const kind = kindNamed(field.kind)
  const many = field.many === true
  const forms: (OptionForm | false)[] = [
    form('required', 'options.required', 'check'),
    kind.shared !== true && form('localized', 'options.localized', 'check'),
    kind.single !== true && form('many', 'options.many', 'check'),
    many && form('count', 'options.count', 'bounds'),
    ...(ownForms[field.kind] ?? []),
    !isInside && canBeUnique({ kind: field.kind, many }) && form('unique', 'options.unique', 'check'),
    !many &&
      kind.comparison !== undefined &&
      !['presence', 'reference'].includes(kind.comparison) &&
      form('indexed', 'options.indexed', 'check'),
    !many && withDefault.has(field.kind) && form('default', 'options.default', 'default'),
    hasSections && form('section', 'options.section', 'section'),
    form('help', 'options.help', 'words'),
    form('example', 'options.example', 'text'),
    form('showIf', 'options.showIf', 'condition'),
    form('requireIf', 'options.requireIf', 'condition'),
    form('lockIf', 'options.lockIf', 'condition'),
  ]
  return forms.filter((form) => form !== false)
}

/** The default as written: a value of the kind, or an expression when it begins with `=`. */
export function readDefault(text: string, kind: string): unknown {
  const written = text.trim()
  if (written === '') return undefined
  if (written.startsWith('=')) return { expression: written.replace(/^=\s*/, '') }
  if (isMoment(written) && (kind === 'date' || kind === 'dateTime')) return { expression: written }
  if (kind === 'number') return Number.isFinite(Number(written)) ? Number(written) : written
  if (kind === 'boolean') return written === 'true' ? true : written === 'false' ? false : { expression: written }
  return written
}

export function printDefault(value: unknown): string {
  if (value === undefined) return ''
  if (typeof value === 'object' && value !== null && 'expression' in value) {
    const text = String(value.expression)
    return isMoment(text) ? text : `= ${text}`
  }
  return String(value)
}
