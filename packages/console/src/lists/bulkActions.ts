import type { ContentType, Field } from '@wisteria/core'

const kinds = new Set([
  'text', 'longText', 'number', 'boolean', 'date', 'dateTime', 'timeSpan', 'choice', 'colour', 'email', 'webAddress',
]) // prettier-ignore

/** The fields that can be given one value in many entries at once. */
export const settable = (type: ContentType): Field[] =>
  type.fields.filter((field) => kinds.has(field.kind) && (!field.many || field.kind === 'choice'))
