import type { SiteSettings } from '../locales/settings.js'
import { emptyModel, type Field, type FieldOwner } from '../model/model.js'
import type { Document } from '../documents/document.js'
import { originsAfter, type Origins } from './origins.js'

/** The texts of an asset, each by locale. */
export interface AssetTexts {
  readonly alt: Readonly<Record<string, string>>
  readonly title: Readonly<Record<string, string>>
  readonly caption: Readonly<Record<string, string>>
}

/** The most characters of a text of an asset. */
export const maxAssetText = 1000

const textField = (name: keyof AssetTexts, label: string): Field => ({
  id: name,
  name,
  label,
  kind: 'longText',
  required: false,
  localized: true,
  many: false,
  indexed: false,
  options: { length: { max: maxAssetText } },
})

/** An asset as an owner of fields: so its texts have units, origins and states like those of entries. */
export const assetOwner: FieldOwner = {
  id: 'asset',
  name: 'asset',
  label: 'File',
  fields: [textField('alt', 'Alternative text'), textField('title', 'Title'), textField('caption', 'Caption')],
}

/** The model that an asset's texts need: no type and no block is in them. */
export const assetModel = emptyModel

/** The texts of an asset as a document; texts without letters are none. */
export const assetDocument = (texts: AssetTexts): Document =>
  Object.fromEntries(
    assetOwner.fields.flatMap(({ id, name }) => {
      const written = Object.entries(texts[name as keyof AssetTexts]).filter(([, text]) => text !== '')
      return written.length > 0 ? [[id, Object.fromEntries(written)]] : []
    }),
  )

/** The texts in such a document. */
export const assetTextsIn = (document: Document): AssetTexts => ({
  alt: (document['alt'] ?? {}) as AssetTexts['alt'],
  title: (document['title'] ?? {}) as AssetTexts['title'],
  caption: (document['caption'] ?? {}) as AssetTexts['caption'],
})

/** What the texts of an asset were made from, where no change has recorded it yet: each from the source as it is. */
export const assetOriginsOf = (
  texts: AssetTexts,
  recorded: Origins | null,
  revision: number,
  at: string,
  settings: SiteSettings,
): Origins => recorded ?? originsAfter(assetModel, assetOwner, {}, assetDocument(texts), {}, revision, at, settings)

/** The origins of an asset's texts after a change, which makes a revision. @param given of texts made from another source. */
export const assetOriginsAfter = (
  before: AssetTexts,
  after: AssetTexts,
  origins: Origins,
  revision: number,
  at: string,
  settings: SiteSettings,
  given: Origins = {},
): Origins =>
  originsAfter(
    assetModel,
    assetOwner,
    assetDocument(before),
    assetDocument(after),
    origins,
    revision,
    at,
    settings,
    given,
  )
