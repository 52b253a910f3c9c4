import { chainOf, type Links } from '@wisteria/core'
import type { AssetRow, Reader, Site } from '@wisteria/store'
import type { Kernel } from '../kernel.js'

/** Where an asset's file is, on the service. */
export const addressOf = (kernel: Kernel, site: Site, row: Pick<AssetRow, 'id' | 'name'>): string =>
  `${kernel.baseUrl}/assets/${site.name}/${row.id}/${encodeURIComponent(row.name)}`

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
      const alts = JSON.parse(row.alt) as Readonly<Record<string, string>>
      const alt = chain.map((tag) => alts[tag]).find((text) => text !== undefined) ?? null
      const { id, name, size, width, height } = row
      return [
        id,
        { id, name, address: addressOf(kernel, site, row), mediaType: row.media_type, size, width, height, alt },
      ]
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
