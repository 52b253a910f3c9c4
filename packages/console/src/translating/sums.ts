import type { WorkCount, WorkSum } from '@wisteria/core'

/** How many texts or words are to do. */
export const toDo = ({ missing, outdated }: WorkCount): number => missing + outdated

export const addCounts = (counts: readonly WorkCount[]): WorkCount =>
  counts.reduce(
    (sum, one) => ({
      missing: sum.missing + one.missing,
      outdated: sum.outdated + one.outdated,
      done: sum.done + one.done,
    }),
    { missing: 0, outdated: 0, done: 0 },
  )

/** The work of several types or locales, in texts and words. */
export const addWork = (sums: readonly WorkSum[]): Pick<WorkSum, 'units' | 'words'> => ({
  units: addCounts(sums.map(({ units }) => units)),
  words: addCounts(sums.map(({ words }) => words)),
})
