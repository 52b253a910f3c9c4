import type { Difference, FieldPlace } from '@wisteria/core'
import { t } from '../messages'

/** The differences of one field in one locale: they are restored together. */
export interface Group {
  readonly place: FieldPlace
  readonly labels: readonly string[]
  readonly locale: string | null
  readonly differences: readonly Difference[]
}

/** Differences by field, in their order. An item belongs to its list. */
export function groupsOf(differences: readonly Difference[]): Group[] {
  const groups = new Map<string, { group: Group; differences: Difference[] }>()
  for (const difference of differences) {
    const at = difference.at.length % 2 === 1 ? difference.at : difference.at.slice(0, -1)
    const key = JSON.stringify([at, difference.locale])
    const existing = groups.get(key)
    if (existing) existing.differences.push(difference)
    else {
      const grouped: Difference[] = [difference]
      const place = difference.locale === null ? { at } : { at, locale: difference.locale }
      const labels = isItem(difference)
        ? difference.labels.slice(0, Math.max(1, difference.labels.length - (isNamed(difference) ? 1 : 0)))
        : difference.labels
      groups.set(key, {
        group: { place, labels, locale: difference.locale, differences: grouped },
        differences: grouped,
      })
    }
  }
  return [...groups.values()].map(({ group }) => group)
}

export const isItem = ({ at }: Difference): boolean => at.length % 2 === 0

/** Whether the last label of an item is its own: that of its block. */
const isNamed = ({ before, after }: Difference): boolean => [before, after].some((value) => isBlock(value))

const isBlock = (value: unknown): boolean => typeof value === 'object' && value !== null && 'block' in value

/** "moved from 2 to 4", "added as 3", "removed from 1". */
export function howOfItem({ how, from, to }: Difference): string {
  if (how === 'moved') return t('history.movedFrom', { from: from!, to: to! })
  if (how === 'added') return t('history.addedAs', { to: to! })
  return how === 'removed' ? t('history.removedFrom', { from: from! }) : t('history.changed')
}
