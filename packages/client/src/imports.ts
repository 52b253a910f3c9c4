import type { ImportMapping, NamedValues, RowOutcome, RowProblem } from '@wisteria/core'
import type { Job } from './answers.js'
import { segment, type FileCalls } from './transport.js'

/** A table whose rows become entries. */
export interface EntryImportView {
  readonly id: string
  /** The name of the file. */
  readonly name: string
  /** How the file was read. */
  readonly source: {
    readonly format?: 'csv' | 'xlsx' | 'jsonLines' | 'json'
    readonly encoding?: string
    readonly delimiter?: string
    readonly sheet?: string
    readonly sheets?: readonly string[]
  }
  readonly heads: readonly string[]
  /** Where its columns go; null where no type fits its heads. */
  readonly mapping: ImportMapping | null
  readonly state: 'reading' | 'read' | 'checking' | 'checked' | 'running' | 'done' | 'stopped' | 'undoing' | 'undone'
  readonly rows: number
  /** How many rows have which outcome: would have, after a check. */
  readonly outcomes: Readonly<Partial<Record<RowOutcome, number>>>
  readonly undone: { readonly undone: number; readonly refused: number }
  /** The job that checks, imports or undoes. */
  readonly job: string | null
  readonly actor: string
  readonly createdAt: string
  readonly finishedAt: string | null
  /** How many files came with it in a ZIP file; null where none did. */
  readonly files: number | null
}

/** A row of it. */
export interface EntryImportRowView {
  readonly position: number
  /** In the file; counts from 1. */
  readonly line: number
  readonly cells: readonly unknown[]
  readonly outcome: RowOutcome | null
  readonly entry: string | null
  readonly title: string
  readonly problems: readonly RowProblem[]
  /** Empty where it was undone; else why it was not. Null where nobody tried. */
  readonly undone: string | null
}

/** A row as it would become now. */
export interface PlannedImportRow {
  readonly line: number
  readonly cells: readonly unknown[]
  readonly outcome: RowOutcome
  readonly entry: string | null
  readonly title: string
  /** The values that it sets. */
  readonly values: NamedValues
  readonly problems: readonly RowProblem[]
}

/** What is said about a file; the rest is guessed. */
export interface ImportAsked {
  readonly name?: string | undefined
  readonly type?: string | undefined
  /** The name of a mapping that is kept. */
  readonly mapping?: string | undefined
  readonly format?: string | undefined
  readonly encoding?: string | undefined
  readonly delimiter?: string | undefined
  readonly sheet?: string | undefined
}

/** A mapping that is kept by its name. */
export interface KeptMappingView {
  readonly name: string
  readonly mapping: ImportMapping
  readonly actor: string
  readonly at: string
}

/** Tables whose rows become entries. */
export class Imports {
  readonly #calls: FileCalls

  constructor(calls: FileCalls) {
    this.#calls = calls
  }

  /** Reads a file, without changing anything. */
  read = (file: Blob, asked: ImportAsked = {}) =>
    this.#calls.call<EntryImportView>({ method: 'POST', path: imports, query: { ...asked }, file, isLong: true })
  list = () => this.#calls.call<{ readonly imports: readonly EntryImportView[] }>({ path: imports })
  get = (id: string) => this.#calls.call<EntryImportView>({ path: at(id) })
  remove = (id: string) => this.#calls.call<undefined>({ method: 'DELETE', path: at(id) })

  /** Says where its columns go. */
  setMapping = (id: string, mapping: MappingGiven) =>
    this.#calls.call<EntryImportView>({ method: 'PUT', path: `${at(id)}/mapping`, body: mapping })
  /** Stores a ZIP file with the files that its rows name. */
  setFiles = (id: string, zip: Blob) =>
    this.#calls.call<EntryImportView>({ method: 'PUT', path: `${at(id)}/files`, file: zip, isLong: 'transfer' })
  /** The first rows as they would become now. */
  preview = (id: string, query: { readonly first?: number; readonly after?: number } = {}) =>
    this.#calls.call<{ readonly rows: readonly PlannedImportRow[] }>({ path: `${at(id)}/preview`, query: { ...query } })
  /** Checks every row, as a job. */
  check = (id: string) => this.#calls.call<Job>({ method: 'POST', path: `${at(id)}/check` })
  /** Imports the rows, as a job. */
  run = (id: string) => this.#calls.call<Job>({ method: 'POST', path: `${at(id)}/run` })
  /** Undoes what was not changed since, as a job. */
  undo = (id: string) => this.#calls.call<Job>({ method: 'POST', path: `${at(id)}/undo` })

  rows = (
    id: string,
    query: { readonly outcome?: RowOutcome | undefined; readonly after?: number; readonly first?: number } = {},
  ) =>
    this.#calls.call<{ readonly rows: readonly EntryImportRowView[]; readonly next: number | null }>({
      path: `${at(id)}/rows`,
      query: { ...query },
    })
  /** The rows that failed, as a file with the reasons. */
  failed = (id: string) => this.#calls.download({ path: `${at(id)}/failed` })
  /** The address of that file, for a link. */
  failedAddress = (id: string): string => this.#calls.address(`${at(id)}/failed`, {})

  /** Working copies of a type as a table. @returns the answer: `entries` says how many there are, and the body is the file. */
  export = async (order: EntryExportOrder): Promise<{ readonly entries: number; readonly response: Response }> => {
    const response = await this.#calls.download({ path: '/export', query: exportQuery(order) })
    return { entries: Number(response.headers.get('entry-count') ?? 0), response }
  }
  /** The address of such a table, for a link. */
  exportAddress = (order: EntryExportOrder): string => this.#calls.address('/export', exportQuery(order))

  mappings = () => this.#calls.call<{ readonly mappings: readonly KeptMappingView[] }>({ path: mappings })
  keepMapping = (name: string, mapping: MappingGiven) =>
    this.#calls.call<KeptMappingView>({ method: 'PUT', path: `${mappings}/${segment(name)}`, body: mapping })
  forgetMapping = (name: string) =>
    this.#calls.call<undefined>({ method: 'DELETE', path: `${mappings}/${segment(name)}` })
}

/** Which entries become a table, and with which columns. */
export interface EntryExportOrder {
  readonly type: string
  readonly format?: 'csv' | 'xlsx' | 'jsonLines' | undefined
  /** Places such as `title:nl`; all, when left out. */
  readonly columns?: readonly string[] | undefined
  readonly where?: string | undefined
  readonly search?: string | undefined
  readonly locale?: string | undefined
}

const exportQuery = ({ columns, ...order }: EntryExportOrder) => ({ ...order, columns: columns?.join(',') })

/** A mapping as it is sent: what is left out has its usual value. */
export type MappingGiven = Pick<ImportMapping, 'type' | 'columns'> & Partial<ImportMapping>

const imports = '/imports'
const mappings = '/import-mappings'
const at = (id: string): string => `${imports}/${segment(id)}`
