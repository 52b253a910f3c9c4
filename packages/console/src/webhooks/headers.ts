/** A header of a webhook in its form. The values of stored ones are not known here. */
export interface HeaderDraft {
  name: string
  /** Undefined where it is stored and stays. */
  value: string | undefined
}

export const headersFrom = (stored: readonly string[]): HeaderDraft[] =>
  stored.map((name) => ({ name, value: undefined }))

/** What to send: values to set, null for stored ones that are gone; undefined where all stay. */
export function headersToSend(
  stored: readonly string[],
  drafts: readonly HeaderDraft[],
): Record<string, string | null> | undefined {
  const named = drafts.filter(({ name }) => name.trim() !== '')
  const kept = new Set(named.map(({ name }) => name.trim().toLowerCase()))
  const change = Object.fromEntries([
    ...stored.filter((name) => !kept.has(name)).map((name) => [name, null] as const),
    ...named.flatMap(({ name, value }) => (value === undefined ? [] : [[name.trim(), value] as const])),
  ])
  return Object.keys(change).length > 0 ? change : undefined
}
