import { canBeUnique, kindNamed, type FieldSource } from '@wisteria/core'

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

export interface OptionForm {
  readonly name: string
  readonly label: string
  readonly control: OptionControl
}

const form = (name: string, label: string, control: OptionControl): OptionForm => ({ name, label, control })

/** The options of each kind's own, in the order in which they are asked for. */
const ownForms: Readonly<Record<string, readonly OptionForm[]>> = {
  text: [form('length', 'Length in characters', 'bounds'), form('pattern', 'Pattern', 'pattern')],
  longText: [form('length', 'Length in characters', 'bounds'), form('pattern', 'Pattern', 'pattern')],
  richText: [form('accepts', 'May refer to', 'types'), form('length', 'Length in characters', 'bounds')],
  slug: [form('from', 'Made from', 'textFields')],
  number: [
    form('unit', 'Unit', 'text'),
    form('integer', 'Whole numbers only', 'check'),
    form('range', 'Range', 'bounds'),
  ],
  date: [form('range', 'From and to', 'textBounds')],
  dateTime: [form('withZone', 'With its time zone', 'check')],
  timeSpan: [form('range', 'Shortest and longest', 'textBounds')],
  choice: [form('options', 'Options, one a line: value, or value: label', 'choices')],
  json: [form('schema', 'JSON Schema', 'schema')],
  entry: [form('accepts', 'Accepts', 'types')],
  listing: [form('accepts', 'Lists', 'types'), form('max', 'At most', 'whole')],
  asset: [form('accepts', 'Media types, such as image/*', 'media')],
  block: [form('accepts', 'Accepts', 'blocks'), form('each', 'At most, one a line: heading: 1', 'each')],
  metadata: [form('from', 'Stands in for what is missing', 'metadataFrom')],
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

/** Everything that can be said of a field, as things stand. */
export function optionFormsFor(field: FieldSource, isInside: boolean, hasSections: boolean): OptionForm[] {
  const kind = kindNamed(field.kind)
  const many = field.many === true
  const forms: (OptionForm | false)[] = [
    form('required', 'Required', 'check'),
    kind.shared !== true && form('localized', 'A value per locale', 'check'),
    kind.single !== true && form('many', 'Holds many', 'check'),
    many && form('count', 'How many', 'bounds'),
    ...(ownForms[field.kind] ?? []),
    !isInside && canBeUnique({ kind: field.kind, many }) && form('unique', 'No two entries the same', 'check'),
    !many &&
      kind.comparison !== undefined &&
      !['presence', 'reference'].includes(kind.comparison) &&
      form('index', 'Fast to find and sort by', 'check'),
    !many && withDefault.has(field.kind) && form('default', 'New entries begin with', 'default'),
    hasSections && form('section', 'Section', 'section'),
    form('help', 'Help', 'words'),
    form('example', 'Example', 'text'),
    form('showIf', 'Show if', 'condition'),
    form('requireIf', 'Require if', 'condition'),
    form('lockIf', 'Lock if', 'condition'),
  ]
  return forms.filter((one) => one !== false)
}

/** `walk: Walk` on a line each, as a choice's options; labels per locale are kept where the value stays. */
export function readChoices(text: string, before: readonly unknown[]): unknown[] {
  const known = new Map(
    before.flatMap((one) =>
      typeof one === 'object' && one !== null
        ? [[(one as { value: string }).value, one as { value: string; label: unknown }]]
        : [],
    ),
  )
  return text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
    .map((line) => {
      const [value, ...label] = line.split(':') as [string, ...string[]]
      const words = label.join(':').trim()
      const old = known.get(value.trim())
      if (old && typeof old.label === 'object' && (words === '' || words === printedLabel(old.label))) return old
      return words === '' ? value.trim() : { value: value.trim(), label: words }
    })
}

const printedLabel = (label: unknown): string =>
  typeof label === 'string' ? label : (Object.values(label as Record<string, string>)[0] ?? '')

export const printChoices = (options: readonly unknown[]): string =>
  options
    .map((one) =>
      typeof one === 'string'
        ? one
        : `${(one as { value: string }).value}: ${printedLabel((one as { label: unknown }).label)}`,
    )
    .join('\n')

/** What is written for a default: a value of the kind, or an expression when it begins with `$` or `=`. */
export function readDefault(text: string, kind: string): unknown {
  const written = text.trim()
  if (written === '') return undefined
  if (/^[$=]/.test(written)) return { expression: written.replace(/^=\s*/, '') }
  if (kind === 'number') return Number.isFinite(Number(written)) ? Number(written) : written
  if (kind === 'boolean') return written === 'true' ? true : written === 'false' ? false : { expression: written }
  return written
}

export function printDefault(value: unknown): string {
  if (value === undefined) return ''
  if (typeof value === 'object' && value !== null && 'expression' in value) {
    const text = String(value.expression)
    return text.startsWith('$') ? text : `= ${text}`
  }
  return String(value)
}
