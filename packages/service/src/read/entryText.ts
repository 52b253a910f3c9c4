import {
  holdsListings,
  holdsRichText,
  localeTags,
  nothingReached,
  reach,
  settleReferences,
  typeWithId,
  WisteriaError,
  type ContentType,
  type Links,
  type Listing,
  type Reachable,
  type Reached,
  type RichTextForm,
  type Selection,
} from '@wisteria/core'
import {
  editionTables,
  type DraftRow,
  type Edition,
  type EditionTableRow,
  type Reader,
  type Site,
} from '@wisteria/store'
import { assetLinks, readAssets, type ReadAsset } from '../assets/reading.js'
import type { Kernel } from '../kernel.js'
import { fillListing } from './listings.js'

/** An entry that an answer depends on, since it shows it or refers to it. */
export interface Dependence {
  readonly id: string
  readonly type: string
}

/** What is printed of entries, and how. */
export interface Printing {
  /** What is wanted of them; everything when left out. */
  readonly selection?: Selection | undefined
  /** Where nothing else is chosen; the document when left out. */
  readonly richText?: RichTextForm | undefined
}

/** Entries as texts, and what they depend on. */
export interface Printed {
  readonly texts: readonly string[]
  readonly depends: readonly Dependence[]
  readonly types: readonly string[]
  /** Whether any of them changes by waiting. */
  readonly time: boolean
}

/** So many entries may be followed to from the entries of one answer. */
export const maxFollowed = 2000

type Values = Record<string, unknown>

/**
 * Prints rows as readers get them. The stored text is used as it is where nothing is chosen and nothing is referred to;
 * references are settled now, since whether they may be seen is no business of the row that holds them.
 */
export async function printEntries(
  kernel: Kernel,
  site: Site,
  edition: Edition,
  locale: string,
  rows: readonly EditionTableRow[],
  { selection, richText = 'document' }: Printing = {},
): Promise<Printed> {
  const gathering = new Gathering(kernel, site, edition, locale)
  const typed = rows.map((row) => ({ row, type: typeWithId(site.model, row.type)! }))
  const isAsStored = ({ row, type }: (typeof typed)[number]): boolean =>
    selection === undefined &&
    row.refs === '[]' &&
    row.assets === '[]' &&
    !holdsListings(site.model, type) &&
    (richText === 'document' || !holdsRichText(site.model, type))
  const settled = typed.filter((one) => !isAsStored(one))
  if (settled.length > 0)
    await gathering.gather(settled.map(({ row, type }) => ({ type, values: gathering.valuesOf(row), selection })))
  const reachable = gathering.reachable(richText)
  const texts = typed.map((one) => {
    const { row, type } = one
    const values = isAsStored(one)
      ? row.doc
      : JSON.stringify(settleReferences(site.model, type, gathering.valuesOf(row), reachable, selection))
    return `{${JSON.stringify(headOf(row, type.name)).slice(1, -1)},"values":${values}}`
  })
  return {
    texts,
    depends: [...typed.map(({ row, type }) => ({ id: row.entry, type: type.name })), ...gathering.depends],
    time: gathering.time,
    types: [...gathering.types],
  }
}

/**
 * Prints the entries of some rows in every locale that they can be read in: `{ id, type, locales: { en: {…}, nl: {…} } }`,
 * in the order of the rows and of the site's locales.
 */
export async function printEverywhere(
  kernel: Kernel,
  site: Site,
  edition: Edition,
  rows: readonly EditionTableRow[],
  printing: Printing,
): Promise<Printed> {
  const all = await kernel.database.all<EditionTableRow>(
    `select * from ${editionTables[edition].rows} where shelf = ? and entry in (select value from json_each(?))`,
    [site.shelf, JSON.stringify(rows.map((row) => row.entry))],
  )
  const byEntry = new Map<string, string[]>(rows.map((row) => [row.entry, []]))
  const parts: Printed[] = []
  for (const locale of localeTags(site.settings)) {
    const own = all.filter((row) => row.locale === locale)
    const printed = await printEntries(kernel, site, edition, locale, own, printing)
    parts.push(printed)
    for (const [index, row] of own.entries())
      byEntry.get(row.entry)!.push(`${JSON.stringify(locale)}:${printed.texts[index]}`)
  }
  return {
    texts: rows.map((row) => {
      const head = JSON.stringify({ id: row.entry, type: typeWithId(site.model, row.type)!.name }).slice(0, -1)
      return `${head},"locales":{${byEntry.get(row.entry)!.join(',')}}}`
    }),
    depends: parts.flatMap((part) => part.depends),
    types: parts.flatMap((part) => part.types),
    time: parts.some((part) => part.time),
  }
}

interface ToReach {
  readonly type: ContentType
  readonly values: Values
  readonly selection: Selection | undefined
}

/** Everything that the entries of one answer reach, fetched level by level: what is followed may reach further. */
class Gathering {
  readonly #kernel: Kernel
  readonly #site: Site
  readonly #edition: Edition
  readonly #locale: string
  readonly #parsed = new Map<EditionTableRow, Values>()
  readonly #rows = new Map<string, EditionTableRow>()
  readonly #named = new Map<string, ReadableEntry>()
  readonly #assets = new Map<string, ReadAsset>()
  readonly #lists = new Map<string, readonly { readonly id: string; readonly type: string }[]>()
  readonly types = new Set<string>()
  time = false

  constructor(kernel: Kernel, site: Site, edition: Edition, locale: string) {
    this.#kernel = kernel
    this.#site = site
    this.#edition = edition
    this.#locale = locale
  }

  get depends(): Dependence[] {
    return [
      ...[...this.#named].map(([id, { type }]) => ({ id, type })),
      ...[...this.#rows].map(([id, row]) => ({ id, type: typeWithId(this.#site.model, row.type)!.name })),
      ...[...this.#lists.values()].flat(),
    ]
  }

  valuesOf(row: EditionTableRow): Values {
    const values = this.#parsed.get(row) ?? (JSON.parse(row.doc) as Values)
    this.#parsed.set(row, values)
    return values
  }

  async gather(beginnings: readonly ToReach[]): Promise<void> {
    const { model } = this.#site
    const named = new Set<string>()
    const assets = new Set<string>()
    const seen = new Map<string, Set<Selection>>()
    let followed = 0
    let level = beginnings
    while (level.length > 0) {
      const reached: Reached = { ...nothingReached(), entries: named, assets }
      for (const { type, values, selection } of level) reach(model, type, values, reached, selection)
      await this.#fill(reached)
      const fresh = reached.followed.filter(({ id, inside }) => {
        const known = seen.get(id) ?? new Set()
        seen.set(id, known)
        return !known.has(inside) && known.add(inside)
      })
      followed += fresh.length
      if (followed > maxFollowed)
        throw new WisteriaError(
          'tooCostly',
          `References lead to more than ${maxFollowed} entries in this answer. Ask for fewer: a smaller \`limit\`, \`first\` at a list, or less nesting.`,
        )
      await this.#load(fresh.map(({ id }) => id))
      level = fresh.flatMap(({ id, inside }) => {
        const row = this.#rows.get(id)
        return row ? [{ type: typeWithId(model, row.type)!, values: this.valuesOf(row), selection: inside }] : []
      })
    }
    const database = this.#kernel.database
    const unknown = [...named].filter((id) => !this.#rows.has(id))
    const [readable, found] = await Promise.all([
      readableEntries(database, this.#site, this.#edition, this.#locale, unknown),
      readAssets(database, this.#kernel, this.#site, this.#locale, [...assets]),
    ])
    for (const [id, one] of readable) this.#named.set(id, one)
    for (const [id, one] of found) this.#assets.set(id, one)
    const hidden = [...unknown, ...seen.keys()].filter((id) => !this.#rows.has(id) && !readable.has(id))
    for (const type of await typesOfHidden(database, this.#site, hidden)) this.types.add(type)
  }

  async #load(ids: readonly string[]): Promise<void> {
    const missing = [...new Set(ids)].filter((id) => !this.#rows.has(id))
    if (missing.length === 0) return
    for (const row of await rowsOf(this.#kernel.database, this.#site, this.#edition, this.#locale, missing))
      this.#rows.set(row.entry, row)
  }

  /** Fills lists, each once; what is wanted of their entries is followed. */
  async #fill({ listings, followed }: Reached): Promise<void> {
    for (const { listing, inside } of listings) {
      const key = JSON.stringify(listing)
      if (!this.#lists.has(key)) {
        const filled = await fillListing(this.#kernel, this.#site, this.#edition, this.#locale, listing)
        this.#lists.set(
          key,
          filled.rows.map((row) => ({ id: row.entry, type: typeWithId(this.#site.model, row.type)!.name })),
        )
        for (const name of filled.types) this.types.add(name)
        this.time ||= filled.time
        if (inside) for (const row of filled.rows) this.#rows.set(row.entry, row)
      }
      if (inside) followed.push(...this.#lists.get(key)!.map(({ id }) => ({ id, inside })))
    }
  }

  reachable(richText: RichTextForm): Reachable {
    const { model } = this.#site
    const nameOf = (row: EditionTableRow): string => typeWithId(model, row.type)!.name
    const links: Links = {
      entry: (id) => {
        const found = this.#named.get(id) ?? this.#rows.get(id)
        return found && { address: found.path, title: found.title }
      },
      asset: assetLinks(this.#assets),
    }
    return {
      typeOf: (id) => {
        const row = this.#rows.get(id)
        return row ? nameOf(row) : this.#named.get(id)?.type
      },
      entry: (id) => {
        const row = this.#rows.get(id)
        return row && { type: typeWithId(model, row.type)!, head: headOf(row, nameOf(row)), values: this.valuesOf(row) }
      },
      asset: (id) => this.#assets.get(id),
      listed: (listing: Listing) => this.#lists.get(JSON.stringify(listing)) ?? [],
      richText,
      links,
    }
  }
}

/** The rows of those entries in a locale that can be read in the edition. */
export const rowsOf = (
  reader: Reader,
  site: Site,
  edition: Edition,
  locale: string,
  ids: readonly string[],
): Promise<EditionTableRow[]> =>
  reader.all<EditionTableRow>(
    `select * from ${editionTables[edition].rows} where shelf = ? and locale = ? and entry in (select value from json_each(?))`,
    [site.shelf, locale, JSON.stringify(ids)],
  )

/**
 * The types of entries that are referred to and cannot be read: an answer depends on them, for they may become readable,
 * but must not name them.
 */
export async function typesOfHidden(reader: Reader, site: Site, ids: readonly string[]): Promise<string[]> {
  if (ids.length === 0) return []
  const rows = await reader.all<{ type: string }>(
    'select distinct type from entries where id in (select value from json_each(?)) and +site = ?',
    [JSON.stringify(ids), site.id],
  )
  return rows.flatMap((row) => typeWithId(site.model, row.type)?.name ?? [])
}

/** What those who refer to an entry may know of it. */
export interface ReadableEntry {
  readonly type: string
  readonly path: string | null
  readonly title: string
}

/** Those entries that can be read in the edition and locale. */
export async function readableEntries(
  reader: Reader,
  site: Site,
  edition: Edition,
  locale: string,
  ids: readonly string[],
): Promise<Map<string, ReadableEntry>> {
  if (ids.length === 0) return new Map()
  const rows = await reader.all<{ entry: string; type: string; path: string | null; title: string }>(
    `select entry, type, path, title from ${editionTables[edition].rows} where shelf = ? and locale = ? and entry in (select value from json_each(?))`,
    [site.shelf, locale, JSON.stringify(ids)],
  )
  return new Map(
    rows.map(({ entry, type, path, title }) => [
      entry,
      { type: typeWithId(site.model, type)?.name ?? '', path, title },
    ]),
  )
}

/** What stands around an entry's values. */
export function headOf(row: EditionTableRow, type: string): Record<string, unknown> {
  const head: Record<string, unknown> = {
    id: row.entry,
    type,
    locale: row.locale,
    path: row.path,
    publishedAt: row.published_at,
    updatedAt: row.updated_at,
  }
  if ('version' in row) {
    const { state, version } = row as DraftRow
    head['state'] = state
    head['version'] = version
  }
  return head
}
