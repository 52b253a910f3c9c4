import { toCloudEvent, type Affected, type CloudEvent, type EventData, type RecordedEvent } from './event.js'

/** How a webhook wants its events: each by itself, those of an entry that wait together as one, or those of an act as one. */
export const merges = ['none', 'entry', 'act'] as const
export type Merge = (typeof merges)[number]

/** The type of the envelope of several events. */
export const mergedType = 'events.merged'

/** The most events in one envelope. */
export const mostMerged = 200

/**
 * What a webhook gets of events that are sent together: one envelope around them, or, where they are not merged, the newest.
 * @param events oldest first; several that are not merged are saves of one entry.
 * @param missed how many earlier events of the same queue were given up since the last one that was accepted.
 */
export function bodyOf(events: readonly RecordedEvent[], merge: Merge, missed = 0): CloudEvent {
  const newest = events.at(-1)!
  const body = merge === 'none' ? toCloudEvent({ ...newest, data: savedTogether(events) }) : merged(events)
  return missed > 0 ? { ...body, missed } : body
}

/** The data of the newest of some saves, with the fields and locales of all. */
function savedTogether(events: readonly RecordedEvent[]): EventData {
  const { data } = events.at(-1)!
  if (events.length === 1) return data
  const all = (name: 'fields' | 'locales') => [...new Set(events.flatMap((event) => event.data[name] ?? []))]
  return { ...data, fields: all('fields'), locales: all('locales') }
}

function merged(events: readonly RecordedEvent[]): CloudEvent {
  const newest = events.at(-1)!
  const [{ data: firstData }] = events as readonly [RecordedEvent]
  const isOfOneEntry = events.every(({ data }) => data.entry !== undefined && data.entry.id === firstData.entry?.id)
  const generation = events.findLast(({ data }) => data.publicGeneration !== undefined)?.data.publicGeneration
  const affected = events.flatMap(({ data }) => data.affected ?? [])
  return {
    specversion: '1.0',
    // Another than that of the event itself: a receiver may get both, from two webhooks.
    id: `${newest.id}-${events.length}`,
    source: `/sites/${newest.site}`,
    type: mergedType,
    ...(isOfOneEntry ? { subject: `entries/${firstData.entry!.id}` } : {}),
    time: newest.time,
    datacontenttype: 'application/json',
    sequence: String(newest.sequence),
    data: {
      events: events.map(toCloudEvent),
      ...(generation === undefined ? {} : { publicGeneration: generation }),
      ...(affected.length === 0 ? {} : { affected: together(affected) }),
    },
  }
}

/** All that several changes affect. */
function together(all: readonly Affected[]): Affected {
  return {
    paths: [...new Set(all.flatMap(({ paths }) => paths))].sort(),
    groups: [...new Set(all.flatMap(({ groups }) => groups))],
    ...(all.some((affected) => affected.all) ? { all: true } : {}),
  }
}
