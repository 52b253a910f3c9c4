import {
  acceptsMediaType,
  fieldOf,
  fold,
  idPattern,
  keyOf,
  kindOf,
  readCell,
  short,
  wantedIn,
  type Fact,
  type Find,
  type ReadyMapping,
  type Wanted,
} from '@wisteria/core'
import {
  assetsByName,
  assetsWithIds,
  draftsByFact,
  importFilesNamed,
  workingCopiesOf,
  type EntryImportRow,
  type ImportFile,
  type Reader,
  type Site,
  type StoredFile,
} from '@wisteria/store'

/** Stands for the id of an entry, or of an asset, that the import would create. */
export const futureId = '0'.repeat(20)

/** How many rows are looked up with one statement for each column. */
export const lookedUpAtOnce = 500

/**
 * The entries and files that the rows of an import name, and the entries that its key finds. They are looked up for many rows at once,
 * and stay known as long as nobody else changes the site.
 */
export class Lookups {
  readonly #mapping: ReadyMapping
  readonly #import: string
  readonly #brings: (text: string) => boolean
  /** By column and fact: the ids of entries. */
  readonly #entries = new Map<string, readonly string[]>()
  readonly #assets = new Map<string, readonly string[]>()
  /** Files that come with the import, by the text that names them. */
  readonly #files = new Map<string, ImportFile>()
  #until = 0

  /**
   * @param id of the import.
   * @param brings whether a text names a file that is still to come.
   */
  constructor(mapping: ReadyMapping, id: string, brings: (text: string) => boolean = () => false) {
    this.#mapping = mapping
    this.#import = id
    this.#brings = brings
  }

  /** Whether the rows from a position on are looked up. */
  knows(position: number): boolean {
    return position < this.#until
  }

  /** Looks up what rows name. */
  async prepare(reader: Reader, site: Site, rows: readonly EntryImportRow[]): Promise<void> {
    const wanted = rows.flatMap(({ cells }) => wantedIn(this.#mapping, cells))
    for (const column of new Set(wanted.map(({ column }) => column))) {
      const texts = [...new Set(wanted.flatMap((each) => (each.column === column ? [each.text] : [])))]
      if (wanted.find((each) => each.column === column)!.is === 'asset') await this.#findAssets(reader, site, texts)
      else await this.#findEntries(reader, site, column, texts)
    }
    await this.#findKeys(reader, site, rows)
    this.#until = Math.max(this.#until, (rows.at(-1)?.position ?? -1) + 1)
  }

  async #findEntries(reader: Reader, site: Site, column: Wanted['column'], texts: readonly string[]): Promise<void> {
    const { locale = site.settings.defaultLocale, targets = [], by } = column
    const put = (text: string, id: string): void => {
      const name = nameOf(column.to, text)
      const before = this.#entries.get(name) ?? []
      if (!before.includes(id)) this.#entries.set(name, [...before, id])
    }
    if (by === undefined) {
      const copies = await workingCopiesOf(
        reader,
        site,
        texts.filter((text) => idPattern.test(text)),
      )
      for (const { id, type } of copies.values()) if (targets.some((target) => target.type.id === type.id)) put(id, id)
      return
    }
    for (const { type, by: field } of targets) {
      if (!field) continue
      const facts = new Map<Fact, string[]>()
      for (const text of texts) {
        const read = readCell(field, text, this.#mapping)
        const fact =
          'value' in read && kindOf(field).checkForm(read.value, field.options) === undefined
            ? kindOf(field).fact(read.value)
            : undefined
        if (fact !== undefined) facts.set(fact, [...(facts.get(fact) ?? []), text])
      }
      const matches = await draftsByFact(reader, site, [type.id], field.id, locale, [...facts.keys()])
      for (const [fact, ids] of matches) for (const text of facts.get(fact) ?? []) for (const id of ids) put(text, id)
    }
  }

  async #findAssets(reader: Reader, site: Site, texts: readonly string[]): Promise<void> {
    const ids = texts.filter((text) => idPattern.test(text))
    for (const { id } of await assetsWithIds(reader, site.id, ids)) this.#assets.set(id, [id])
    for (const [name, assets] of await assetsByName(reader, site.id, texts)) this.#assets.set(name, assets)
    const files = await importFilesNamed(reader, this.#import, texts)
    for (const text of texts) {
      const file = files.get(text)
      if (file) this.#files.set(text, file)
      if (file?.problem === '' || (!file && this.#brings(text))) this.#assets.set(text, [file?.asset ?? futureId])
    }
  }

  async #findKeys(reader: Reader, site: Site, rows: readonly EntryImportRow[]): Promise<void> {
    const { key, contentType } = this.#mapping
    if (!key) return
    const facts = [...new Set(rows.flatMap(({ cells }) => keyOf(this.#mapping, cells) ?? []))]
    const field = fieldOf(key)
    if (!field) {
      const copies = await workingCopiesOf(
        reader,
        site,
        facts.map(String).filter((id) => idPattern.test(id)),
      )
      for (const { id, type } of copies.values())
        if (type.id === contentType.id) this.#entries.set(nameOf(keyName, id), [id])
      return
    }
    const locale = key.locale ?? site.settings.defaultLocale
    for (const [fact, ids] of await draftsByFact(reader, site, [contentType.id], field.id, locale, facts))
      this.#entries.set(nameOf(keyName, fact), ids)
  }

  /** The entries that have the key of a row. */
  withKey(key: Fact | undefined): readonly string[] {
    return key === undefined ? [] : (this.#entries.get(nameOf(keyName, key)) ?? [])
  }

  /** Whether nothing has the name that a cell gives. */
  isMissing(wanted: Wanted): boolean {
    return this.idsOf(wanted).length === 0
  }

  /** A file that has come and is no asset yet, where a cell names one that its field takes. */
  newFile(wanted: Wanted): (ImportFile & { readonly file: StoredFile }) | undefined {
    const { file = null, asset = null, ...rest } = this.#files.get(wanted.text) ?? {}
    if (wanted.is !== 'asset' || !file || asset !== null || 'problem' in this.find(wanted)) return undefined
    return { name: wanted.text, problem: '', ...rest, file, asset }
  }

  /** A file has become an asset. */
  noteFile(name: string, asset: string): void {
    const file = this.#files.get(name)
    if (file) this.#files.set(name, { ...file, asset })
    this.#assets.set(name, [asset])
  }

  /** An entry was created for a reference. */
  noteReference({ column, text }: Wanted, id: string): void {
    this.#entries.set(nameOf(column.to, text), [id])
  }

  /** An entry was created of a row: later rows may have its key, or refer to it. */
  noteCreated(cells: readonly unknown[], key: Fact | undefined, id: string): void {
    const { columns, contentType } = this.#mapping
    if (key !== undefined) this.#entries.set(nameOf(keyName, key), [id])
    for (const { to, by, targets = [], locale } of columns) {
      if (by === undefined || !targets.some(({ type }) => type.id === contentType.id)) continue
      const source = columns.find(
        (column) => column.fields.length === 1 && column.fields[0]!.name === by && column.locale === locale,
      )
      const text = source && cells[source.index]
      if (typeof text !== 'string' && typeof text !== 'number') continue
      const name = nameOf(to, String(text))
      this.#entries.set(name, [...(this.#entries.get(name) ?? []), id])
    }
  }

  /** What a cell names. */
  idsOf({ is, column, text }: Wanted): readonly string[] {
    return (is === 'asset' ? this.#assets.get(text) : this.#entries.get(nameOf(column.to, text))) ?? []
  }

  readonly find: Find = (wanted) => {
    const { is, column } = wanted
    const ids = this.idsOf(wanted)
    const [id, ...more] = ids
    const shown = short(wanted.text)
    if (is === 'asset') {
      const { problem = '', file } = this.#files.get(wanted.text) ?? {}
      if (problem !== '') return { problem: `\`${shown}\`: ${problem}` }
      const accepts = (column.fields.at(-1)!.options['accepts'] ?? []) as readonly string[]
      if (file && !acceptsMediaType(accepts, file.mediaType))
        return { problem: `\`${shown}\` is ${file.mediaType}; the field takes ${accepts.join(', ')}.` }
    }
    if (id !== undefined && more.length === 0) return { id }
    if (is === 'asset')
      return {
        problem:
          id === undefined
            ? `There is no file \`${shown}\` on this site.`
            : `There are ${ids.length} files named \`${shown}\`. Name one by its id.`,
      }
    const types = column.targets?.map(({ type }) => type.label).join(' or ') ?? ''
    const said = column.by === undefined ? `the id \`${shown}\`` : `\`${shown}\` as ${column.by}`
    return {
      problem:
        id === undefined
          ? `There is no ${types} with ${said}.`
          : `There are ${ids.length} entries of ${types} with ${said}.`,
    }
  }
}

const keyName = '*'
/** Texts are compared as facts are: without case and marks. */
const nameOf = (place: string, value: Fact): string =>
  `${place} ${typeof value === 'number' ? `#${value}` : fold(value.trim())}`
