import type { Problem } from '../base/errors.js'
import type { InlineCode } from '../richtext/segments.js'
import type { SegmentText } from '../text/segmentText.js'
import type { WorkCount } from '../model/states.js'
import type { TranslationProgress } from './freshness.js'
import type { GlossaryTerm } from './glossary.js'
import type { IncomingOutcome } from './incoming.js'
import type { UnitState } from './origins.js'

/** A unit of translation, as the Edit API shows it. */
export interface UnitView {
  /** Its address: stable, whatever moves. */
  readonly unit: string
  /** Field names and item ids in turn, as in an edit. */
  readonly at: readonly string[]
  /** Labels from the outside in. */
  readonly labels: readonly string[]
  /** The kind of the field. */
  readonly kind: string
  readonly state: UnitState
  readonly source: SegmentText
  /** The digest of the source: sent back with a translation, it says which source that was made from. */
  readonly digest: string
  /** The meaning of the codes in the texts, by id. */
  readonly codes: Readonly<Record<string, InlineCode>>
  readonly translation: SegmentText | null
  /** The most characters that the field may have. */
  readonly maxLength: number | null
  /** The unit of the text that it is made from by itself, as a slug is; null where it is not. */
  readonly madeFrom: string | null
  /** Since when it is outdated, as an ISO instant. */
  readonly since: string | null
  /** The source that an outdated translation was made from; null where it is no longer known. */
  readonly sourceThen: SegmentText | null
}

/** Who translates an entry into a locale, until when, and whether it is ready for review. */
export interface TranslationTask {
  /** The id of an account; null while nobody is assigned. */
  readonly assignee: string | null
  /** A date, such as `2031-03-12`. */
  readonly due: string | null
  /** The actor who said that it is ready for review, and when. */
  readonly readyBy: string | null
  readonly readyAt: string | null
}

/** The translation of an entry, or of the texts of a file, into a locale: its units, beside those of its source. */
export interface EntryTranslation {
  /** Its id; that of a file where the type is `asset`. */
  readonly entry: string
  readonly type: string
  /** The name of its region; null where it belongs to all. */
  readonly region: string | null
  /** In the source locale. */
  readonly title: string
  readonly version: number
  readonly revision: number
  readonly locale: string
  readonly source: string
  readonly progress: TranslationProgress
  readonly task: TranslationTask | null
  readonly units: readonly UnitView[]
}

/** The translation of an entry, and of entries that it refers to. */
export interface TranslationView {
  /** The entry first, then the others, each once, nearest first; then the files that they hold. */
  readonly entries: readonly EntryTranslation[]
  /** Whether there are more than are answered. */
  readonly more: boolean
}

/** An earlier translation of the same or nearly the same text. */
export interface MemoryMatch {
  /** In per cent; 100 for the same text. */
  readonly likeness: number
  readonly source: SegmentText
  readonly translation: SegmentText
  readonly entry: string
  readonly title: string
  /** Labels of its place, from the outside in. */
  readonly labels: readonly string[]
}

/** The terms of a site. */
export interface GlossaryView {
  readonly terms: readonly GlossaryTerm[]
  /** Sent back with `If-Match`, so that two people do not overwrite each other. */
  readonly version: number
}

/** A file with translations that came back. */
export interface ImportView {
  readonly id: string
  readonly locale: string
  readonly format: string
  /** The name of the file. */
  readonly name: string
  /** `reading`: not read to its end. `read`: nothing is changed yet. */
  readonly state: 'reading' | 'read' | 'running' | 'applied'
  readonly entries: number
  /** How many texts have which outcome: planned, as long as it is only read. */
  readonly outcomes: Readonly<Partial<Record<IncomingOutcome, number>>>
  /** The job that applies it. */
  readonly job: string | null
  readonly actor: string
  readonly createdAt: string
  readonly appliedAt: string | null
}

/** A text in such a file. */
export interface ImportedText {
  /** In the file; counts from 1. */
  readonly line: number
  readonly entry: string
  readonly title: string
  readonly unit: string
  /** The words of its source. */
  readonly source: string
  readonly text: SegmentText | null
  readonly outcome: IncomingOutcome
  /** Why it is not taken as it is. */
  readonly message: string
}

/** The answer to a save of a translation. */
export interface SavedTranslation extends EntryTranslation {
  /** Whether changes of others were merged. */
  readonly merged: boolean
  /** Blocking problems in this locale, such as a text that is too long. */
  readonly problems: readonly Problem[]
}

/** The work in a locale, of a type. */
export interface WorkSum {
  readonly entries: number
  /** Entries with units that are missing or outdated. */
  readonly entriesToDo: number
  readonly units: WorkCount
  readonly words: WorkCount
  /** Since when there is work, as an ISO instant: of the oldest entry. */
  readonly oldest: string | null
}

/** The board: how far translations are, by type and locale. */
export interface TranslationBoard {
  readonly locales: readonly {
    readonly tag: string
    readonly label: string
    readonly source: string
    readonly variant: boolean
  }[]
  readonly types: readonly {
    readonly type: string
    readonly label: string
    /** By locale. */
    readonly work: Readonly<Record<string, WorkSum>>
  }[]
}

/** An entry with work in a locale. */
export interface WorkEntry {
  readonly entry: string
  readonly type: string
  /** In the source locale. */
  readonly title: string
  readonly locale: string
  readonly progress: TranslationProgress
  /** Since when there is work, as an ISO instant; null where there is none. */
  readonly since: string | null
  readonly task: TranslationTask | null
}

export interface WorkPage {
  readonly entries: readonly WorkEntry[]
  readonly next: string | null
}
