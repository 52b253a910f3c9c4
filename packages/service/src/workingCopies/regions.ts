import { storedRegion, WisteriaError, type ContentType } from '@wisteria/core'
import type { Site } from '@wisteria/store'
import { requireKnownRegion } from '../read/listQuery.js'

/** A region for an entry of a type, as it is stored. @throws WisteriaError where the type has none, or it is unknown. */
export function requireRegion(site: Site, type: ContentType, name: string): string | null {
  requireRegional(type)
  return storedRegion(requireKnownRegion(site, name))
}

/** @throws WisteriaError `conflict` where entries of a type belong to no region. */
export function requireRegional(type: ContentType): void {
  if (!type.regional)
    throw new WisteriaError(
      'conflict',
      `${type.label} entries belong to all regions: the model does not say \`regional: true\` for them.`,
    )
}
