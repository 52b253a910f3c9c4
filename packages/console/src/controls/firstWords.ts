import type { FieldOwner } from '@wisteria/core'

/**
 * The first words in the values of a block or a group, to recognise it. Ids of entries and files are left out.
 * @param locale whose words are taken; any when left out.
 */
export function firstWords(owner: FieldOwner | undefined, values: unknown, locale?: string): string {
  if (typeof values !== 'object' || values === null) return ''
  const told = values as Readonly<Record<string, unknown>>
  return (
    (owner?.fields ?? [])
      .filter(({ kind }) => kind !== 'entry' && kind !== 'asset')
      .map(({ name }) => wordsIn(told[name], locale))
      .find((words) => words !== '') ?? ''
  )
}

function wordsIn(value: unknown, locale: string | undefined): string {
  if (typeof value === 'string') return value
  if (typeof value !== 'object' || value === null) return ''
  const parts = Array.isArray(value)
    ? value
    : locale !== undefined && locale in value
      ? [(value as Readonly<Record<string, unknown>>)[locale]]
      : Object.entries(value).flatMap(([name, part]) => (['id', 'block'].includes(name) ? [] : [part as unknown]))
  return parts.map((part) => wordsIn(part, locale)).find((words) => words !== '') ?? ''
}
