import { WisteriaProblem } from './problem.js'
import { call, segment, type Connection, type Reply } from './transport.js'

/** An entry as the Read API prints it. */
export interface Entry<Values = Record<string, unknown>> {
  readonly id: string
  readonly type: string
  readonly locale: string
  readonly path: string | null
  readonly publishedAt: string | null
  readonly updatedAt: string
  readonly values: Values
}

export interface EntryPage<Values = Record<string, unknown>> {
  readonly entries: readonly Entry<Values>[]
  /** Give it as `after` for the next page; null at the end. */
  readonly next: string | null
  /** With `count: true`. */
  readonly count?: number
}

export type Edition = 'published' | 'draft'

/** In which form rich text is printed. */
export type RichTextForm = 'document' | 'html' | 'markdown' | 'text'

/** How an entry is asked for. */
export interface EntryOptions {
  readonly locale?: string | undefined
  readonly richText?: RichTextForm | undefined
}

/** Values by the names of types, when nothing more is known: `wisteria types` writes a better one. */
export type AnyContent = Record<string, Record<string, unknown>>

export interface ListOptions {
  /** A condition: `format in ["concert", "walk"] and starts >= $now`. */
  readonly where?: string | undefined
  /** `starts,-title` */
  readonly sort?: string | undefined
  readonly limit?: number | undefined
  readonly after?: string | undefined
  readonly locale?: string | undefined
  readonly richText?: RichTextForm | undefined
  readonly count?: boolean | undefined
}

export interface ReaderOptions extends Connection {
  readonly site: string
  /** `published` when left out; a grant or key with the right to drafts does not choose drafts by itself. */
  readonly edition?: Edition | undefined
}

export interface GraphqlError {
  readonly message: string
  readonly path?: readonly (string | number)[]
  readonly extensions?: Readonly<Record<string, unknown>>
}

/** A GraphQL answer that has errors; `data` is what could be answered all the same. */
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
 * Reads a site. It remembers the cache groups of every answer: make one reader for each page you render, and keep its
 * `groups` with the page; the page is stale as soon as a webhook's event names one of them.
 *
 * `Content` maps the names of types to their values, as `wisteria types` writes it: `new Reader<Content>(…)`.
 */
export class Reader<Content extends object = AnyContent> {
  readonly #options: ReaderOptions
  readonly #groups = new Set<string>()

  constructor(options: ReaderOptions) {
    this.#options = options
  }

  /** What everything read so far depends on. */
  get groups(): string[] {
    return [...this.#groups]
  }

  get edition(): Edition {
    return this.#options.edition ?? 'published'
  }

  /** A page of entries of a type. */
  async entries<Type extends keyof Content & string>(
    type: Type,
    options: ListOptions = {},
  ): Promise<EntryPage<Content[Type]>> {
    return this.#read(`/entries/${segment(type)}`, { ...options, count: options.count || undefined })
  }

  /** Every entry that a list has, page after page. */
  async *allEntries<Type extends keyof Content & string>(
    type: Type,
    options: ListOptions = {},
  ): AsyncGenerator<Entry<Content[Type]>> {
    let after = options.after
    do {
      const page: EntryPage<Content[Type]> = await this.entries(type, { limit: 100, ...options, after })
      yield* page.entries
      after = page.next ?? undefined
    } while (after !== undefined)
  }

  /** One entry by its id; null when there is none to see. */
  async entry<Type extends keyof Content & string>(
    type: Type,
    id: string,
    options: EntryOptions = {},
  ): Promise<Entry<Content[Type]> | null> {
    return nullWhenNotFound(() =>
      this.#read<Entry<Content[Type]>>(`/entries/${segment(type)}/${segment(id)}`, { ...options }),
    )
  }

  /** The entry of a type that has exactly one; null while it is not public. */
  async only<Type extends keyof Content & string>(
    type: Type,
    options: EntryOptions = {},
  ): Promise<Entry<Content[Type]> | null> {
    return nullWhenNotFound(() => this.#read<Entry<Content[Type]>>(`/entries/${segment(type)}`, { ...options }))
  }

  /** What stands at a path: an entry, where it has moved to, or null. */
  async at<Values = Record<string, unknown>>(
    path: string,
  ): Promise<
    | { readonly entry: Entry<Values> }
    | { readonly moved: { readonly path: string; readonly permanent: boolean } }
    | null
  > {
    return nullWhenNotFound(() => this.#read('/at', { path }))
  }

  /** A GraphQL query. @throws WisteriaGraphqlError when the answer has errors. */
  async graphql<Data = Record<string, unknown>>(
    query: string,
    variables: Readonly<Record<string, unknown>> = {},
  ): Promise<Data> {
    const path = `/read/v1/${segment(this.#options.site)}/graphql`
    const reply = await call<{ data?: Data; errors?: GraphqlError[] }>(this.#options, {
      method: 'POST',
      path,
      body: { query, variables },
    })
    this.#note(reply)
    if (reply.body.errors) throw new WisteriaGraphqlError(reply.body.errors, reply.body.data)
    return reply.body.data as Data
  }

  async #read<Body>(
    path: string,
    query: Readonly<Record<string, string | number | boolean | undefined>>,
  ): Promise<Body> {
    const edition = this.#options.edition === 'draft' ? 'draft' : undefined
    try {
      const reply = await call<Body>(this.#options, {
        path: `/read/v1/${segment(this.#options.site)}${path}`,
        query: { ...query, edition },
      })
      this.#note(reply)
      return reply.body
    } catch (error) {
      if (error instanceof WisteriaProblem) for (const group of error.groups) this.#groups.add(group)
      throw error
    }
  }

  #note(reply: Reply<unknown>): void {
    for (const group of reply.groups) this.#groups.add(group)
  }
}

async function nullWhenNotFound<Found>(read: () => Promise<Found>): Promise<Found | null> {
  try {
    return await read()
  } catch (error) {
    if (error instanceof WisteriaProblem && error.isNotFound) return null
    throw error
  }
}
