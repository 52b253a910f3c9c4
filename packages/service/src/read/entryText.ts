import {
  chainOf,
  holdsChoices,
  holdsListings,
  holdsRichText,
  localeTags,
  noReferences,
  collectReferences,
  resolveReferences,
  typeWithId,
  WisteriaError,
  type Dependences,
  type Links,
  type Listing,
  type ReferenceSource,
  type CollectedReferences,
  type ChoiceForm,
  type RichTextForm,
  type Selection,
} from '@wisteria/core'
import {
  namedRowsInLocale,
  rowsInAllLocales,
  rowsInLocale,
  type Edition,
  type EditionTableRow,
  type Site,
} from '@wisteria/store'
import { assetLinks, readAssets, type ReadAsset } from '../assets/reading.js'
import type { Kernel } from '../kernel/kernel.js'
import { extrasOf, isAsked, type AskedExtras, type Extras } from './extras.js'
import { fillListing } from './listings.js'
import { ReadEntry } from './readEntry.js'
import type { ReadableEntry } from './rowCache.js'
import { rowCacheOf } from './rowCache.js'

/** How entries are printed, and which fields. */
export interface Printing extends AskedExtras {
  /** The selection; everything when left out. */
  readonly selection?: Selection | undefined
  /** Where nothing else is chosen; the document when left out. */
  readonly richText?: RichTextForm | undefined
  /** Where nothing else is chosen; the value when left out. */
  readonly choices?: ChoiceForm | undefined
}

/** Entries as texts. */
export interface Printed {
  readonly texts: readonly string[]
  /** When any of them may change with the time: see `changesAt`. */
  readonly until: number
  /** How many entries were followed to. */
  readonly followed: number
}

/** The most entries that may be followed from the entries of one answer. */
export const maxFollowed = 2000

/**
 * Prints rows for readers, and notes what they depend on. The stored text is used as it is where no field is selected and nothing is referred to. References are
 * resolved now, since their visibility is not stored in the row.
 */
export async function printEntries(
  kernel: Kernel,
  site: Site,
  edition: Edition,
  locale: string,
  rows: readonly EditionTableRow[],
  depends: Dependences,
  { selection, richText = 'document', choices = 'value', ...asked }: Printing = {},
): Promise<Printed> {
  const extras = await extrasOf(kernel, site, edition, rows, asked)
  const gathering = new ReferenceLoader(kernel, site, edition, locale, extras, depends)
  const entries = rows.map((row) => new ReadEntry(row, edition, typeWithId(site.model, row.type)!, extras))
  const isAsStored = ({ row, type }: ReadEntry): boolean =>
    selection === undefined &&
    row.refs === '[]' &&
    row.assets === '[]' &&
    !(extras.exactLocale && row.fallbacks !== '{}') &&
    !holdsListings(site.model, type) &&
    (richText === 'document' || !holdsRichText(site.model, type)) &&
    (choices === 'value' || !holdsChoices(site.model, type))
  const resolving = entries.filter((entry) => !isAsStored(entry))
  if (resolving.length > 0) await gathering.gather(resolving.map((entry) => ({ entry, selection })))
  const reachable = gathering.reachable(richText, choices)
  const texts = entries.map((entry) => {
    const { row, type } = entry
    // Where it can be read in other locales is said too.
    depends.entry(row.entry, type.name, asked.alternates ? undefined : row.locale)
    const values = isAsStored(entry)
      ? row.doc
      : JSON.stringify(resolveReferences(site.model, type, entry.values, reachable, selection))
    return `{${JSON.stringify(entry.head).slice(1, -1)},"values":${values}}`
  })
  return {
    texts,
    followed: gathering.followed,
    // No event tells of a translation that somebody declared to be still right.
    until: asked.freshness ? 0 : gathering.until,
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
  depends: Dependences,
  printing: Printing,
): Promise<Printed> {
  const ids = rows.map((row) => row.entry)
  const all = await rowsInAllLocales(kernel.database, site, edition, ids)
  const byEntry = new Map<string, string[]>(rows.map((row) => [row.entry, []]))
  const parts: Printed[] = []
  for (const locale of localeTags(site.settings)) {
    const local = all.filter((row) => row.locale === locale && isAsked(row, printing))
    const printed = await printEntries(kernel, site, edition, locale, local, depends, printing)
    parts.push(printed)
    for (const [index, row] of local.entries())
      byEntry.get(row.entry)!.push(`${JSON.stringify(locale)}:${printed.texts[index]}`)
  }
  return {
    texts: rows.map((row) => {
      const type = typeWithId(site.model, row.type)!.name
      depends.entry(row.entry, type)
      const head = JSON.stringify({ id: row.entry, type }).slice(0, -1)
      return `${head},"locales":{${byEntry.get(row.entry)!.join(',')}}}`
    }),
    until: Math.min(...parts.map((part) => part.until)),
    followed: parts.reduce((sum, part) => sum + part.followed, 0),
  }
}

interface ToReach {
  readonly entry: ReadEntry
  readonly selection: Selection | undefined
}

/** All entries that the entries of one answer reach, loaded level by level, since a followed one may reach further. */
class ReferenceLoader {
  readonly #kernel: Kernel
  readonly #site: Site
  readonly #edition: Edition
  readonly #locale: string
  readonly #extras: Extras
  readonly #entries = new Map<string, ReadEntry>()
  readonly #named = new Map<string, ReadableEntry>()
  readonly #assets = new Map<string, ReadAsset>()
  readonly #lists = new Map<string, readonly { readonly id: string; readonly type: string }[]>()
  readonly #depends: Dependences
  until = Infinity
  followed = 0

  constructor(kernel: Kernel, site: Site, edition: Edition, locale: string, extras: Extras, depends: Dependences) {
    this.#depends = depends
    this.#extras = extras
    this.#kernel = kernel
    this.#site = site
    this.#edition = edition
    this.#locale = locale
  }

  async gather(beginnings: readonly ToReach[]): Promise<void> {
    const { model } = this.#site
    const named = new Set<string>()
    const linked = new Set<string>()
    const assets = new Set<string>()
    const seen = new Map<string, Set<Selection>>()
    let level = beginnings
    while (level.length > 0) {
      const reached: CollectedReferences = { ...noReferences(), entries: named, linked, assets }
      for (const { entry, selection } of level) collectReferences(model, entry.type, entry.values, reached, selection)
      await this.#fill(reached)
      const fresh = reached.followed.filter(({ id, inside }) => {
        const earlier = seen.get(id) ?? new Set()
        seen.set(id, earlier)
        return !earlier.has(inside) && earlier.add(inside)
      })
      this.followed += fresh.length
      if (this.followed > maxFollowed)
        throw new WisteriaError(
          'tooCostly',
          `References lead to more than ${maxFollowed} entries in this answer. Ask for fewer: a smaller \`first\`, \`first\` at a list, or less nesting.`,
        )
      await this.#load(fresh.map(({ id }) => id))
      level = fresh.flatMap(({ id, inside }) => {
        const entry = this.#entries.get(id)
        return entry ? [{ entry, selection: inside }] : []
      })
    }
    const database = this.#kernel.database
    const unknown = [...new Set([...named, ...linked])].filter((id) => !this.#entries.has(id))
    const [readable, foundAssets] = await Promise.all([
      readableEntries(this.#kernel, this.#site, this.#edition, this.#locale, unknown),
      readAssets(database, this.#kernel, this.#site, this.#locale, [...assets]),
    ])
    for (const [id, entry] of readable) if (this.#isRead(entry.contentLocale)) this.#named.set(id, entry)
    for (const [id, asset] of foundAssets) this.#assets.set(id, asset)
    for (const id of assets) this.#depends.asset(id)
    const locale = this.#locale
    for (const [id, { type }] of this.#entries) this.#depends.entry(id, type.name, locale)
    for (const [id, { type }] of this.#named)
      if (linked.has(id)) this.#depends.entry(id, type, locale)
      else this.#depends.presence(id, type, locale)
    // They may become readable, and must not be named.
    for (const id of [...unknown, ...seen.keys()])
      if (!this.#entries.has(id) && !this.#named.has(id)) this.#depends.hidden(id, locale)
  }

  async #load(ids: readonly string[]): Promise<void> {
    const missing = [...new Set(ids)].filter((id) => !this.#entries.has(id))
    if (missing.length === 0) return
    const rows = await rowsOf(this.#kernel, this.#site, this.#edition, this.#locale, missing)
    for (const [id, entry] of rows)
      if (this.#isRead(entry.row.content_locale)) this.#entries.set(id, entry.with(this.#extras))
  }

  /** Whether an entry with words in a locale is read, or left out as a translation that does not exist. */
  #isRead(contentLocale: string): boolean {
    return !this.#extras.exactLocale || contentLocale === this.#locale
  }

  /** Fills lists, each once, and follows the selected fields of their entries. */
  async #fill({ listings, followed }: CollectedReferences): Promise<void> {
    for (const { listing, inside } of listings) {
      const key = JSON.stringify(listing)
      if (!this.#lists.has(key)) {
        const { exactLocale } = this.#extras
        const filled = await fillListing(
          this.#kernel,
          this.#site,
          this.#edition,
          this.#locale,
          listing,
          this.#depends,
          exactLocale,
        )
        const entries = filled.rows.map(
          (row) => new ReadEntry(row, this.#edition, typeWithId(this.#site.model, row.type)!, this.#extras),
        )
        this.#lists.set(
          key,
          entries.map(({ row, type }) => ({ id: row.entry, type: type.name })),
        )
        this.until = Math.min(this.until, filled.until)
        if (inside) for (const entry of entries) this.#entries.set(entry.row.entry, entry)
      }
      if (inside) followed.push(...this.#lists.get(key)!.map(({ id }) => ({ id, inside })))
    }
  }

  reachable(richText: RichTextForm, choices: ChoiceForm): ReferenceSource {
    const links: Links = {
      entry: (id) => {
        const row = this.#named.get(id) ?? this.#entries.get(id)?.row
        return row && { address: row.path, title: row.title }
      },
      asset: assetLinks(this.#assets),
    }
    return {
      typeOf: (id) => this.#entries.get(id)?.type.name ?? this.#named.get(id)?.type,
      entry: (id) => this.#entries.get(id),
      asset: (id) => this.#assets.get(id),
      listed: (listing: Listing) => this.#lists.get(JSON.stringify(listing)) ?? [],
      richText,
      links,
      choices,
      locales: chainOf(this.#site.settings, this.#locale),
    }
  }
}

/** Those entries that can be read in the edition and locale, by id. */
export async function rowsOf(
  kernel: Kernel,
  site: Site,
  edition: Edition,
  locale: string,
  ids: readonly string[],
): Promise<Map<string, ReadEntry>> {
  const kept = edition === 'published' ? rowCacheOf(kernel).of(site) : undefined
  const read = new Map<string, ReadEntry>()
  const missing: string[] = []
  for (const id of ids) {
    const cached = kept?.get(locale, id)
    if (cached) read.set(id, cached)
    else missing.push(id)
  }
  if (missing.length === 0) return read
  const rows = await rowsInLocale(kernel.database, site, edition, missing, locale)
  for (const row of rows) {
    const entry = new ReadEntry(row, edition, typeWithId(site.model, row.type)!)
    kept?.keep(entry)
    read.set(row.entry, entry)
  }
  return read
}

/** The public part of referenced entries, by id: those that can be read in the edition and locale. */
export async function readableEntries(
  kernel: Kernel,
  site: Site,
  edition: Edition,
  locale: string,
  ids: readonly string[],
): Promise<Map<string, ReadableEntry>> {
  const kept = edition === 'published' ? rowCacheOf(kernel).of(site) : undefined
  const readable = new Map<string, ReadableEntry>()
  const missing: string[] = []
  for (const id of ids) {
    const cached = kept?.named(locale, id)
    if (cached) readable.set(id, cached)
    else missing.push(id)
  }
  if (missing.length === 0) return readable
  const rows = await namedRowsInLocale(kernel.database, site, edition, missing, locale)
  for (const { entry, type, path, title, contentLocale } of rows) {
    const named = { type: typeWithId(site.model, type)?.name ?? '', path, title, contentLocale }
    kept?.keepNamed(locale, entry, named)
    readable.set(entry, named)
  }
  return readable
}
