import type {
  EntryTranslation,
  SavedTranslation,
  SegmentText,
  TranslationBoard,
  TranslationView,
  WorkPage,
} from '@wisteria/core'
import { segment, type Call } from './transport.js'

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
    | readonly { readonly unit: string; readonly text: SegmentText | string; readonly source?: string | undefined }[]
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

/** The translations of a site. */
export class Translations {
  readonly #call: <Body>(request: Call) => Promise<Body>

  constructor(call: <Body>(request: Call) => Promise<Body>) {
    this.#call = call
  }

  /** How far translations are, by type and locale. */
  board = (filter: WorkFilter = {}) => this.#call<TranslationBoard>({ path: '/translations', query: { ...filter } })

  /** A page of entries to translate, oldest first; assigned ones by their due date. */
  work = ({ ready, first, ...asked }: WorkAsked) =>
    this.#call<WorkPage>({
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
    this.#call<TranslationView>({
      path: `/entries/${segment(entry)}/translation`,
      query: { locale, units, follow: String(follow) },
    })

  /** @throws WisteriaProblem `editConflict` where somebody else has changed the same text since `base`. */
  save = (entry: string, change: TranslationChange) =>
    this.#call<SavedTranslation>({
      method: 'POST',
      path: `/entries/${segment(entry)}/translation`,
      body: change,
    })

  /** Marks a translation as ready for review, or no longer. */
  ready = (entry: string, locale: string, ready = true) =>
    this.#call<EntryTranslation>({
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
    this.#call<{ readonly assigned: number }>({
      method: 'POST',
      path: '/translations/assign',
      body: { entries, locale, assignee, due },
    })
}
