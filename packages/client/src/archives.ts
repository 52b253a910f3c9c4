import type { Job } from './answers.js'
import type { FileCalls } from './transport.js'

/** What an archive of a site says of itself, in `archive.json`. */
export interface ArchiveHead {
  readonly format: 'wisteria-archive'
  readonly version: 1
  readonly content: ArchiveContent
  readonly madeAt: string
  /** The version of the service that made it. */
  readonly madeBy: string
  readonly site: { readonly name: string; readonly label: string }
  readonly modelVersion: number
  readonly settingsVersion: number
  /** The number of its newest event. */
  readonly sequence: number
  /** How many lines each of its files has, without the ending. */
  readonly counts: Readonly<Record<string, number>>
  readonly files: number
  /** The digests of files that the service had lost. */
  readonly missingFiles: readonly string[]
}

/** Everything with its history and its drafts, or what readers of the published edition can see. */
export type ArchiveContent = 'everything' | 'public'

/** An import that has begun. */
export interface ArchiveImport {
  readonly job: Job
  readonly archive: ArchiveHead
}

const path = '/archive'

/** A whole site as a file, and back. */
export class Archives {
  readonly #calls: FileCalls

  constructor(calls: FileCalls) {
    this.#calls = calls
  }

  /** The site as an archive: the body of the answer is a ZIP file. */
  export = (content: ArchiveContent = 'everything') => this.#calls.download({ path, query: { content } })
  /** The address of that file, for a link. */
  address = (content: ArchiveContent): string => this.#calls.address(path, { content })

  /** Imports an archive into this site, which must be empty, as a job. @param ids `new` for a copy of a site of the same service. */
  import = (file: Blob, ids: 'same' | 'new' = 'same') =>
    this.#calls.call<ArchiveImport>({ method: 'PUT', path, query: { ids }, file, isLong: 'transfer' })
  /** Looks into an archive, and imports nothing. */
  check = (file: Blob, ids: 'same' | 'new' = 'same') =>
    this.#calls.call<ArchiveImport>({
      method: 'PUT',
      path,
      query: { ids },
      file,
      headers: { 'Dry-Run': 'true' },
      isLong: 'transfer',
    })
}
