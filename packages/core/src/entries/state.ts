import type { ContentType, Model } from '../model/model.js'
import { layerOf, type PublicLayers } from './compose.js'
import { sameContent, type Document } from './document.js'

/** Of an entry in a locale. */
export type State = 'new' | 'public' | 'edited' | 'withdrawn' | 'archived'

/** What `publications` say of an entry: its public layers now, and the locales that once were public and are not. */
export interface PublicHistory {
  /** Undefined when nothing of it is public. */
  readonly layers: PublicLayers | undefined
  readonly withdrawn: readonly string[]
}

/** The state of each locale's own layer. A difference in the shared layer makes every public locale edited. */
export function statesOf(
  model: Model,
  type: ContentType,
  document: Document,
  history: PublicHistory,
  locales: readonly string[],
): Record<string, State> {
  const { layers } = history
  const sharedDiffers =
    layers !== undefined &&
    !sameContent(layerOf(model, type, document, undefined), layerOf(model, type, layers.shared, undefined))
  return Object.fromEntries(
    locales.map((locale) => {
      const own = layers?.locales[locale]
      if (own === undefined) return [locale, history.withdrawn.includes(locale) ? 'withdrawn' : 'new']
      const differs =
        sharedDiffers || !sameContent(layerOf(model, type, document, locale), layerOf(model, type, own, locale))
      return [locale, differs ? 'edited' : 'public']
    }),
  )
}

/** An entry's own state, for lists: what is most worth knowing of its locales. */
export function summaryOf(states: Readonly<Record<string, State>>): State {
  const all = Object.values(states)
  return (['edited', 'public', 'withdrawn', 'archived'] as const).find((state) => all.includes(state)) ?? 'new'
}
