import {
  bodyOf,
  groupsOfChange,
  localeTags,
  makeId,
  type CloudEvent,
  type EventData,
  type EventType,
  type Merge,
  type RecordedEvent,
} from '@wisteria/core'
import { newestEvent, type Site } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'

/** A body as a webhook would get it, and whether its event really happened. */
export interface SampleBody {
  readonly body: CloudEvent
  readonly isReal: boolean
}

/**
 * A sample of what a webhook gets: the newest event of its types; where there is none, one that is made up from the model. It says
 * `test`, so that a receiver can tell it from news.
 */
export async function sampleBody(
  kernel: Kernel,
  site: Site,
  events: readonly string[],
  merge: Merge,
): Promise<SampleBody> {
  const event = await newestEvent(kernel.database, site.id, events)
  const sample = event
    ? { ...event, site: site.name }
    : madeUp(kernel, site, (events[0] ?? 'entry.published') as EventType)
  const id = `test-${makeId(kernel.environment)}`
  return { body: { ...bodyOf([sample], merge), id, test: true }, isReal: event !== undefined }
}

function madeUp(kernel: Kernel, site: Site, type: EventType): RecordedEvent {
  const entryType = site.model.types.find(({ path }) => path !== undefined) ?? site.model.types[0]
  const entry = { id: makeId(kernel.environment), type: entryType?.name ?? 'page' }
  const isPublic = type === 'entry.published' || type === 'entry.withdrawn'
  const data: EventData = {
    ...(type.startsWith('entry.') || type.startsWith('translation.') ? { entry, version: 1 } : {}),
    ...(type.startsWith('asset.') ? { asset: { id: makeId(kernel.environment), name: 'harbour.png' } } : {}),
    ...(isPublic
      ? {
          locales: [site.settings.defaultLocale],
          publicGeneration: site.publicGeneration,
          affected: { paths: [], groups: groupsOfChange([entry], localeTags(site.settings)) },
        }
      : {}),
  }
  return {
    id: makeId(kernel.environment),
    sequence: site.sequence,
    site: site.name,
    type,
    time: kernel.at,
    actor: 'service',
    action: makeId(kernel.environment),
    data,
  }
}
