import { makeId } from '@wisteria/core'
import { Act, insertAsset, siteWithId, type Asset, type Site, type Transaction } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import type { FileKind } from './kinds.js'

/** A new asset before it is stored. */
export interface NewAsset {
  readonly name: string
  readonly alt?: Readonly<Record<string, string>>
  /** The stored file. */
  readonly file: FileKind & { readonly hash: string; readonly size: number }
}

/** Adds an asset of a file that is stored. */
export async function addAsset(
  kernel: Kernel,
  transaction: Transaction,
  site: Site,
  actor: string,
  { name, alt = {}, file }: NewAsset,
): Promise<Asset> {
  const act = new Act(transaction, await siteWithId(transaction, site.id), actor, kernel.environment)
  const asset: Asset = {
    id: makeId(kernel.environment),
    site: site.id,
    name,
    mediaType: file.mediaType,
    size: file.size,
    hash: file.hash,
    width: file.width ?? null,
    height: file.height ?? null,
    alt,
    title: {},
    caption: {},
    focalPoint: null,
    origins: null,
    createdAt: act.at,
    createdBy: actor,
    updatedAt: act.at,
    revision: 1,
  }
  await insertAsset(transaction, asset)
  await act.tell('asset.added', { asset: { id: asset.id, name } })
  return asset
}
