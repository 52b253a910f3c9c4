import type { EventData, EventType } from './event.js'

/** Something that published readers see differently than before. */
export interface PublicChange {
  /** Ask on from here. */
  readonly position: number
  readonly time: string
  /** The change of the entry or file; `everything` after a change of the model or the settings, or of very much. */
  readonly change: 'changed' | 'removed' | 'everything'
  readonly entry?: { readonly id: string; readonly type: string }
  readonly asset?: { readonly id: string }
  /** The locales whose own words it was about; all when left out. */
  readonly locales?: readonly string[]
  /** Where a path came, went, or moved, by locale. */
  readonly paths?: EventData['paths']
  /** The cache groups of every answer whose bytes may differ. */
  readonly groups: readonly string[]
  readonly generation: string
}

/** Whether everything counts as changed after an event. */
export const isOfEverything = (type: EventType, affected: { readonly all?: boolean } | undefined): boolean =>
  affected?.all === true || type === 'model.adopted' || type === 'settings.changed'

/** The public part of an event that moved the public generation: without its actor, and without anything that is not public. */
export function publicChangeOf(event: {
  readonly sequence: number
  readonly type: EventType
  readonly time: string
  readonly data: EventData
}): PublicChange {
  const { entry, asset, locales, paths, affected, publicGeneration } = event.data
  const isRemoval = ['entry.withdrawn', 'entry.archived', 'entry.deleted'].includes(event.type)
  return {
    position: event.sequence,
    time: event.time,
    change: isOfEverything(event.type, affected) ? 'everything' : isRemoval ? 'removed' : 'changed',
    ...(entry ? { entry } : {}),
    ...(asset ? { asset: { id: asset.id } } : {}),
    ...(locales ? { locales } : {}),
    ...(paths && Object.keys(paths).length > 0 ? { paths } : {}),
    groups: affected?.groups ?? [],
    generation: publicGeneration!,
  }
}
