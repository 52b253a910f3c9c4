/** A list with one of its items at another place; undefined when it is there already. */
export function movedTo<Item>(items: readonly Item[], from: number, to: number): Item[] | undefined {
  if (from === to || items[from] === undefined || to < 0 || to >= items.length) return undefined
  const next = [...items]
  const [item] = next.splice(from, 1)
  next.splice(to, 0, item!)
  return next
}

/** A list with one of its items moved a place up or down; undefined when it is at that end already. */
export const moved = <Item>(items: readonly Item[], index: number, step: 1 | -1): Item[] | undefined =>
  movedTo(items, index, index + step)

/** The browser's own chance, for the ids of new items. */
export const random = (bytes: number): Uint8Array => crypto.getRandomValues(new Uint8Array(bytes))
