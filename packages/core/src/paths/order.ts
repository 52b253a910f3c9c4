/** An entry among its siblings, in the order that readers see. */
export interface Sibling {
  readonly id: string
  /** Undefined while it is not set: such entries come last. */
  readonly order: number | undefined
}

/** The distance between the numbers of siblings when they are numbered again, so that others fit in between. */
const step = 10

/**
 * The numbers that place an entry among its siblings: only its own, where there is room, or else those of all siblings whose number
 * changes.
 * @param siblings in their order; the entry may be among them.
 * @param after the sibling that it follows; null to be the first.
 * @param isWhole whether the field accepts whole numbers only.
 */
export function ordersAfter(
  siblings: readonly Sibling[],
  id: string,
  after: string | null,
  isWhole = false,
): Map<string, number> {
  const others = siblings.filter((sibling) => sibling.id !== id)
  const at = after === null ? 0 : others.findIndex((other) => other.id === after) + 1
  const [before, next] = [others[at - 1], others[at]]
  const position = between(before ? before.order : null, next ? next.order : null, isWhole)
  if (position !== undefined) return new Map([[id, position]])
  const all = [...others.slice(0, at), { id, order: undefined }, ...others.slice(at)]
  return new Map(
    all.flatMap((sibling, index): [string, number][] => {
      const order = (index + 1) * step
      return sibling.order === order ? [] : [[sibling.id, order]]
    }),
  )
}

/** A number between two; null is an end, undefined one without a number. */
function between(
  before: number | undefined | null,
  next: number | undefined | null,
  isWhole: boolean,
): number | undefined {
  if (before === undefined || (next === undefined && before === null)) return undefined
  if (before === null) return next === null ? step : next === undefined ? undefined : Math.floor(next) - step
  if (next === null || next === undefined) return Math.floor(before) + step
  const middle = isWhole ? Math.floor((before + next) / 2) : (before + next) / 2
  return middle > before && middle < next ? middle : undefined
}
