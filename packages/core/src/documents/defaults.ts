import { checkCondition, type CheckContext } from '../conditions/check.js'
import { factAt, meets, type Moment } from '../conditions/evaluate.js'
import { candidateOf } from './fieldRules.js'
import { parseCondition, parseMoment } from '../conditions/parse.js'
import type { SiteSettings } from '../locales/settings.js'
import { chainOf } from '../locales/settings.js'
import { fieldNamed, insideGroup, kindOf, type Field, type FieldOwner, type Model } from '../model/model.js'
import { dayIn, wallTimeIn, withOffset } from '../text/time.js'
import {
  hasFields,
  insideOf,
  isRecord,
  valuesIn,
  type BlockItem,
  type Document,
  type Item,
  type NestedItem,
} from './document.js'
import { factsIn, storedReader } from './facts.js'
import { readContent } from './names.js'
import type { Environment } from '../base/ids.js'

/** A checked expression of a default. */
export type DefaultExpression =
  { readonly is: 'moment' } | { readonly is: 'field'; readonly name: string } | { readonly is: 'condition' }

/** Whether an expression is a moment: `now`, `today + 7 days`. */
export const isMoment = (expression: string): boolean => /^\s*(now|today)\b/.test(expression)

/**
 * Reads a default's expression for a field: a moment for a kind of time, the name of another field of the same kind, or a condition
 * for a boolean.
 * @returns the expression, or a sentence with the problem.
 */
export function readDefaultExpression(
  text: string,
  field: Field,
  owner: FieldOwner,
  context: CheckContext,
): DefaultExpression | string {
  if (field.many || field.kind === 'group' || field.kind === 'block')
    return 'only a field that holds one value can begin with an expression'
  if (isMoment(text)) {
    if (field.kind !== 'date' && field.kind !== 'dateTime')
      return '`now` and `today` need a field of kind date or dateTime'
    const moment = parseMoment(text)
    return field.kind === 'date' && moment.base === 'now' ? 'a date begins with `today`' : { is: 'moment' }
  }
  const other = fieldNamed(owner, text.trim())
  if (other && other.id !== field.id && !(field.kind === 'boolean' && other.kind !== 'boolean')) {
    if (other.kind !== field.kind || other.many)
      return `\`${other.name}\` is ${other.many ? 'a list' : `of kind ${other.kind}`}, and this field is of kind ${field.kind}`
    if (other.localized && !field.localized) return `\`${other.name}\` is localized, and this field is not`
    return { is: 'field', name: other.name }
  }
  if (field.kind !== 'boolean')
    return `\`${text.slice(0, 80)}\` is neither a moment such as \`today\` nor another field of kind ${field.kind}`
  checkCondition(parseCondition(text), context, text)
  return { is: 'condition' }
}

/**
 * Fills in the defaults of a new entry, where no value was sent: values, then expressions in the order of the fields. A default of
 * a localized field goes to the site's default locale; one taken from a localized field goes to each of its locales.
 */
export function withDefaults(
  model: Model,
  type: FieldOwner,
  document: Document,
  settings: SiteSettings,
  moment: Moment,
  random: Environment['random'],
  /** Whether all of it belongs to a locale: then nothing inside is localized again. */
  insideLocale = false,
): Document {
  const locales = settings.locales.map((locale) => locale.tag)
  const within = (owner: FieldOwner, values: Document): Document => {
    const filled: Record<string, unknown> = { ...values }
    for (const field of owner.fields) {
      const group = insideGroup(field)
      if (group && !field.many && field.default === undefined) {
        const inside = within(group, isRecord(filled[field.id]) ? (filled[field.id] as Document) : {})
        if (Object.keys(inside).length > 0) filled[field.id] = inside
        continue
      }
      const own = filled[field.id]
      if (own !== undefined)
        filled[field.id] =
          field.localized && !insideLocale && isRecord(own)
            ? Object.fromEntries(Object.entries(own).map(([tag, value]) => [tag, begun(field, value, true)]))
            : begun(field, own, insideLocale)
      if (field.default === undefined || own !== undefined) continue
      const content = begin(owner, field, filled)
      if (content !== undefined) filled[field.id] = content
    }
    return filled
  }
  /** Blocks and elements without values get their defaults too. */
  const begun = (field: Field, content: unknown, inLocale: boolean): unknown => {
    if (!Array.isArray(content) || (field.kind !== 'block' && field.kind !== 'group')) return content
    return (content as (NestedItem | BlockItem)[]).map((item) =>
      withItemDefaults(model, field, item, settings, moment, random, inLocale),
    )
  }
  const begin = (owner: FieldOwner, field: Field, values: Document): unknown => {
    const start = field.default!
    const placed = (content: unknown) =>
      field.localized && !insideLocale && content !== undefined ? { [settings.defaultLocale]: content } : content
    if ('value' in start) {
      const { content, problems } = readContent(model, field, start.value, '', locales, field.localized, random)
      return problems.length === 0 ? placed(content) : undefined
    }
    const { expression } = start
    if (isMoment(expression)) return placed(momentValue(field, expression, moment))
    const other = fieldNamed(owner, expression.trim())
    if (other && other.id !== field.id && other.kind === field.kind)
      return other.localized && !insideLocale ? values[other.id] : placed(values[other.id])
    const read = storedReader(chainOf(settings, settings.defaultLocale))
    const context: CheckContext = { model, owners: [owner], systemFacts: [], timeZone: settings.timeZone, own: true }
    const { condition } = checkCondition(parseCondition(expression), context, expression)
    return placed(meets(condition, candidateOf(factsIn(owner, values, read)), moment))
  }
  return within(type, document)
}

/** A new item with the defaults of its fields; an item with values is returned as it is. */
export function withItemDefaults<I extends Item>(
  model: Model,
  field: Field,
  item: I,
  settings: SiteSettings,
  moment: Moment,
  random: Environment['random'],
  insideLocale: boolean,
): I {
  if (!hasFields(item)) return item
  const [inside] = insideOf(model, field, [item])
  if (!inside || Object.keys(item.values).length > 0) return item
  return { ...item, values: withDefaults(model, inside.owner, item.values, settings, moment, random, insideLocale) }
}

function momentValue(field: Field, expression: string, moment: Moment): string {
  const { base, minutes, days } = parseMoment(expression)
  const as = field.kind === 'date' ? 'date' : 'dateTime'
  const fact = String(factAt({ base, minutes, days, as }, moment))
  if (as === 'date') return fact.length === 10 ? fact : dayIn(Date.parse(fact), moment.timeZone)
  // Editors think in whole minutes.
  const local = wallTimeIn(fact, moment.timeZone).slice(0, 16) + ':00'
  return withOffset(local, moment.timeZone) + (field.options['withZone'] ? `[${moment.timeZone}]` : '')
}

/** Whether a default's value could be saved, or a sentence with the problem. */
export function misfitOfDefault(
  model: Model,
  field: Field,
  value: unknown,
  locales: readonly string[],
): string | undefined {
  const zeros = (bytes: number) => new Uint8Array(bytes)
  if (value === null) return 'must be a value, or `{ expression: … }`'
  if (kindOf(field).references) return 'cannot name entries or assets: a model knows none'
  const { content, problems } = readContent(model, field, value, '', locales, field.localized, zeros)
  if (problems[0]) return problems[0].message
  const kind = kindOf(field)
  const finding = valuesIn(content, field)
    .flatMap((other) => kind.checkRules(other, field.options))
    .at(0)
  if (finding) return `${field.label} ${finding.message}.`
  const size = Array.isArray(content) ? content.length : undefined
  if (size !== undefined && field.count?.max !== undefined && size > field.count.max)
    return `${field.label} has ${size} values, at most ${field.count.max} fit.`
  return undefined
}
