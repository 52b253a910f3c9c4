import type { Problem } from '../base/errors.js'
import type { Change } from '../publishing/changes.js'
import type { Difference } from './compare.js'
import type { Freshness, WorkCount } from '../model/states.js'
import type { State } from '../model/states.js'

/** An entry as the Edit API shows it. */
export interface EditableEntry {
  readonly id: string
  readonly type: string
  readonly title: string
  readonly version: number
  readonly revision: number
  readonly createdAt: string
  readonly createdBy: string
  readonly updatedAt: string
  readonly updatedBy: string
  /** The name of its region; null where its type is not regional. */
  readonly region: string | null
  /** The summary of its states. */
  readonly state: State
  readonly states: Readonly<Record<string, State>>
  /** Of each translation. */
  readonly freshness: Readonly<Record<string, Freshness>>
  /** The path of the working copy in each locale that has one; not yet public where the state says so. */
  readonly paths: Readonly<Record<string, string>>
  readonly values: Readonly<Record<string, unknown>>
}

/** An entry that would be published together with another, and its blocking problems. */
export interface PublishTogether {
  readonly id: string
  readonly type: string
  readonly title: string
  readonly locales: readonly string[]
  readonly problems: readonly Problem[]
}

/** An entry that lies in the bin. */
export interface BinnedEntry {
  readonly id: string
  readonly type: string
  readonly title: string
  readonly deletedAt: string
  readonly deletedBy: string
  /** When it is deleted permanently. */
  readonly goesAt: string
}

/** A scheduled publish or withdrawal, in the future or ended. */
export interface ScheduleView {
  readonly id: string
  readonly entry: string
  readonly type: string
  readonly title: string
  readonly does: 'publish' | 'withdraw'
  /** Null for all locales with content then, or all that are public. */
  readonly locales: readonly string[] | null
  /** ISO instant. */
  readonly at: string
  /** The time zone in which the time was chosen. */
  readonly zone: string
  readonly state: 'scheduled' | 'done' | 'failed' | 'cancelled'
  /** Why it failed. */
  readonly message: string
  readonly scheduledBy: string
  readonly endedAt: string | null
}

/** The parts that may differ between two revisions of an asset, by their labels. */
export const assetChanges = {
  name: 'name',
  alt: 'alternative text',
  title: 'title',
  caption: 'caption',
  file: 'file',
  focalPoint: 'focal point',
} as const
export type AssetChanged = keyof typeof assetChanges

/** The bulk actions. */
export const bulkActions = ['publish', 'withdraw', 'archive', 'reactivate', 'delete', 'duplicate', 'edit'] as const
export type BulkAction = (typeof bulkActions)[number]

/** The result of a bulk job for one entry. */
export interface BulkItem {
  readonly entry: string
  readonly title: string
  readonly state: 'done' | 'refused' | 'skipped'
  /** Why it was refused or skipped. */
  readonly message: string
}

/** The query of a list: stored in a saved view, or written into an address. */
export interface ListAsks {
  readonly type?: string | undefined
  readonly search?: string | undefined
  readonly where?: string | undefined
  readonly sort?: string | undefined
  /** The locale of titles, words and states; the default locale when left out. */
  readonly locale?: string | undefined
  /** Names of fields that are shown in columns. */
  readonly columns?: readonly string[] | undefined
}

/** A saved view. */
export interface ListView {
  readonly id: string
  readonly name: string
  readonly shared: boolean
  /** Whether it belongs to the caller. */
  readonly own: boolean
  readonly asks: ListAsks
}

/** An entry in the tree of pages. */
export interface TreeNode {
  readonly id: string
  readonly type: string
  readonly title: string
  /** Of the working copy, in the default locale. */
  readonly path: string | null
  /** Its parent; null at the root. */
  readonly parent: string | null
  /** The name of its region; null where its type is not regional. */
  readonly region: string | null
  readonly order: number | null
  /** Whether menus show it; null where it is not set, or the type has no such field. */
  readonly inMenu: boolean | null
  readonly state: State
  readonly states: Readonly<Record<string, State>>
}

/** Somebody else who has an entry open. */
export interface Present {
  readonly actor: string
  /** The pointer of the field that they are in. */
  readonly at: string | null
  /** ISO instant. */
  readonly since: string
}

/**
 * The part of a save's answer about publishing: the blocking problems, and where the working copy differs from the published
 * edition.
 */
export interface PublishCheck {
  /** The locales that publishing would make public. */
  readonly locales: readonly string[]
  readonly problems: readonly Problem[]
  readonly changes: readonly Change[]
  /** The titles of entries and names of assets in the changes, by id. */
  readonly names: Readonly<Record<string, string>>
}

/** The consequences of a publish. */
export interface PublishConsequences {
  readonly version: number
  readonly locales: readonly string[]
  /** Every blocking problem, in every locale that would be public. */
  readonly problems: readonly Problem[]
  /** Public now, and after. */
  readonly changes: readonly Change[]
  /** The titles of entries and names of assets among the values, by id. */
  readonly names: Readonly<Record<string, string>>
  readonly paths: Readonly<Record<string, { readonly from: string | null; readonly to: string | null }>>
  /** Entries that it refers to and that no reader can see: they are left out until they are public. */
  readonly hiddenReferences: readonly { readonly id: string; readonly type: string; readonly title: string }[]
  /** Public entries that refer to it, or whose path hangs on its path. */
  readonly affects: readonly {
    readonly id: string
    readonly type: string
    readonly title: string
    readonly because: 'refers' | 'below'
  }[]
  /** Texts of each translation: how many are missing, outdated and done. */
  readonly translations: Readonly<Record<string, WorkCount>>
  /** How many texts of each translation are outdated because their source differs from what is public. */
  readonly outdates: Readonly<Record<string, number>>
  /** The entries to publish together with it. */
  readonly together: readonly PublishTogether[]
}

/** An entry that refers to another, or uses an asset. */
export interface UsedBy {
  readonly id: string
  /** The name of its type. */
  readonly type: string
  readonly title: string
  /** As it is stored: hidden values and values of removed fields count too. */
  readonly inWorkingCopy: boolean
  readonly inPublic: boolean
  /** Whether it was deleted, and can still be restored. */
  readonly inBin: boolean
  /** The numbers of older revisions that use it, newest first; only where nothing newer does. */
  readonly inRevisions: readonly number[]
}

/** Who uses an entry. */
export interface Usage {
  readonly usedBy: readonly UsedBy[]
}

/** The consequences of withdrawing an entry. */
export interface WithdrawalConsequences {
  readonly version: number
  readonly publicLocales: readonly string[]
  readonly locales: readonly string[]
  /** The URLs that stop working, by locale. */
  readonly paths: Readonly<Record<string, string>>
  /** Public entries below it: they are withdrawn with it, or it stays. */
  readonly children: readonly { readonly id: string; readonly title: string }[]
  /** Public entries that would refer to something that no reader can see. */
  readonly dangling: readonly UsedBy[]
}

/** A revision of an entry, without its values. */
export interface RevisionView {
  readonly number: number
  /** The version of its last save. */
  readonly version: number
  readonly author: string
  readonly createdAt: string
  readonly updatedAt: string
  /** Null while it is open. */
  readonly sealedAt: string | null
  /** The locales whose public values come from it. */
  readonly publicIn: readonly string[]
}

/** A state of an entry to compare with: a revision by its number, the published one, or the working copy. */
export type Point = number | 'public' | 'working'

export interface EntryComparison {
  readonly from: Point
  readonly to: Point
  readonly differences: readonly Difference[]
  /** The titles of entries and names of assets among the values, by id. */
  readonly names: Readonly<Record<string, string>>
}
