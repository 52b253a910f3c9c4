import { localeTags, type SiteSettings } from '../locales/settings.js'
import type { FieldOwner, Model } from '../model/model.js'
import { copyDocument } from './copying.js'
import type { Document } from './document.js'
import { composePublic, type PublicLayers } from './layers.js'
import { withoutHidden } from './shown.js'

/**
 * A document with what readers of the published edition may see of an entry, and nothing else: no values of locales that are not
 * public, none that a rule hides, and no references to entries that are not public.
 */
export function publicCopy(
  model: Model,
  owner: FieldOwner,
  layers: PublicLayers,
  settings: SiteSettings,
  isPublic: (entry: string) => boolean,
): Document {
  const shown = withoutHidden(model, owner, composePublic(model, owner, layers), settings)
  const tags = localeTags(settings)
  return copyDocument(model, owner, shown, {
    entry: (id) => (isPublic(id) ? id : undefined),
    asset: (id) => id,
    locale: (tag) => tags.includes(tag),
  })
}
