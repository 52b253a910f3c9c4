/**
 * Which values of a projection readers get from another locale: JSON Pointers (RFC 6901) into its values by the locale that each was
 * read from. Values of the reader's own locale, and values that are not localized, are not in it.
 */
export interface Fallbacks {
  readonly [locale: string]: readonly string[]
}

/** The same, with each value's locale by its pointer. */
export const localesOfValues = (fallbacks: Fallbacks): Record<string, string> =>
  Object.fromEntries(
    Object.entries(fallbacks).flatMap(([locale, pointers]) => pointers.map((pointer) => [pointer, locale] as const)),
  )

/** Values without those of another locale: null in their place, or an empty list. What is unchanged is the same object. */
export function withoutFallbacks(
  values: Readonly<Record<string, unknown>>,
  fallbacks: Fallbacks,
): Record<string, unknown> {
  let without: unknown = values
  for (const pointers of Object.values(fallbacks))
    for (const pointer of pointers) without = emptied(without, pointer.split('/').slice(1))
  return without as Record<string, unknown>
}

function emptied(value: unknown, [step, ...rest]: readonly string[]): unknown {
  if (step === undefined) return Array.isArray(value) ? [] : null
  if (Array.isArray(value))
    return value.map((item: unknown, index): unknown => (String(index) === step ? emptied(item, rest) : item))
  // A place inside a value that is itself from another locale is already empty.
  if (value === null || typeof value !== 'object') return value
  const record = value as Record<string, unknown>
  return step in record ? { ...record, [step]: emptied(record[step], rest) } : value
}
