import type { ListedEntry } from '@wisteria/client'
import { computed, reactive, ref } from 'vue'

/** The chosen rows of a list: some of them, or all matches, also those of other pages. */
export function createSelection() {
  const chosen = reactive(new Map<string, ListedEntry>())
  const isAll = ref(false)
  let last: string | undefined
  return {
    chosen,
    isAll,
    isEmpty: computed(() => chosen.size === 0),
    has: (id: string): boolean => isAll.value || chosen.has(id),
    clear(): void {
      chosen.clear()
      isAll.value = false
    },
    all(): void {
      isAll.value = true
    },
    page(rows: readonly ListedEntry[]): void {
      for (const row of rows) chosen.set(row.id, row)
    },
    /** Chooses a row or not; with Shift, all rows from the last one to it. */
    toggle(row: ListedEntry, rows: readonly ListedEntry[], isRange = false): void {
      isAll.value = false
      const [from, to] = [
        rows.findIndex((candidate) => candidate.id === last),
        rows.findIndex((candidate) => candidate.id === row.id),
      ]
      last = row.id
      if (isRange && from >= 0 && to >= 0) {
        for (const row of rows.slice(Math.min(from, to), Math.max(from, to) + 1)) chosen.set(row.id, row)
        return
      }
      if (chosen.has(row.id)) chosen.delete(row.id)
      else chosen.set(row.id, row)
    },
  }
}

export type Selection = ReturnType<typeof createSelection>
