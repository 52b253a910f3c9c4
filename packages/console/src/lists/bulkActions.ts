import type { ContentType, Field } from '@wisteria/core'

const kinds = new Set([
  'text', 'longText', 'number', 'boolean', 'date', 'dateTime', 'timeSpan', 'choice', 'colour', 'email', 'webAddress',
]) // prettier-ignore

/** The fields that a bulk action can set. */
export const settable = (type: ContentType): Field[] =>
  type.fields.filter((field) => kinds.has(field.kind) && (!field.many || field.kind === 'choice'))
