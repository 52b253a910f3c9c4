import type { State } from '../model/states.js'
import type { Difference } from './compare.js'
import type { SourceChange } from './taking.js'

/** An entry among its counterparts in other regions. */
export interface CounterpartView {
  readonly id: string
  readonly type: string
  /** The name of its region. */
  readonly region: string
  /** In the site's default locale. */
  readonly title: string
  readonly path: string | null
  readonly state: State
  /** The entry that it was copied from; null for the first. */
  readonly of: string | null
  /** Whether its source has changed since its changes were taken last. */
  readonly behind: boolean
}

/** Where an entry has counterparts, and where none. */
export interface EntryCounterparts {
  /** The name of its own region; null where its type is not regional, and it belongs to all. */
  readonly region: string | null
  /** The entry that it was copied from, where that is still there. */
  readonly source: CounterpartView | null
  readonly regions: readonly {
    readonly name: string
    readonly label: string
    readonly entry: CounterpartView | null
  }[]
}

/** A page of entries with their counterparts, each family once. */
export interface CounterpartList {
  readonly families: readonly {
    readonly first: CounterpartView
    /** By the names of regions; those without an entry are left out. */
    readonly regions: Readonly<Record<string, CounterpartView>>
  }[]
  /** Where the next page begins; null at the end. */
  readonly next: number | null
}

/** What making counterparts would do. */
export interface CounterpartPlan {
  readonly region: string
  /** The entries that would be copied, the first of them named. */
  readonly create: number
  readonly entries: readonly { readonly id: string; readonly type: string; readonly title: string }[]
  /** How many have a counterpart there already. */
  readonly exist: number
  readonly refused: readonly { readonly id: string; readonly title: string; readonly message: string }[]
}

/** What a counterpart can take from its source. */
export interface SourceChanges {
  readonly source: {
    readonly id: string
    readonly title: string
    readonly region: string
    readonly version: number
  }
  /** The revision of the source that was taken last. */
  readonly revision: number
  /** What changed in the source since, and what the counterpart changed at the same places. */
  readonly changes: readonly SourceChange[]
  /** The differences from the counterpart to its source: what overwriting it would change. */
  readonly lost: readonly Difference[]
  /** The titles of entries and names of assets among the values, by id. */
  readonly names: Readonly<Record<string, string>>
}

/** Which side of a change is wanted: that of the source, or what the counterpart has. */
export type Side = 'source' | 'own'
