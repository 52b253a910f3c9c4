import type { Asset } from '@wisteria/client'
import { t } from '../messages'

/**
 * From the console's own origin: the address for readers may name another host. The time distinguishes one file from its
 * replacement.
 */
export function fileOf(asset: Asset, form: { readonly w?: number; readonly h?: number } = {}): string {
  const path = new URL(asset.address, location.origin).pathname
  const query = new URLSearchParams()
  for (const [name, value] of Object.entries(form)) query.set(name, String(value))
  query.sort()
  const text = query.toString()
  return `${path}${text ? `?${text}` : ''}#${asset.updatedAt}`
}

export const isPicture = (asset: Pick<Asset, 'mediaType'>): boolean => asset.mediaType.startsWith('image/')

export function sizeWords(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`
  return bytes < 1_000_000
    ? t('assets.kilobytes', { size: Math.round(bytes / 1000) })
    : t('assets.megabytes', { size: (bytes / 1_000_000).toFixed(1) })
}
