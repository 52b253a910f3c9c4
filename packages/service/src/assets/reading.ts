import { chainOf, type Links } from '@wisteria/core'
import type { AssetRow, Reader, Site } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'

/** Where an asset's file is, on the service. */
export const addressOf = (kernel: Kernel, site: Site, row: Pick<AssetRow, 'id' | 'name'>): string =>
  `${kernel.baseUrl}/assets/${site.name}/${row.id}/${encodeURIComponent(row.name)}`

/** What of an asset its bytes and renditions depend on: an address that carries it always means the same. */
export const versionOf = ({ hash, focal_x: x, focal_y: y }: Pick<AssetRow, 'hash' | 'focal_x' | 'focal_y'>): string =>
  hash.slice(0, 12) + (x === null || y === null ? '' : `-${Math.round(x * 100)}-${Math.round(y * 100)}`)

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

/** What is said of an asset in one of its texts by locale, for readers of a chain. */
function saidIn(texts: string, chain: readonly string[]): string | null {
  const all = JSON.parse(texts) as Readonly<Record<string, string>>
  return chain.map((tag) => all[tag]).find((text) => text !== undefined) ?? null
}

/** The assets of those ids, as readers of a locale get them. */
export async function readAssets(
  reader: Reader,
  kernel: Kernel,
  site: Site,
  locale: string,
  ids: readonly string[],
): Promise<Map<string, ReadAsset>> {
  if (ids.length === 0) return new Map()
  const rows = await reader.all<AssetRow>(
    'select * from assets where id in (select value from json_each(?)) and +site = ?',
    [JSON.stringify(ids), site.id],
  )
  const chain = chainOf(site.settings, locale)
  return new Map(
    rows.map((row) => {
      const { id, name, size, width, height } = row
      const address = `${addressOf(kernel, site, row)}?v=${versionOf(row)}`
      const said = { alt: saidIn(row.alt, chain), title: saidIn(row.title, chain), caption: saidIn(row.caption, chain) }
      return [id, { id, name, address, mediaType: row.media_type, size, width, height, ...said }]
    }),
  )
}

/** Where rich text's assets are. */
export const assetLinks =
  (assets: ReadonlyMap<string, ReadAsset>): Links['asset'] =>
  (id) => {
    const found = assets.get(id)
    return found && { address: found.address, mediaType: found.mediaType, alt: found.alt ?? '' }
  }
