import { WisteriaError } from '@wisteria/core'
import { assetOnSite, type Asset, type Reader, type Site } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import { addressOf } from './reading.js'

/** An asset as the Edit API answers it. */
export const assetView = (
  kernel: Kernel,
  site: Site,
  { site: _, hash: _hash, origins: _origins, ...asset }: Asset,
) => ({
  ...asset,
  address: addressOf(kernel, site, asset),
})

/** @throws WisteriaError `notFound` */
export async function requireAsset(reader: Reader, site: Site, id: string): Promise<Asset> {
  const asset = await assetOnSite(reader, site.id, id)
  if (!asset) throw new WisteriaError('notFound', `There is no asset \`${id.slice(0, 60)}\` on ${site.settings.label}.`)
  return asset
}

/** Headers that keep an uploaded file from doing anything in a browser. */
export const fileHeaders = (mediaType: string, name: string, isShown: boolean): Record<string, string> => ({
  'Content-Type': mediaType,
  'X-Content-Type-Options': 'nosniff',
  'Content-Security-Policy': "default-src 'none'; style-src 'unsafe-inline'; sandbox",
  'Content-Disposition': isShown ? 'inline' : `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
})
