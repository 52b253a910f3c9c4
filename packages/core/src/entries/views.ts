import type { Problem } from '../base/errors.js'
import type { Change } from '../publishing/changes.js'
import type { Difference } from './compare.js'
import type { Freshness } from '../model/states.js'
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
  /** The summary of its states. */
  readonly state: State
  readonly states: Readonly<Record<string, State>>
  /** Of each translation. */
  readonly freshness: Readonly<Record<string, Freshness>>
  /** The path of the working copy in each locale that has one; not yet public where the state says so. */
  readonly paths: Readonly<Record<string, string>>
  readonly values: Readonly<Record<string, unknown>>
}

/** An entry that would be published along with another, and what is in its way. */
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

/** A publish or a withdrawal at a time, to come or over. */
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
  /** The time zone that it was said in. */
  readonly zone: string
  readonly state: 'scheduled' | 'done' | 'failed' | 'cancelled'
  /** Why it failed. */
  readonly message: string
  readonly scheduledBy: string
  readonly endedAt: string | null
}

/** What may differ between two revisions of an asset, as people call it. */
export const assetChanges = {
  name: 'name',
  alt: 'alternative text',
  title: 'title',
  caption: 'caption',
  file: 'file',
  focalPoint: 'focal point',
} as const
export type AssetChanged = keyof typeof assetChanges

/** What is done to many entries at once. */
export const bulkActions = ['publish', 'withdraw', 'archive', 'reactivate', 'delete', 'duplicate', 'edit'] as const
export type BulkAction = (typeof bulkActions)[number]

/** What a bulk job did to one entry. */
export interface BulkItem {
  readonly entry: string
  readonly title: string
  readonly state: 'done' | 'refused' | 'skipped'
  /** Why it was refused or skipped. */
  readonly message: string
}

/** What a list asks for: kept under a name, or written into an address. */
export interface ListAsks {
  readonly type?: string | undefined
  readonly search?: string | undefined
  readonly where?: string | undefined
  readonly sort?: string | undefined
  /** In which titles, words and states are asked for; the default locale when left out. */
  readonly locale?: string | undefined
  /** Names of fields that are shown in columns. */
  readonly columns?: readonly string[] | undefined
}

/** A list that somebody keeps. */
export interface ListView {
  readonly id: string
  readonly name: string
  readonly shared: boolean
  /** Whether it belongs to who asks. */
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
  readonly order: number | null
  /** Whether menus show it; null where nobody has said, or the type has none. */
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

/** What a save tells of publishing: what blocks it, and where the working copy differs from what is public. */
export interface PublishCheck {
  /** The locales that publishing would make public. */
  readonly locales: readonly string[]
  readonly problems: readonly Problem[]
  readonly changes: readonly Change[]
  /** What entries and assets in the changes are called, by id. */
  readonly names: Readonly<Record<string, string>>
}

/** What a publish would do, before it is done. */
export interface PublishConsequences {
  readonly version: number
  readonly locales: readonly string[]
  /** Every blocking problem, in every locale that would be public. */
  readonly problems: readonly Problem[]
  /** Public now, and after. */
  readonly changes: readonly Change[]
  /** What the entries and assets among the values are called, by id. */
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
  /** The entries that were asked to come along. */
  readonly together: readonly PublishTogether[]
}

/** An entry that refers to another, or holds an asset. */
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
  /** The numbers of older revisions that hold it, newest first; only where nothing newer does. */
  readonly inRevisions: readonly number[]
}

/** Who uses an entry. */
export interface Usage {
  readonly usedBy: readonly UsedBy[]
}

/** What withdrawing an entry would do, before it is done. */
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

/** A state of an entry to compare with: a revision by its number, what is public, or the working copy. */
export type Point = number | 'public' | 'working'

export interface EntryComparison {
  readonly from: Point
  readonly to: Point
  readonly differences: readonly Difference[]
  /** What the entries and assets among the values are called, by id. */
  readonly names: Readonly<Record<string, string>>
}
