/**
 * The index at which an item joins others, so that it follows the nearest of its earlier siblings that is among them; the beginning
 * where none is.
 * @param earlier the ids of its earlier siblings, in their order.
 * @param ids of the others, in theirs.
 */
export function indexAfter(earlier: readonly string[], ids: readonly string[]): number {
  for (const id of earlier.toReversed()) {
    const at = ids.indexOf(id)
    if (at >= 0) return at + 1
  }
  return 0
}
