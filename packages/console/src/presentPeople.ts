import type { Present } from '@wisteria/client'
import { shallowRef } from 'vue'

/** Who else has the page open, for the head; by their names. */
export const presentPeople = shallowRef<readonly (Pick<Present, 'actor'> & { readonly name: string })[]>([])

/** The initials of a person: of the first and the last name. */
export function initialsOf(name: string): string {
  const words = name.trim().split(/\s+/)
  const letters = words.length > 1 ? [words[0], words.at(-1)] : [words[0]]
  return letters
    .map((word) => [...(word ?? '')][0] ?? '')
    .join('')
    .toUpperCase()
}
