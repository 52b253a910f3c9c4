import type { ListAsks } from '@wisteria/core'
import { computed, type ComputedRef } from 'vue'
import { useRoute, useRouter, type LocationQuery } from 'vue-router'

/** The query of a list in its address, so that it can be saved, sent and returned to. */
export function readAsks(query: LocationQuery): Omit<ListAsks, 'type'> {
  const text = (name: string): string | undefined => {
    const value = query[name]
    return typeof value === 'string' && value !== '' ? value : undefined
  }
  const columns = text('columns')
  return {
    ...(text('search') ? { search: text('search') } : {}),
    ...(text('where') ? { where: text('where') } : {}),
    ...(text('sort') ? { sort: text('sort') } : {}),
    ...(text('locale') ? { locale: text('locale') } : {}),
    ...(columns ? { columns: columns.split(',') } : {}),
  }
}

/** The same as an address. */
export const writeAsks = ({ search, where, sort, locale, columns }: ListAsks): Record<string, string> => ({
  ...(search ? { search } : {}),
  ...(where ? { where } : {}),
  ...(sort ? { sort } : {}),
  ...(locale ? { locale } : {}),
  ...(columns && columns.length > 0 ? { columns: columns.join(',') } : {}),
})

/** The default order of a list. */
export const newest = '-entry.updated'

export const isNarrowed = ({ search, where }: ListAsks): boolean => search !== undefined || where !== undefined

/** The query of the list on this page, and how to change it. */
export function useAsks(): {
  readonly asks: ComputedRef<Omit<ListAsks, 'type'>>
  readonly ask: (change: Partial<ListAsks>) => Promise<unknown>
} {
  const route = useRoute()
  const router = useRouter()
  const asks = computed(() => readAsks(route.query))
  return {
    asks,
    ask: (change) => router.replace({ query: writeAsks({ ...asks.value, ...change }) }),
  }
}
