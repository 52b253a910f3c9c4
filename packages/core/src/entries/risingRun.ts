/** A longest increasing run of distinct numbers: the items that keep their order while the others are moved. */
export function longestRising(numbers: readonly number[]): Set<number> {
  const tails: number[] = []
  const before: number[] = []
  numbers.forEach((number, index) => {
    let [low, high] = [0, tails.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if (numbers[tails[middle]!]! < number) low = middle + 1
      else high = middle
    }
    before[index] = low > 0 ? tails[low - 1]! : -1
    tails[low] = index
  })
  const run = new Set<number>()
  for (let index = tails.at(-1) ?? -1; index >= 0; index = before[index]!) run.add(numbers[index]!)
  return run
}
