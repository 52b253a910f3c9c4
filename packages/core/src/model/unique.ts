import type { Field } from './model.js'
import { kindNamed } from '../fields/kinds.js'

/** Whether a field can be unique: it has one value, of a kind that conditions compare. */
export function canBeUnique(field: Pick<Field, 'kind' | 'many'>): boolean {
  const { comparison } = kindNamed(field.kind)
  return (
    !field.many &&
    comparison !== undefined &&
    comparison !== 'presence' &&
    comparison !== 'reference' &&
    comparison !== 'boolean'
  )
}
