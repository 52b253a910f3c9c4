/** The states of an entry in a locale, as conditions, lists and answers name them. */
export const states = ['new', 'public', 'edited', 'withdrawn', 'archived'] as const
export type State = (typeof states)[number]
