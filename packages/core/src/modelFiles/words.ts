import { pascal } from '../model/graphqlNames.js'

/** The members that are set, without undefined ones. */
export const present = <T extends object>(members: T): { [K in keyof T]?: NonNullable<T[K]> } =>
  Object.fromEntries(Object.entries(members).filter(([, value]) => value !== undefined)) as never

export const listOf = (was: string | readonly string[] | undefined): string[] =>
  was === undefined ? [] : typeof was === 'string' ? [was] : [...was]

/** `openingHours` to "Opening hours". */
export function labelFrom(name: string): string {
  const words = name.replace(/([a-z0-9])([A-Z])/g, '$1 $2').toLowerCase()
  return pascal(words)
}

/** The regular English plural; a type with another one sets `plural:`. */
export function pluralOf(name: string): string {
  if (/[^aeiou]y$/.test(name)) return name.slice(0, -1) + 'ies'
  if (/(s|x|z|ch|sh)$/.test(name)) return name + 'es'
  return name + 's'
}
