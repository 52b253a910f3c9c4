import type { UsedBy } from '@wisteria/core'

/** At most five of them, by their titles. */
export function titlesIn(holders: readonly Pick<UsedBy, 'title' | 'inBin'>[]): string {
  const named = holders.slice(0, 5).map(({ title, inBin }) => `“${title || 'Untitled'}”${inBin ? ' (deleted)' : ''}`)
  return `${named.join(', ')}${holders.length > 5 ? ` and ${holders.length - 5} more` : ''}`
}
