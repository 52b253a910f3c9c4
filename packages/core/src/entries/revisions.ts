/** A sitting ends after so much quiet. */
const idleMinutes = 10

/** How long the edits of each save are kept, to merge late ones against. */
export const savesKeptDays = 30

/** How long deleted entries stay in the bin. */
export const binKeptDays = 30

/** The newest revision of an entry, as far as a save needs it. */
export interface NewestRevision {
  readonly author: string
  /** ISO instants. */
  readonly updatedAt: string
  readonly sealedAt: string | null
}

/** Whether a save is added to the newest revision, or begins a new one: one for each sitting and author. */
export function absorbs(revision: NewestRevision, author: string, now: number): boolean {
  return (
    revision.sealedAt === null &&
    revision.author === author &&
    now - Date.parse(revision.updatedAt) < idleMinutes * 60_000
  )
}
