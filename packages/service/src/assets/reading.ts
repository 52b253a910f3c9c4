import { chainOf, type Links } from '@wisteria/core'
import { assetsWithIds, type Asset, type Reader, type Site } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'

/** Where an asset's file is, on the service. */
export const addressOf = (kernel: Kernel, site: Site, { id, name }: Pick<Asset, 'id' | 'name'>): string =>
  `${kernel.baseUrl}/assets/${site.name}/${id}/${encodeURIComponent(name)}`

/** The part of an asset that its bytes and renditions depend on: an address that carries it always has the same bytes. */
export const versionOf = ({ hash, focalPoint }: Pick<Asset, 'hash' | 'focalPoint'>): string =>
  hash.slice(0, 12) + (focalPoint ? `-${Math.round(focalPoint.x * 100)}-${Math.round(focalPoint.y * 100)}` : '')

/** An asset as readers of a locale get it. */
export interface ReadAsset {
  readonly id: string
  readonly name: string
  readonly address: string
  readonly mediaType: string
  readonly size: number
  readonly width: number | null
  readonly height: number | null
  readonly alt: string | null
  readonly title: string | null
  readonly caption: string | null
}

/** One of the texts of an asset, for readers of a chain of locales. */
const textIn = (texts: Readonly<Record<string, string>>, chain: readonly string[]): string | null =>
  chain.map((tag) => texts[tag]).find((text) => text !== undefined) ?? null

/** The assets of those ids, as readers of a locale get them. */
export async function readAssets(
  reader: Reader,
  kernel: Kernel,
  site: Site,
  locale: string,
  ids: readonly string[],
): Promise<Map<string, ReadAsset>> {
  if (ids.length === 0) return new Map()
  const chain = chainOf(site.settings, locale)
  return new Map(
    (await assetsWithIds(reader, site.id, ids)).map((asset) => {
      const { id, name, mediaType, size, width, height } = asset
      const address = `${addressOf(kernel, site, asset)}?v=${versionOf(asset)}`
      const texts = {
        alt: textIn(asset.alt, chain),
        title: textIn(asset.title, chain),
        caption: textIn(asset.caption, chain),
      }
      return [id, { id, name, address, mediaType, size, width, height, ...texts }]
    }),
  )
}

/** Where rich text's assets are. */
export const assetLinks =
  (assets: ReadonlyMap<string, ReadAsset>): Links['asset'] =>
  (id) => {
    const asset = assets.get(id)
    return asset && { address: asset.address, mediaType: asset.mediaType, alt: asset.alt ?? '' }
  }
