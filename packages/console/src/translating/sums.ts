import type { WorkCount, WorkSum } from '@wisteria/core'

const plus = (a: WorkCount, b: WorkCount): WorkCount => ({
  missing: a.missing + b.missing,
  outdated: a.outdated + b.outdated,
  done: a.done + b.done,
})

/** The work of several types, as one; undefined where there is none. */
export const addWork = (sums: readonly WorkSum[]): WorkSum | undefined =>
  sums.length === 0
    ? undefined
    : sums.reduce((sum, one) => ({
        entries: sum.entries + one.entries,
        entriesToDo: sum.entriesToDo + one.entriesToDo,
        units: plus(sum.units, one.units),
        words: plus(sum.words, one.words),
        oldest: [sum.oldest, one.oldest].filter((time) => time !== null).sort()[0] ?? null,
      }))

/** How many texts are to do in all locales. */
export const workTotal = (sums: readonly (WorkSum | undefined)[]): { readonly toDo: number } => ({
  toDo: sums.reduce((sum, one) => sum + (one ? one.units.missing + one.units.outdated : 0), 0),
})
