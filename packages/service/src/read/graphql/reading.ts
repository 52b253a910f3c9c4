import { decide, Dependences, typeWithId, WisteriaError, type Caller, type Listing } from '@wisteria/core'
import { type Edition, type EditionTableRow, type Site } from '@wisteria/store'
import DataLoader from 'dataloader'
import { readAssets, type ReadAsset } from '../../assets/reading.js'
import type { Kernel } from '../../kernel/kernel.js'
import { exactly, isAsked } from '../extras.js'
import { fillListing } from '../listings.js'
import { rowsOf } from '../entryText.js'
import type { FieldRead } from '../fieldReads.js'
import { ReadEntry } from '../readEntry.js'
import { fieldReadsOf } from '../fieldReads.js'

/** The state that one query of one caller shares: its loaders and dependencies. */
export class Reading {
  readonly kernel: Kernel
  readonly site: Site
  readonly caller: Caller
  readonly edition: Edition
  /** Whether nothing of another locale is read. */
  readonly exactLocale: boolean
  readonly depends = new Dependences()
  /** Lists read so far. */
  connections = 0
  /** When the answer may change with the time: see `changesAt`. */
  until = Infinity
  /** Whether the answer has errors. */
  failed = false
  /** The cost of the query, as the limits count it. */
  cost = 0
  /** Whether anything was read from drafts. */
  drafts = false
  readonly #assets = new Map<string, DataLoader<string, ReadAsset | undefined>>()
  readonly #loaders = new Map<string, DataLoader<string, ReadEntry | undefined>>()

  /** @param edition the default for fields that do not name one. */
  constructor(
    kernel: Kernel,
    site: Site,
    caller: Caller,
    {
      edition = 'published',
      exactLocale = false,
    }: { edition?: Edition | undefined; exactLocale?: boolean | undefined } = {},
  ) {
    this.edition = edition
    this.exactLocale = exactLocale
    this.kernel = kernel
    this.site = site
    this.caller = caller
  }

  /** @throws WisteriaError `forbidden` when the caller may not read the edition. */
  requireEdition(edition: Edition): void {
    const may = decide(this.caller, edition === 'draft' ? 'draft.read' : 'published.read', {
      siteIsOpen: this.site.isOpen,
    })
    if (!may.allowed)
      throw new WisteriaError(this.caller.is === 'nobody' ? 'unauthenticated' : 'forbidden', may.because!)
    if (edition === 'draft') this.drafts = true
  }

  /** An entry of an edition and locale, or undefined when no reader of them gets it. Batched. */
  load(edition: Edition, locale: string, id: string): Promise<ReadEntry | undefined> {
    const key = `${edition} ${locale}`
    let loader = this.#loaders.get(key)
    if (!loader) {
      loader = new DataLoader((ids) => this.loadMany(edition, locale, ids), { maxBatchSize: 500 })
      this.#loaders.set(key, loader)
    }
    return loader.load(id)
  }

  /** An asset as readers of a locale get it. Batched. */
  loadAsset(locale: string, id: string): Promise<ReadAsset | undefined> {
    this.depends.asset(id)
    const loader =
      this.#assets.get(locale) ??
      new DataLoader<string, ReadAsset | undefined>(async (ids) => {
        const assets = await readAssets(this.kernel.database, this.kernel, this.site, locale, ids)
        return ids.map((other) => assets.get(other))
      })
    this.#assets.set(locale, loader)
    return loader.load(id)
  }

  /** The entries that a list finds which fills itself. */
  async listed(edition: Edition, locale: string, listing: Listing): Promise<ReadEntry[]> {
    const { kernel, site, depends, exactLocale } = this
    const { rows, until } = await fillListing(kernel, site, edition, locale, listing, depends, exactLocale)
    this.until = Math.min(this.until, until)
    return rows.map((row) => this.entry(row, edition))
  }

  /** Notes that a key reads a field of a type, block type or group, under the name in the query. */
  noteField(owner: string, field: string, name: string): void {
    fieldReadsOf(this.kernel).note(this.site, this.caller, owner, field, name)
  }

  /** Notes a read that a plan keeps. */
  noteKept(read: FieldRead): void {
    fieldReadsOf(this.kernel).noteKept(this.site, this.caller, read)
  }

  /** Entries of an edition and locale, in the order of the ids; undefined for one that its readers cannot see. */
  async loadMany(edition: Edition, locale: string, ids: readonly string[]): Promise<(ReadEntry | undefined)[]> {
    const rows = await rowsOf(this.kernel, this.site, edition, locale, ids)
    return ids.map((id) => {
      const entry = rows.get(id)
      if (entry && isAsked(entry.row, this)) return this.depending(entry.with(exactly(this)))
      // It may become readable, and must not be named.
      this.depends.hidden(id, locale)
      return undefined
    })
  }

  /** A row as an entry; the answer depends on it from now on. */
  entry(row: EditionTableRow, edition: Edition): ReadEntry {
    return this.depending(new ReadEntry(row, edition, typeWithId(this.site.model, row.type)!, exactly(this)))
  }

  depending(entry: ReadEntry): ReadEntry {
    this.depends.entry(entry.row.entry, entry.type.name, entry.row.locale)
    return entry
  }
}
