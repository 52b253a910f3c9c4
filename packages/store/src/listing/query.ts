import type { Condition, Fact, Moment } from '@wisteria/core'
import type { Edition } from '../projections/editionTables.js'

/** What a list is sorted by: a field's fact, or a fact of the system. Missing values come last either way. */
export interface SortKey {
  readonly by:
    | {
        readonly field: string
        /** The fields of references that lead to it, from here on. */
        readonly through?: readonly string[]
      }
    | { readonly system: 'updated' | 'published' }
  readonly descending: boolean
  /** As it was asked for, to speak of it. */
  readonly name?: string
}

export interface ListQuery {
  readonly edition: Edition
  /** The projection set of the site. */
  readonly projection: string
  /** Internal id; undefined for entries of all types. */
  readonly type: string | undefined
  readonly locale: string
  readonly condition?: Condition | undefined
  /** An FTS5 expression that the words of working copies must meet. */
  readonly words?: string | undefined
  /** Whether archived entries are left out. */
  readonly withoutArchived?: boolean | undefined
  readonly moment: Moment
  readonly sort: readonly SortKey[]
  readonly limit: number
  readonly after?: Position | undefined
  /** The fields that have an index; without them nothing is known of what serves a list. */
  readonly indexed?: ReadonlySet<string> | undefined
  /** So many rows at most are looked at for what no index serves; as many as it takes when left out. */
  readonly budget?: number | undefined
}

/** Where a page ended: the sort values of its last row, null where it had none, and its entry. */
export interface Position {
  readonly values: readonly (Fact | null)[]
  readonly entry: string
}
