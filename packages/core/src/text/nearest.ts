/** The known name that is closest to a given one, or undefined when none is close enough. */
export function nearest(written: string, candidates: Iterable<string>): string | undefined {
  const wanted = written.toLowerCase().slice(0, 80)
  let best: string | undefined
  let bestDistance = Math.max(1, Math.floor(wanted.length / 3)) + 1
  for (const candidate of candidates) {
    const distance = editDistance(wanted, candidate.toLowerCase())
    if (distance < bestDistance) {
      best = candidate
      bestDistance = distance
    }
  }
  return best
}

/** " Did you mean `x`?", or nothing: to end a sentence of an error with. */
export function didYouMean(written: string, candidates: Iterable<string>): string {
  const name = nearest(written, candidates)
  return name === undefined ? '' : ` Did you mean \`${name}\`?`
}

/** Levenshtein distance; a transposition counts as one. */
export function editDistance(a: string, b: string): number {
  let beforeLast: number[] = []
  let last = Array.from({ length: b.length + 1 }, (_, index) => index)
  for (let i = 1; i <= a.length; i++) {
    const row = [i]
    for (let j = 1; j <= b.length; j++) {
      const same = a[i - 1] === b[j - 1]
      let cost = Math.min(last[j]! + 1, row[j - 1]! + 1, last[j - 1]! + (same ? 0 : 1))
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1])
        cost = Math.min(cost, beforeLast[j - 2]! + 1)
      row.push(cost)
    }
    beforeLast = last
    last = row
  }
  return last[b.length]!
}
