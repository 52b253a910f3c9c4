import type { PublicChange } from '@wisteria/core'
import type { Condition } from './conditions.js'
import type { AnyEntry, Entry, ValuesFor } from './picked.js'
import { WisteriaProblem } from './problem.js'
import { call, segment, type Connection, type Reply } from './transport.js'
import type { WebhookEvent } from './webhooks.js'

export interface EntryPage<Values = Record<string, unknown>, Type extends string = string> {
  readonly entries: readonly Entry<Values, Type>[]
  /** Pass it as `after` for the next page; null at the end. */
  readonly next: string | null
  /** With `count: true`. */
  readonly count?: number
}

export type Edition = 'published' | 'draft'

/** In which form rich text is printed. */
export type RichTextForm = 'document' | 'html' | 'markdown' | 'text'

/** How a choice is printed: its value, its label in the locale, or `{ value, label }`. */
export type ChoiceForm = 'value' | 'label' | 'both'

/** What is read of entries. */
export interface Choosing {
  /** `title, museum(name, town), body(as: html)`; everything when left out, with references as id and type. */
  readonly pick?: string | undefined
  /** How far references are followed, where nothing is picked: from 0 to 3. */
  readonly follow?: number | undefined
  /** Without fallback: no entry and no value of another locale. */
  readonly exactLocale?: boolean | undefined
  /** Adds where each entry can be read in its own words, for `hreflang`. */
  readonly alternates?: boolean | undefined
  /** Adds which values of each entry come from another locale. */
  readonly valueLocales?: boolean | undefined
  /** Adds which translated values of each entry are missing or outdated. */
  readonly freshness?: boolean | undefined
  readonly richText?: RichTextForm | undefined
  readonly choices?: ChoiceForm | undefined
}

/** How an entry is read. */
export interface EntryOptions extends Choosing {
  /** One of the site's locales, or `auto`; the default locale when left out. */
  readonly locale?: string | undefined
}

/** Values by the names of types, without knowledge of the model: `wisteria types` writes better ones. */
export type AnyContent = Record<string, Record<string, unknown>>

export interface ListOptions extends EntryOptions {
  /** A condition: `format in ["concert", "walk"] and starts >= now`, or one made with `all`, `either` and `field`. */
  readonly where?: string | Condition | undefined
  /** Words that the entries contain. */
  readonly search?: string | undefined
  /** `starts,-museum.name` */
  readonly sort?: string | undefined
  readonly first?: number | undefined
  readonly after?: string | undefined
  readonly count?: boolean | undefined
  /** A region of the site, for types that are regional; the main one when left out. */
  readonly region?: string | undefined
}

/** An entry in all its locales. */
export interface EntryEverywhere<Values = Record<string, unknown>> {
  readonly id: string
  readonly type: string
  readonly locales: Readonly<Record<string, Entry<Values>>>
}

/** A path that can be read now. */
/** The words and types of a search, and the fields of entries to read. */
export interface SearchOptions extends EntryOptions {
  /** Names of types; all when left out. */
  readonly types?: readonly string[] | undefined
  /** At most 50; 20 when left out. */
  readonly first?: number | undefined
  /** A region of the site, for types that are regional; the main one when left out. */
  readonly region?: string | undefined
}

/** An entry that was found, and where. */
export interface SearchResult<Found = Entry> {
  readonly entry: Found
  readonly highlights: readonly {
    /** The name of the entry's field. */
    readonly field: string
    readonly text: string
    /** Where the words are in `text`: start, and end (excluded). */
    readonly marks: readonly (readonly [number, number])[]
  }[]
}

/** A path that an entry had, and where it is now. */
export interface Redirect {
  readonly from: string
  readonly to: string
  readonly locale: string
  readonly type: string
  readonly id: string
  /** Answer with 308 or 301. */
  readonly permanent: true
  /** When the entry left the path. */
  readonly since: string
}

export interface PublicPath {
  readonly path: string
  readonly locale: string
  /** The locale of its content: where it is another one, the page is no translation. */
  readonly contentLocale: string
  /** Whether the page asks search engines not to list it. */
  readonly hidden: boolean
  readonly type: string
  /** Of types that are regional. */
  readonly region?: string
  readonly id: string
  readonly updatedAt: string
}

export interface ReaderOptions extends Connection {
  readonly site: string
  /** `published` when left out; a grant or key with the right to drafts does not select drafts by itself. */
  readonly edition?: Edition | undefined
  /** No answer is older than this: the `publicGeneration` of a webhook's event. */
  readonly generation?: string | undefined
  /** The result for an entry that does not exist: null when left out, or a thrown WisteriaProblem. */
  readonly missing?: 'null' | 'throw' | undefined
}

export interface GraphqlError {
  readonly message: string
  readonly path?: readonly (string | number)[]
  readonly extensions?: Readonly<Record<string, unknown>>
}

/** A GraphQL answer that has errors; `data` is the part that could be answered. */
export class WisteriaGraphqlError extends Error {
  readonly errors: readonly GraphqlError[]
  readonly data: unknown

  constructor(errors: readonly GraphqlError[], data: unknown) {
    super(errors.map((error) => error.message).join(' '))
    this.name = 'WisteriaGraphqlError'
    this.errors = errors
    this.data = data
  }
}

/**
 * Reads a site. It records the cache groups of every answer: make one reader for each page you render, and store its `groups` with
 * the page; the page is stale as soon as a webhook's event names one of them. `Content` maps the names of types to their values, as
 * `wisteria types` writes it: `new Reader<Content>(…)`.
 */
export class Reader<Content extends object = AnyContent> {
  readonly #options: ReaderOptions
  readonly #groups = new Set<string>()

  constructor(options: ReaderOptions) {
    this.#options = options
  }

  /** The cache groups of everything read so far. */
  get groups(): string[] {
    return [...this.#groups]
  }

  get edition(): Edition {
    return this.#options.edition ?? 'published'
  }

  /** A page of entries of a type. Their values are typed by `pick`, if it is a literal. */
  async entries<Type extends keyof Content & string, const Asked extends ListOptions = object>(
    type: Type,
    options?: Asked & ListOptions,
  ): Promise<EntryPage<ValuesFor<Content, Type, Asked>, Type>> {
    return this.#read(`/entries/${segment(type)}`, listQuery(options ?? {}))
  }

  /** Every entry that a list has, page after page. */
  async *allEntries<Type extends keyof Content & string, const Asked extends ListOptions = object>(
    type: Type,
    options?: Asked & ListOptions,
  ): AsyncGenerator<Entry<ValuesFor<Content, Type, Asked>, Type>> {
    let after = options?.after
    do {
      const page = await this.entries(type, { first: 100, ...options, after })
      yield* page.entries as Entry<ValuesFor<Content, Type, Asked>, Type>[]
      after = page.next ?? undefined
    } while (after !== undefined)
  }

  /** A page of entries of a type, each in every locale that it can be read in. */
  async entriesEverywhere<Type extends keyof Content & string, const Asked extends ListOptions = object>(
    type: Type,
    options?: Asked & ListOptions,
  ): Promise<{
    readonly entries: readonly EntryEverywhere<ValuesFor<Content, Type, Asked>>[]
    readonly next: string | null
  }> {
    return this.#read(`/entries/${segment(type)}`, { ...listQuery(options ?? {}), locales: 'every' })
  }

  /** Entries of all types that contain some words, best first, with pieces of their texts. At most 50; it tolerates typos. */
  async search<const Asked extends SearchOptions = object>(
    words: string,
    options?: Asked & SearchOptions,
  ): Promise<readonly SearchResult<AnyEntry<Content, Asked>>[]> {
    const { types, ...asked } = (options ?? {}) as SearchOptions
    const query = { words, ...asked, types: types?.join(',') }
    return (await this.#read<{ results: SearchResult<AnyEntry<Content, Asked>>[] }>('/search', query)).results
  }

  /** One entry by its id; null when readers do not get it. */
  async entry<Type extends keyof Content & string, const Asked extends EntryOptions = object>(
    type: Type,
    id: string,
    options?: Asked & EntryOptions,
  ): Promise<Entry<ValuesFor<Content, Type, Asked>, Type> | null> {
    return this.#missing(() => this.#read(`/entries/${segment(type)}/${segment(id)}`, { ...options }))
  }

  /** The entry of a type that has exactly one; null while it is not public. */
  async only<Type extends keyof Content & string, const Asked extends EntryOptions = object>(
    type: Type,
    options?: Asked & EntryOptions,
  ): Promise<Entry<ValuesFor<Content, Type, Asked>, Type> | null> {
    return this.#missing(() => this.#read(`/entries/${segment(type)}`, { ...options }))
  }

  /** The entry at a path, told apart by its `type`; its new path if it has moved, or null. */
  async at<const Asked extends Choosing = object>(
    path: string,
    options?: Asked & Choosing,
  ): Promise<
    | { readonly entry: AnyEntry<Content, Asked> }
    | { readonly moved: { readonly path: string; readonly permanent: boolean } }
    | null
  > {
    return this.#missing(() => this.#read('/at', { path, ...options }))
  }

  /** Every path that can be read now, page after page: for building pages and site maps. */
  async *paths(
    options: { readonly type?: string; readonly locale?: string; readonly region?: string } = {},
  ): AsyncGenerator<PublicPath> {
    let after: string | undefined
    do {
      const page: { paths: PublicPath[]; next: string | null } = await this.#public('/paths', { ...options, after })
      yield* page.paths
      after = page.next ?? undefined
    } while (after !== undefined)
  }

  /** Every path that an entry has moved away from, with its path now, page after page. */
  async *redirects(options: { readonly locale?: string } = {}): AsyncGenerator<Redirect> {
    let after: string | undefined
    do {
      const page: { redirects: Redirect[]; next: string | null } = await this.#public('/redirects', {
        ...options,
        after,
      })
      yield* page.redirects
      after = page.next ?? undefined
    } while (after !== undefined)
  }

  /** The slugs alone of a type in a locale, page after page. */
  async *slugs(
    type: keyof Content & string,
    options: { readonly locale?: string; readonly region?: string } = {},
  ): AsyncGenerator<{ readonly slug: string; readonly id: string; readonly updatedAt: string }> {
    let after: string | undefined
    do {
      const page: { slugs: { slug: string; id: string; updatedAt: string }[]; next: string | null } =
        await this.#public(`/slugs/${segment(type)}`, { ...options, after })
      yield* page.slugs
      after = page.next ?? undefined
    } while (after !== undefined)
  }

  /** Public changes since a position, and the next position; without a position, only the next one. */
  changes(
    since?: number,
  ): Promise<{ readonly changes: readonly PublicChange[]; readonly position: number; readonly more: boolean }> {
    return this.#public('/changes', { since })
  }

  /** A reader of the same site without recorded groups: its `groups` are those of one page. */
  forPage(): Reader<Content> {
    return new Reader<Content>(this.#options)
  }

  /** A reader of the same whose calls end when a signal is aborted. */
  until(signal: AbortSignal): Reader<Content> {
    return new Reader<Content>({ ...this.#options, signal })
  }

  /** A reader whose answers are no older than an event, so that a page that it made stale is not made of the same again. */
  after(event: Pick<WebhookEvent, 'data'>): Reader<Content> {
    return new Reader<Content>({
      ...this.#options,
      generation: event.data.publicGeneration ?? this.#options.generation,
    })
  }

  /** A GraphQL query. @throws WisteriaGraphqlError when the answer has errors. */
  async graphql<Data = Record<string, unknown>>(
    query: string,
    variables: Readonly<Record<string, unknown>> = {},
    { exactLocale }: Pick<Choosing, 'exactLocale'> = {},
  ): Promise<Data> {
    const { site, edition, generation } = this.#options
    const asked = { generation, edition: edition === 'draft' ? 'draft' : undefined, exactLocale }
    const path = `/read/v1/${segment(site)}/graphql`
    const body = { query, ...(Object.keys(variables).length > 0 ? { variables: JSON.stringify(variables) } : {}) }
    // By GET its answer can be cached, as long as the address is not too long for a cache.
    const isShort = new URLSearchParams(body).toString().length <= longestAddress
    const reply = await call<{ data?: Data; errors?: GraphqlError[] }>(this.#options, {
      path,
      ...(isShort
        ? { query: { ...asked, ...body } }
        : { method: 'POST', query: asked, body: { query, variables }, isQuestion: true }),
    })
    this.#note(reply)
    if (reply.body.errors) throw new WisteriaGraphqlError(reply.body.errors, reply.body.data)
    return reply.body.data as Data
  }

  #read<Body>(path: string, query: Query): Promise<Body> {
    return this.#public(path, { ...query, edition: this.#options.edition === 'draft' ? 'draft' : undefined })
  }

  async #public<Body>(path: string, query: Query): Promise<Body> {
    const { site, generation } = this.#options
    try {
      const reply = await call<Body>(this.#options, {
        path: `/read/v1/${segment(site)}${path}`,
        query: path === '/changes' ? query : { ...query, generation },
      })
      this.#note(reply)
      return reply.body
    } catch (error) {
      if (error instanceof WisteriaProblem) for (const group of error.groups) this.#groups.add(group)
      throw error
    }
  }

  async #missing<Found>(read: () => Promise<Found>): Promise<Found | null> {
    try {
      return await read()
    } catch (error) {
      if (error instanceof WisteriaProblem && error.isNotFound && this.#options.missing !== 'throw') return null
      throw error
    }
  }

  #note(reply: Reply<unknown>): void {
    for (const group of reply.groups) this.#groups.add(group)
  }
}

/** Characters of a query string. */
const longestAddress = 4_000

type Query = Readonly<Record<string, string | number | boolean | undefined>>

const listQuery = ({ where, count, ...options }: ListOptions): Query => ({
  where: where === undefined ? undefined : String(where),
  ...options,
  count: count || undefined,
})
