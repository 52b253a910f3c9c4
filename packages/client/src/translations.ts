import type {
  EntryTranslation,
  GlossaryTerm,
  GlossaryView,
  ImportedText,
  ImportView,
  MemoryMatch,
  SavedTranslation,
  SegmentText,
  TranslationBoard,
  TranslationView,
  WorkPage,
} from '@wisteria/core'
import type { Job } from './answers.js'
import { segment, type FileCalls } from './transport.js'

/** The entries that a board or a list of work is limited to. */
export interface WorkFilter {
  readonly type?: string | undefined
  /** A condition. */
  readonly where?: string | undefined
  readonly search?: string | undefined
}

/** A list of entries to translate. */
export interface WorkAsked extends WorkFilter {
  readonly locale?: string | undefined
  /** The id of an account, or `me`. */
  readonly assignee?: string | undefined
  /** Only those that are ready for review. */
  readonly ready?: boolean | undefined
  readonly first?: number | undefined
  readonly after?: string | undefined
}

/** A save of a translation; each unit is in one of its lists. */
export interface TranslationChange {
  readonly locale: string
  /** The version of the entry that was seen; the newest, when left out. */
  readonly base?: number | undefined
  /** The revision of the entry that was seen; the newest, when left out. */
  readonly revision?: number | undefined
  /** An empty text removes the translation. `source`: the digest of the text that it was made from. */
  readonly texts?:
    | readonly {
        readonly unit: string
        readonly text: SegmentText | string
        readonly source?: string | undefined
        /** The source text itself, to be shown when it has changed. */
        readonly sourceText?: SegmentText | string | undefined
      }[]
    | undefined
  /** Units whose translation is right for the source as it is. */
  readonly stillRight?: readonly string[] | undefined
  /** Units that need no translation: readers get the source. */
  readonly needsNone?: readonly string[] | undefined
  /** Units that need a translation after all. */
  readonly needed?: readonly string[] | undefined
  /** Units that readers of the locale do not get, not even from a fallback. */
  readonly empty?: readonly string[] | undefined
}

export type TranslationFormat = 'xliff' | 'csv' | 'xlsx'

/** What a file for translators holds. */
export interface TranslationExport extends WorkFilter {
  readonly locale: string
  readonly format?: TranslationFormat | undefined
  /** Only these entries. */
  readonly ids?: readonly string[] | undefined
  /** `todo`: only texts that are missing or outdated, as when left out. */
  readonly units?: 'todo' | 'all' | undefined
  /** Also entries that they refer to, so many references deep. */
  readonly follow?: number | undefined
}

/** The translations of a site. */
export class Translations {
  readonly #calls: FileCalls

  constructor(calls: FileCalls) {
    this.#calls = calls
  }

  /** How far translations are, by type and locale. */
  board = (filter: WorkFilter = {}) =>
    this.#calls.call<TranslationBoard>({ path: '/translations', query: { ...filter } })

  /** A page of entries to translate, oldest first; assigned ones by their due date. */
  work = ({ ready, first, ...asked }: WorkAsked) =>
    this.#calls.call<WorkPage>({
      path: '/translations/work',
      query: {
        ...asked,
        ...(ready ? { ready: 'true' } : {}),
        ...(first === undefined ? {} : { first: String(first) }),
      },
    })

  /**
   * The translation of an entry, unit by unit.
   * @param follow also of entries that it refers to, so many references deep: at most 3.
   */
  of = (
    entry: string,
    locale: string,
    { units = 'all', follow = 0 }: { units?: 'todo' | 'all'; follow?: number } = {},
  ) =>
    this.#calls.call<TranslationView>({
      path: `/entries/${segment(entry)}/translation`,
      query: { locale, units, follow: String(follow) },
    })

  /** @throws WisteriaProblem `editConflict` where somebody else has changed the same text since `base`. */
  save = (entry: string, change: TranslationChange) =>
    this.#calls.call<SavedTranslation>({
      method: 'POST',
      path: `/entries/${segment(entry)}/translation`,
      body: change,
    })

  /** The texts of a file, in the form of those of an entry. */
  ofAsset = (asset: string, locale: string, { units = 'all' }: { units?: 'todo' | 'all' } = {}) =>
    this.#calls.call<EntryTranslation>({ path: `/assets/${segment(asset)}/translation`, query: { locale, units } })
  /** Saves texts of a file: as those of an entry, but none of them can be empty on purpose. */
  saveAsset = (asset: string, change: Omit<TranslationChange, 'empty'>) =>
    this.#calls.call<EntryTranslation>({ method: 'POST', path: `/assets/${segment(asset)}/translation`, body: change })

  /** Marks a translation as ready for review, or no longer. */
  ready = (entry: string, locale: string, ready = true) =>
    this.#calls.call<EntryTranslation>({
      method: 'POST',
      path: `/entries/${segment(entry)}/translation/ready`,
      body: { locale, ready },
    })

  /**
   * Assigns translations to a member, until a date.
   * @param assignee the id or the e-mail of an account; null for nobody.
   * @param due such as `2031-03-12`.
   */
  assign = (entries: readonly string[], locale: string, assignee: string | null, due: string | null = null) =>
    this.#calls.call<{ readonly assigned: number }>({
      method: 'POST',
      path: '/translations/assign',
      body: { entries, locale, assignee, due },
    })

  /** Earlier translations of the same or nearly the same text. @param unit the text that it is for. */
  memory = (locale: string, text: string, unit: { readonly entry?: string; readonly unit?: string } = {}) =>
    this.#calls.call<{ readonly matches: readonly MemoryMatch[] }>({
      path: '/translations/memory',
      query: { locale, text, ...unit },
    })
  glossary = () => this.#calls.call<GlossaryView>({ path: '/translations/glossary' })
  /** Replaces the terms of the site. @param version that was read: it is refused (412) when somebody has changed them since. */
  setGlossary = (terms: readonly GlossaryTerm[], version?: number) =>
    this.#calls.call<GlossaryView>({
      method: 'PUT',
      path: '/translations/glossary',
      body: { terms },
      ...(version === undefined ? {} : { headers: { 'If-Match': `"g${version}"` } }),
    })

  /**
   * A file for translators, as it arrives.
   * @returns the answer: `entries` says how many entries are read for it, and the body is the file.
   */
  export = async (order: TranslationExport): Promise<{ readonly entries: number; readonly response: Response }> => {
    const response = await this.#calls.download({ path: '/translations/export', query: exportQuery(order) })
    return { entries: Number(response.headers.get('entry-count') ?? 0), response }
  }
  /** The address of such a file, for a link. */
  exportAddress = (order: TranslationExport): string => this.#calls.address('/translations/export', exportQuery(order))

  /** Reads a file with translations, without changing anything. */
  readImport = (locale: string, format: TranslationFormat, name: string, file: Blob) =>
    this.#calls.call<ImportView>({
      method: 'POST',
      path: '/translations/imports',
      query: { locale, format, name },
      file,
      isLong: true,
    })
  imports = () => this.#calls.call<{ readonly imports: readonly ImportView[] }>({ path: '/translations/imports' })
  import = (id: string) => this.#calls.call<ImportView>({ path: `/translations/imports/${segment(id)}` })
  /** Texts of a file, each with its line and its outcome. */
  importTexts = (id: string, outcomes?: readonly string[], after?: number) =>
    this.#calls.call<{ readonly texts: readonly ImportedText[]; readonly next: number | null }>({
      path: `/translations/imports/${segment(id)}/texts`,
      query: { outcomes: outcomes?.join(','), after: after === undefined ? undefined : String(after) },
    })
  /** Takes the texts of a file that was read, as a job. @param overwrite also those that were changed since the export. */
  applyImport = (id: string, overwrite = false) =>
    this.#calls.call<Job>({ method: 'POST', path: `/translations/imports/${segment(id)}/apply`, body: { overwrite } })
}

const exportQuery = ({ ids, follow, ...order }: TranslationExport) => ({
  ...order,
  ids: ids?.join(','),
  follow: follow === undefined ? undefined : String(follow),
})
