/** The states of an entry in a locale, as conditions, lists and answers name them. */
export const states = ['new', 'public', 'edited', 'withdrawn', 'archived'] as const
export type State = (typeof states)[number]

/**
 * Of a translation: `missing` where nothing is translated, `outdated` where the source of a text has changed since, `partial` where
 * texts are not translated, else `current`.
 */
export const freshnesses = ['missing', 'partial', 'outdated', 'current'] as const
export type Freshness = (typeof freshnesses)[number]

/** Numbers of units of translation, or of words in their sources, by what is to be done. */
export interface WorkCount {
  /** Not translated. */
  readonly missing: number
  readonly outdated: number
  /** Current, marked as needing no translation, or empty on purpose. */
  readonly done: number
}
