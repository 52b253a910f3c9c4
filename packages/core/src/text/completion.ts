/** A completion at a place, with a description. */
export interface Suggestion {
  readonly label: string
  readonly detail: string
}

/** The completions at a place of a text, which replace the text from `from` on. */
export interface Completion {
  readonly from: number
  readonly suggestions: readonly Suggestion[]
}
