import type {
  AssetChanged,
  BulkAction,
  BulkItem,
  Consequence,
  Freshness,
  KeyScope,
  Model,
  ModelFile,
  NamedEdit,
  Role,
  SiteSettings,
  State,
} from '@wisteria/core'

/* What the Edit API answers, and what it is asked with. */

export interface ListedEntry {
  readonly id: string
  readonly type: string
  readonly title: string
  readonly path: string | null
  /** The name of its region; null where its type is not regional. */
  readonly region: string | null
  readonly version: number
  readonly state: State
  readonly states: Readonly<Record<string, State>>
  /** Of each translation. */
  readonly freshness: Readonly<Record<string, Freshness>>
  /** The requested fields; entries and files by their titles and names. */
  readonly columns?: Readonly<Record<string, unknown>>
  readonly updatedAt: string
  readonly updatedBy: string
}

/** An entry that was found by its words, and in which locale. */
export interface EntryMatch extends ListedEntry {
  readonly foundIn: string
}

/** Which entries a bulk job is about: those of the ids, or all that a list finds. */
export interface ChosenEntries {
  readonly ids?: readonly string[]
  readonly type?: string
  readonly search?: string
  readonly where?: string
  readonly all?: true
  readonly locale?: string
}

/** The action on each of them. */
export interface BulkOrder extends ChosenEntries {
  readonly do: BulkAction
  readonly locales?: readonly string[]
  readonly edits?: readonly NamedEdit[]
}

/** The result of a dry run, for the first of them. */
export interface BulkTrial {
  readonly total: number
  readonly tried: number
  readonly items: readonly BulkItem[]
}

/** The time of a schedule: an instant, and the time zone that it was chosen in. */
export interface ScheduledTime {
  readonly at: string
  readonly zone?: string
  readonly locales?: readonly string[]
}

export interface EntryList {
  readonly entries: readonly ListedEntry[]
  readonly next: string | null
  readonly count?: number
}

export interface SignedIn {
  readonly account: {
    readonly id: string
    readonly email: string
    readonly name: string
    readonly operator: boolean
    /** The language of the console, as a tag; null for that of the browser. */
    readonly language: string | null
    /** The time zone that times are shown in; null for that of the browser. */
    readonly timeZone: string | null
  }
  readonly sites: readonly {
    readonly name: string
    readonly label: string
    readonly role: Role
    readonly locales: readonly string[] | null
    readonly regions: readonly string[] | null
  }[]
  /** When signed in for a program. */
  readonly token?: string
}

export interface NewSite extends SiteSettings {
  readonly name: string
}

export interface SiteView extends NewSite {
  readonly open: boolean
  readonly modelVersion: number
  readonly sequence: number
  readonly publicGeneration: string
}

/** The model in force, with the files that it was adopted from. */
export type ModelInForce = Model & {
  readonly files: readonly ModelFile[]
  readonly adoptedAt: string | null
  readonly adoptedBy: string | null
}

export interface Proposal {
  readonly id: string
  readonly base: number
  readonly consequences: readonly Consequence[]
  readonly canBeAdopted: boolean
}

export interface Adopted {
  readonly version: number
  readonly types: readonly string[]
  readonly blockTypes: readonly string[]
}

export interface AdoptedModel {
  readonly version: number
  readonly adoptedAt: string
  readonly adoptedBy: string
  readonly consequences: readonly Consequence[]
}

/** Long work: how far it is, and how it ended. */
export interface Job {
  readonly id: string
  readonly kind: string
  /** The action of a bulk job. */
  readonly does: BulkAction | null
  /** The job that it undoes. */
  readonly undoes: string | null
  readonly state: 'running' | 'done' | 'failed' | 'stopped'
  readonly done: number
  readonly total: number
  /** Its task and progress, or its result, in a sentence; when it failed, the reason. */
  readonly message: string
  readonly startedBy: string
  readonly createdAt: string
  readonly finishedAt: string | null
}

export interface Asset {
  readonly id: string
  readonly name: string
  readonly address: string
  readonly mediaType: string
  /** Bytes. */
  readonly size: number
  readonly width: number | null
  readonly height: number | null
  /** The alternative text, the title and the caption; each by locale. */
  readonly alt: Readonly<Record<string, string>>
  readonly title: Readonly<Record<string, string>>
  readonly caption: Readonly<Record<string, string>>
  /** The focal point of a picture: from 0 to 1 from the left and from the top. */
  readonly focalPoint: { readonly x: number; readonly y: number } | null
  readonly createdAt: string
  readonly createdBy: string
  readonly updatedAt: string
  /** The number of its newest revision, from 1. */
  readonly revision: number
}

/** A state of an asset. It never changes. */
export interface AssetRevision extends Omit<Asset, 'id' | 'address' | 'createdAt' | 'createdBy' | 'updatedAt'> {
  readonly at: string
  readonly by: string
  /** The differences from the revision before; none in the first. */
  readonly changed: readonly AssetChanged[]
}

/** A change of an asset; null removes a text. */
export interface AssetChange {
  readonly name?: string
  readonly alt?: Readonly<Record<string, string | null>>
  readonly title?: Readonly<Record<string, string | null>>
  readonly caption?: Readonly<Record<string, string | null>>
  readonly focalPoint?: { readonly x: number; readonly y: number } | null
}

export interface AccessKey {
  readonly id: string
  readonly label: string
  readonly scope: KeyScope
  readonly prefix: string
  readonly createdAt: string
  readonly createdBy: string
  readonly lastUsedAt: string | null
  readonly revokedAt: string | null
  /** Only in the answer that made it. */
  readonly secret?: string
}

/** The role of a member and its limits: none where null or left out. */
export interface MemberLimits {
  readonly role: Role
  readonly locales?: readonly string[] | null
  readonly regions?: readonly string[] | null
}

export interface Member {
  readonly account: string
  readonly email: string
  readonly name: string
  readonly role: Role
  readonly locales: readonly string[] | null
  readonly regions: readonly string[] | null
}

/** An open invitation to a site. */
export interface Invitation {
  readonly id: string
  readonly email: string
  readonly role: Role
  readonly locales: readonly string[] | null
  readonly regions: readonly string[] | null
  readonly createdAt: string
  readonly createdBy: string
  /** When its link stops working. */
  readonly expiresAt: string
  /** The one-time link. Only in the answer that made it. */
  readonly address?: string
}

/** An invitation, as the owner of its link sees it. */
export interface Offer {
  readonly email: string
  readonly role: Role
  readonly locales: readonly string[] | null
  readonly regions: readonly string[] | null
  readonly site: { readonly name: string; readonly label: string }
  /** Whether there is an account for the e-mail: then its password is needed, and no name. */
  readonly hasAccount: boolean
  readonly expiresAt: string
}

/** Where an account is signed in. */
export interface Session {
  readonly id: string
  /** The browser or program, as it named itself. */
  readonly agent: string | null
  readonly createdAt: string
  /** When it was last used, to the hour. */
  readonly seenAt: string | null
  readonly expiresAt: string
  /** Whether it is the session of this request. */
  readonly current: boolean
}

export interface FrontEnd {
  readonly name: string
  readonly label: string
  readonly origins: readonly string[]
  readonly enter: Readonly<Record<string, string>>
  readonly createdAt: string
}
