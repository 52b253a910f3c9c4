import { canConvert } from '../fields/convert.js'
import { shapeOf, type Field, type FieldForm } from '../model/model.js'

const formOf = ({ kind, many, localized, options }: Field): FieldForm => ({ kind, many, localized, options })

/** The conversion that stored values of a field need; undefined when they stay as they are. */
export function conversionBetween(old: Field, field: Field): { from: FieldForm; to: FieldForm } | undefined {
  const changed =
    old.kind !== field.kind ||
    old.many !== field.many ||
    old.localized !== field.localized ||
    (field.kind === 'dateTime' && old.options['withZone'] !== field.options['withZone']) ||
    renamedOptions(old, field).length > 0 ||
    (field.kind === 'number' && !old.options['integer'] && field.options['integer'] === true)
  return changed ? { from: formOf(old), to: formOf(field) } : undefined
}

/** The options of a choice whose value changes: before and after. */
export function renamedOptions(old: Field, field: Field): { readonly from: string; readonly to: string }[] {
  const [before, now] = [shapeOf(old), shapeOf(field)]
  if (before.is !== 'choice' || now.is !== 'choice') return []
  return now.options.flatMap(({ value, was }) =>
    before.options.flatMap((option) => (was?.includes(option.value) ? [{ from: option.value, to: value }] : [])),
  )
}

/** Why no value could survive a change of form, or undefined when it depends on the values. */
export function neverConverts(old: Field, field: Field): string | undefined {
  if (canConvert(old.kind, field.kind)) return undefined
  return `values of kind ${old.kind} cannot become of kind ${field.kind}. Add a new field instead`
}
