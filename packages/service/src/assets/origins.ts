import { assetOriginsAfter, assetOriginsOf, type Origins } from '@wisteria/core'
import { changeAsset, type Asset, type AssetContent, type Site, type Transaction } from '@wisteria/store'

/** What the translated texts of an asset were made from. */
export const originsOfAsset = (site: Site, asset: Asset): Origins =>
  assetOriginsOf(asset, asset.origins, asset.revision, asset.updatedAt, site.settings)

/** Changes an asset, and records what its translated texts were made from. @param given of texts made from another source. */
export function changeTexts(
  transaction: Transaction,
  site: Site,
  asset: Asset,
  change: Partial<AssetContent>,
  at: string,
  by: string,
  given?: Origins,
): Promise<Asset> {
  const after = { ...asset, ...change }
  const before = originsOfAsset(site, asset)
  const origins = assetOriginsAfter(asset, after, before, asset.revision + 1, at, site.settings, given)
  return changeAsset(transaction, asset, { ...change, origins }, at, by)
}
