import { idPattern, type IncomingText, type UnitView } from '@wisteria/core'

/** A unit in a file that goes out. */
export interface OutgoingUnit {
  readonly unit: UnitView
  /** What there is of its translation (`translationBase`). */
  readonly base: string
}

/** An entry in a file that goes out. */
export interface OutgoingEntry {
  readonly entry: string
  /** The name of its type. */
  readonly type: string
  readonly title: string
  readonly version: number
  readonly revision: number
  /** Where it can be seen. */
  readonly address: string
  readonly units: readonly OutgoingUnit[]
}

/** What a file that goes out is about. */
export interface OutgoingFile {
  readonly site: string
  readonly source: string
  readonly target: string
}

/** A text in a file that comes back, and where it stands. */
export interface ReturnedText extends IncomingText {
  /** Counts from 1. */
  readonly line: number
  /** The words of the source, for people. */
  readonly shown: string
}

/** An entry in a file that comes back. */
export interface ReturnedEntry {
  readonly entry: string
  readonly line: number
  /** The revision and the version that were handed out; undefined where they do not come back. */
  readonly revision: number | undefined
  readonly version: number | undefined
  readonly texts: readonly ReturnedText[]
}

/** The head of a file that comes back, as far as it has one. */
export interface ReturnedHead {
  readonly source: string | undefined
  readonly target: string | undefined
}

/** Reads a file that comes back, entry by entry. @throws WisteriaError `invalid` with line and column. */
export type FileReader = (
  content: AsyncIterable<Buffer>,
  onHead: (head: ReturnedHead) => void,
) => AsyncGenerator<ReturnedEntry>

/** How an entry is named in a file: by its id, with the revision and the version that were handed out. */
export const printHandedOut = ({
  entry,
  revision,
  version,
}: Pick<OutgoingEntry, 'entry' | 'revision' | 'version'>): string => `${entry}.${revision}.${version}`

/** @returns undefined where it is no such name. */
export function readHandedOut(text: string): Pick<ReturnedEntry, 'entry' | 'revision' | 'version'> | undefined {
  const [, entry, revision, version] = /^([^.]+)(?:\.(\d{1,9}))?(?:\.(\d{1,9}))?$/.exec(text.trim()) ?? []
  if (entry === undefined || !idPattern.test(entry)) return undefined
  const number = (digits: string | undefined): number | undefined => (digits === undefined ? undefined : Number(digits))
  return { entry, revision: number(revision), version: number(version) }
}
