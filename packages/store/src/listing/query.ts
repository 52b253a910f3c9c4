import type { Condition, Fact, Moment } from '@wisteria/core'
import type { Edition } from '../projections/editionTables.js'

/** A sort key: a field's fact, or a fact of the system. Missing values come last in either direction. */
export interface SortKey {
  readonly by:
    | {
        readonly field: string
        /** The fields of references that lead to it, from here on. */
        readonly through?: readonly string[]
      }
    | { readonly system: 'updated' | 'published' }
  readonly descending: boolean
  /** As written in the request, for messages. */
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
  /** An FTS5 expression that the words of working copies must match. */
  readonly words?: string | undefined
  /** Whether entries are left out whose words are in another locale. */
  readonly exactLocale?: boolean | undefined
  /** The region of entries whose types are regional; those of other types stay. No limit when left out. */
  readonly region?: string | undefined
  /** Whether archived entries are left out. */
  readonly withoutArchived?: boolean | undefined
  readonly moment: Moment
  readonly sort: readonly SortKey[]
  readonly limit: number
  readonly after?: Position | undefined
  /** The fields that have an index; when left out, no plan is made. */
  readonly indexed?: ReadonlySet<string> | undefined
  /** The most rows that are read without an index; no limit when left out. */
  readonly budget?: number | undefined
}

/** Where a page ended: the sort values of its last row, null where it had none, and its entry. */
export interface Position {
  readonly values: readonly (Fact | null)[]
  readonly entry: string
}
