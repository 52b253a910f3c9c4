import { localeTags, type SiteSettings } from '../locales/settings.js'
import type { ContentType, Model } from '../model/model.js'
import type { State } from '../model/states.js'
import { layerOf, type PublicLayers } from '../documents/layers.js'
import { sameContent, type Document } from '../documents/document.js'
import { withoutHidden } from '../documents/shown.js'

/** The publications of an entry: its public layers now, and the locales that were public once. */
export interface PublicHistory {
  /** Undefined when nothing of it is public. */
  readonly layers: PublicLayers | undefined
  readonly withdrawn: readonly string[]
  /** Whether the entry is archived: it is not public, and cannot be changed. */
  readonly archived?: boolean
}

/** The state of each locale's own layer. A difference in the shared layer makes every public locale edited. */
export function statesOf(
  model: Model,
  type: ContentType,
  document: Document,
  history: PublicHistory,
  settings: SiteSettings,
): Record<string, State> {
  const { layers } = history
  const locales = localeTags(settings)
  if (history.archived) return Object.fromEntries(locales.map((locale) => [locale, 'archived']))
  // Hidden values are never public.
  const now = withoutHidden(model, type, document, settings)
  const shown = new Map<Document, Document>()
  const layerIn = (of: Document, locale: string | undefined) => {
    if (!shown.has(of)) shown.set(of, withoutHidden(model, type, of, settings))
    return layerOf(model, type, shown.get(of)!, locale)
  }
  const sharedDiffers =
    layers !== undefined && !sameContent(layerOf(model, type, now, undefined), layerIn(layers.shared, undefined))
  return Object.fromEntries(
    locales.map((locale) => {
      const layer = layers?.locales[locale]
      if (layer === undefined) return [locale, history.withdrawn.includes(locale) ? 'withdrawn' : 'new']
      const differs = sharedDiffers || !sameContent(layerOf(model, type, now, locale), layerIn(layer, locale))
      return [locale, differs ? 'edited' : 'public']
    }),
  )
}

/** An entry's own state, for lists: the most important of its locales' states. */
export function summaryOf(states: Readonly<Record<string, State>>): State {
  const all = Object.values(states)
  return (['edited', 'public', 'withdrawn', 'archived'] as const).find((state) => all.includes(state)) ?? 'new'
}
