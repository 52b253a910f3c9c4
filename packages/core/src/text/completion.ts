/** Something that could be written at a place, and what it is. */
export interface Suggestion {
  readonly label: string
  readonly detail: string
}

/** What could stand at a place of a text: instead of what was written from `from` on. */
export interface Completion {
  readonly from: number
  readonly suggestions: readonly Suggestion[]
}
