/** A sitting ends after so much quiet. */
const idleMinutes = 10

/** How long the edits of each save are kept, to merge late ones against. */
export const savesKeptDays = 30

/** How long what was deleted lies in the bin. */
export const binKeptDays = 30

/** What is known of the newest revision of an entry. */
export interface NewestRevision {
  readonly author: string
  /** ISO instants. */
  readonly updatedAt: string
  readonly sealedAt: string | null
}

/** Whether the newest revision takes in another save, or a new one begins: one a sitting, and one author each. */
export function absorbs(revision: NewestRevision, author: string, now: number): boolean {
  return (
    revision.sealedAt === null &&
    revision.author === author &&
    now - Date.parse(revision.updatedAt) < idleMinutes * 60_000
  )
}
