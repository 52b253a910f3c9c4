import { withoutFallbacks, type ContentType, type Fallbacks } from '@wisteria/core'
import type { DraftRow, Edition, EditionTableRow } from '@wisteria/store'
import { noExtras, type Extras } from './extras.js'

/** An entry for readers of an edition and locale: its row, with the values parsed on first use. */
export class ReadEntry {
  readonly row: EditionTableRow
  readonly edition: Edition
  readonly type: ContentType
  #values: Record<string, unknown> | undefined
  #opaqueId: string | undefined
  readonly #extras: Extras

  constructor(row: EditionTableRow, edition: Edition, type: ContentType, extras: Extras = noExtras) {
    this.#extras = extras
    this.row = row
    this.edition = edition
    this.type = type
  }

  /** Not to be changed: others read the same. */
  get values(): Record<string, unknown> {
    return (this.#values ??= this.#readValues())
  }

  #readValues(): Record<string, unknown> {
    const values = JSON.parse(this.row.doc) as Record<string, unknown>
    return this.#extras.exactLocale ? withoutFallbacks(values, JSON.parse(this.row.fallbacks) as Fallbacks) : values
  }

  /** The same entry with extras: another object, since one without them may be cached. */
  with(extras: Extras): ReadEntry {
    return extras === noExtras ? this : new ReadEntry(this.row, this.edition, this.type, extras)
  }

  /** For client caches, which key by it: the entry, its locale and its edition. */
  get opaqueId(): string {
    return (this.#opaqueId ??= Buffer.from([this.row.entry, this.row.locale, this.edition].join(' ')).toString(
      'base64url',
    ))
  }

  get state(): string | null {
    return 'state' in this.row ? (this.row as DraftRow).state : null
  }

  /** The members beside its values. */
  get head(): Record<string, unknown> {
    const {
      entry,
      locale,
      content_locale: contentLocale,
      path,
      region,
      published_at: publishedAt,
      updated_at: updatedAt,
    } = this.row
    const head: Record<string, unknown> = {
      id: entry,
      type: this.type.name,
      locale,
      contentLocale,
      path,
      ...(region === null ? {} : { region }),
      publishedAt,
      updatedAt,
    }
    if ('version' in this.row) {
      const { state, version } = this.row as DraftRow
      head['state'] = state
      head['version'] = version
    }
    return Object.assign(head, this.#extras.members(this.row))
  }
}
