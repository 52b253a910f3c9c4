/** The states of an entry in a locale, as conditions, lists and answers name them. */
export const states = ['new', 'public', 'edited', 'withdrawn', 'archived'] as const
export type State = (typeof states)[number]

/** Of a translation: whether it is there, and whether its source has changed since it was last published. */
export const freshnesses = ['missing', 'current', 'outdated'] as const
export type Freshness = (typeof freshnesses)[number]
