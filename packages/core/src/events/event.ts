/** All types of events. `published` and `withdrawn` change the published edition; an adopted model may. */
export const eventTypes = {
  'entry.created': 'An entry was created.',
  'entry.saved': 'A working copy was changed.',
  'entry.published': 'Locales of an entry became public, or were made public again with changes.',
  'entry.withdrawn': 'Locales of an entry were withdrawn.',
  'entry.archived': 'An entry was archived, and withdrawn first if it was public.',
  'entry.reactivated': 'An archived entry was reactivated.',
  'entry.deleted': 'An entry was moved to the bin.',
  'entry.restored': 'An entry was restored from the bin.',
  'entry.scheduled': 'A publish or a withdrawal was scheduled, rescheduled or cancelled.',
  'entry.scheduleFailed': 'A scheduled publish or withdrawal failed, and changed nothing.',
  'entry.listTurned':
    'A list in a public entry that fills itself shows other entries than before, because of the time: nobody changed it.',
  'translation.confirmed': 'Texts of a translation were marked as still right, or as needing no translation.',
  'translation.assigned': 'The translation of an entry was assigned to somebody, or to nobody.',
  'translation.ready': 'The translation of an entry was marked as ready for review, or no longer.',
  'translation.ordered': 'Translations were ordered from a connector.',
  'translation.orderProgressed': 'A tenth more of an order for translations has come back, or has failed.',
  'translation.orderEnded': 'An order for translations ended: everything came back or failed, or it was stopped.',
  'translation.localeDeleted': 'The texts of a locale that the site no longer has were deleted permanently.',
  'translation.glossaryChanged': 'The glossary was changed.',
  'asset.added': 'A file was added.',
  'asset.changed': 'The texts of a file, or the file itself, were changed.',
  'asset.deleted': 'A file that nothing used was deleted.',
  'webhook.paused': 'A webhook was paused, because its address accepted nothing for a day. Its events wait.',
  'webhook.resumed': 'A paused webhook was resumed: what waits for it is sent.',
  'model.adopted': 'Another model was adopted.',
  'settings.changed': "The site's locales, fallbacks or time zone were changed.",
  'site.restored':
    'The data was restored from a copy, or the service was upgraded and answers in another form. Everything counts as changed.',
} as const
export type EventType = keyof typeof eventTypes

export const isEventType = (name: string): name is EventType => Object.hasOwn(eventTypes, name)

/** The `data` of an event. */
export interface EventData {
  readonly entry?: { readonly id: string; readonly type: string }
  readonly asset?: { readonly id: string; readonly name: string }
  /** Locales whose own layer is concerned. */
  readonly locales?: readonly string[]
  /** Names of top-level fields that changed. */
  readonly fields?: readonly string[]
  /** By reader's locale; null where there was, or is, none. */
  readonly paths?: Readonly<Record<string, { readonly from: string | null; readonly to: string | null }>>
  readonly version?: number
  /** Of a schedule: the action and the time. */
  readonly schedule?: ScheduleNote
  /** Of an order for translations: how far it is. */
  readonly order?: OrderNote
  readonly modelVersion?: number
  readonly webhook?: { readonly id: string; readonly label: string }
  /** Present when something that a published reader sees has changed. */
  readonly publicGeneration?: string
  readonly affected?: Affected
}

/** An order for translations in an event. */
export interface OrderNote {
  readonly id: string
  /** The label of the connector. */
  readonly connector: string
  readonly locale: string
  readonly state: 'running' | 'done' | 'stopped'
  /** Numbers of entries. */
  readonly total: number
  readonly done: number
  readonly failed: number
  /** In the sources that were sent so far. */
  readonly words: number
}

/** A schedule in an event. */
export interface ScheduleNote {
  readonly id: string
  readonly does: 'publish' | 'withdraw'
  /** ISO instant. */
  readonly at: string
  readonly state: 'scheduled' | 'done' | 'failed' | 'cancelled'
  /** Why it failed. */
  readonly message?: string
}

/** What a public change affects: pages of entries, and the groups of every answer whose bytes may differ. */
export interface Affected {
  readonly paths: readonly string[]
  readonly groups: readonly string[]
  /** There when so much changed that everything counts as changed. */
  readonly all?: boolean
}

/** An event as it is stored and sent: numbered per site, with a random id that receivers deduplicate by. */
export interface RecordedEvent {
  readonly id: string
  readonly sequence: number
  readonly site: string
  readonly type: EventType
  /** ISO instant. */
  readonly time: string
  /** `account:…`, `key:…` or `service`. */
  readonly actor: string
  /** The same for all events of one act. */
  readonly action: string
  readonly data: EventData
}

/** An event in its envelope. */
export type CloudEvent = Readonly<Record<string, unknown>>

/** The envelope: CloudEvents 1.0, structured JSON. */
export function toCloudEvent(event: RecordedEvent): CloudEvent {
  return {
    specversion: '1.0',
    id: event.id,
    source: `/sites/${event.site}`,
    type: event.type,
    ...(event.data.entry
      ? { subject: `entries/${event.data.entry.id}` }
      : event.data.asset
        ? { subject: `assets/${event.data.asset.id}` }
        : event.data.webhook
          ? { subject: `webhooks/${event.data.webhook.id}` }
          : {}),
    time: event.time,
    datacontenttype: 'application/json',
    sequence: String(event.sequence),
    data: { ...event.data, actor: event.actor, action: event.action },
  }
}
