import { isRecord, sameContent } from '@wisteria/core'

type Values = Record<string, unknown>

/**
 * Makes values equal to others, in place: equal parts stay the same objects, down to the items of lists, so that the focus in them
 * stays.
 */
export function patch(values: Values, next: Values): void {
  for (const name of Object.keys(values)) if (next[name] === undefined) delete values[name]
  for (const [name, value] of Object.entries(next)) {
    if (value === undefined) continue
    const current = values[name]
    if (sameContent(current, value)) continue
    if (isRecord(current) && isRecord(value)) patch(current, value)
    else if (isItems(current) && isItems(value)) values[name] = items(current, value)
    else values[name] = structuredClone(value)
  }
}

interface Item extends Values {
  readonly id: string
}

/** Whether items are matched by their ids. A JSON value may have a list with repeated ids. */
const isItems = (value: unknown): value is Item[] =>
  Array.isArray(value) &&
  value.every((item) => isRecord(item) && typeof item['id'] === 'string') &&
  new Set((value as Item[]).map(({ id }) => id)).size === value.length

function items(current: readonly Item[], next: readonly Item[]): Item[] {
  const byId = new Map(current.map((item) => [item.id, item]))
  return next.map((item) => {
    const same = byId.get(item.id)
    if (!same || same['block'] !== item['block']) return structuredClone(item)
    patch(same, item)
    return same
  })
}
