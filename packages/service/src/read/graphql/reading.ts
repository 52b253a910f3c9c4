import { decide, typeWithId, WisteriaError, type Caller, type Listing } from '@wisteria/core'
import { editionTables, type DraftRow, type Edition, type EditionTableRow, type Site } from '@wisteria/store'
import DataLoader from 'dataloader'
import { readAssets, type ReadAsset } from '../../assets/reading.js'
import type { Kernel } from '../../kernel.js'
import { fillListing } from '../listings.js'
import { typesOfHidden, type Dependence } from '../entryText.js'

/** An entry while a query runs: the row it came from, with its values parsed when first asked for. */
export class ReadEntry {
  readonly row: EditionTableRow
  readonly edition: Edition
  readonly typeName: string
  #values: Record<string, unknown> | undefined

  constructor(row: EditionTableRow, edition: Edition, typeName: string) {
    this.row = row
    this.edition = edition
    this.typeName = typeName
  }

  get values(): Record<string, unknown> {
    return (this.#values ??= JSON.parse(this.row.doc) as Record<string, unknown>)
  }

  /** For client caches, which key by it: the entry, its locale and its edition. */
  get opaqueId(): string {
    return Buffer.from([this.row.entry, this.row.locale, this.edition].join(' ')).toString('base64url')
  }

  get state(): string | null {
    return 'state' in this.row ? (this.row as DraftRow).state : null
  }
}

/** What one query of one caller shares: its loaders, and what its answer depends on. */
export class Reading {
  readonly kernel: Kernel
  readonly site: Site
  readonly caller: Caller
  readonly depends: Dependence[] = []
  readonly types = new Set<string>()
  onSite = false
  /** Lists asked for so far. */
  connections = 0
  time = false
  /** Whether anything was read from drafts. */
  drafts = false
  readonly #assets = new Map<string, DataLoader<string, ReadAsset | undefined>>()
  readonly #loaders = new Map<string, DataLoader<string, ReadEntry | undefined>>()

  constructor(kernel: Kernel, site: Site, caller: Caller) {
    this.kernel = kernel
    this.site = site
    this.caller = caller
  }

  /** @throws WisteriaError `forbidden` when the caller may not read the edition. */
  requireEdition(edition: Edition): void {
    const may = decide(this.caller, edition === 'draft' ? 'draft.read' : 'published.read', this.site.isOpen)
    if (!may.allowed)
      throw new WisteriaError(this.caller.is === 'nobody' ? 'unauthenticated' : 'forbidden', may.because!)
    if (edition === 'draft') this.drafts = true
  }

  /** An entry of an edition and locale, or undefined when no reader of them can see it. Batched. */
  load(edition: Edition, locale: string, id: string): Promise<ReadEntry | undefined> {
    const key = `${edition} ${locale}`
    let loader = this.#loaders.get(key)
    if (!loader) {
      loader = new DataLoader((ids) => this.#loadMany(edition, locale, ids), { maxBatchSize: 500 })
      this.#loaders.set(key, loader)
    }
    return loader.load(id)
  }

  /** An asset as readers of a locale get it. Batched. */
  loadAsset(locale: string, id: string): Promise<ReadAsset | undefined> {
    const loader =
      this.#assets.get(locale) ??
      new DataLoader<string, ReadAsset | undefined>(async (ids) => {
        const found = await readAssets(this.kernel.database, this.kernel, this.site, locale, ids)
        return ids.map((one) => found.get(one))
      })
    this.#assets.set(locale, loader)
    return loader.load(id)
  }

  /** The entries that a list finds which fills itself. */
  async listed(edition: Edition, locale: string, listing: Listing): Promise<ReadEntry[]> {
    const { rows, types, time } = await fillListing(this.kernel, this.site, edition, locale, listing)
    for (const name of types) this.types.add(name)
    this.time ||= time
    return rows.map((row) => this.entry(row, edition))
  }

  /** Notes that a key reads a field of a type, block type or group, under the name it was asked by. */
  noteField(owner: string, field: string, name: string): void {
    this.kernel.fieldReads.note(this.site, this.caller, owner, field, name)
  }

  async #loadMany(edition: Edition, locale: string, ids: readonly string[]): Promise<(ReadEntry | undefined)[]> {
    const rows = await this.kernel.database.all<EditionTableRow>(
      `select * from ${editionTables[edition].rows} where shelf = ? and locale = ? and entry in (select value from json_each(?))`,
      [this.site.shelf, locale, JSON.stringify(ids)],
    )
    const byId = new Map(rows.map((row) => [row.entry, row]))
    for (const type of await typesOfHidden(
      this.kernel.database,
      this.site,
      ids.filter((id) => !byId.has(id)),
    ))
      this.types.add(type)
    return ids.map((id) => {
      const row = byId.get(id)
      return row ? this.entry(row, edition) : undefined
    })
  }

  /** A row as an entry; the answer depends on it from now on. */
  entry(row: EditionTableRow, edition: Edition): ReadEntry {
    const type = typeWithId(this.site.model, row.type)!
    this.depends.push({ id: row.entry, type: type.name })
    return new ReadEntry(row, edition, type.name)
  }
}
