import type { EventData, EventType } from '@wisteria/core'
import type { Reader } from '../connection/reader.js'
import type { EventRow } from '../tables/tables.js'

/** A stored event. */
export interface LoggedEvent {
  readonly id: string
  readonly sequence: number
  readonly type: EventType
  readonly time: string
  readonly actor: string
  readonly action: string
  readonly data: EventData
}

/** Events of a site after a number, oldest first. */
export async function eventsAfter(
  reader: Reader,
  site: string,
  sequence: number,
  most: number,
): Promise<LoggedEvent[]> {
  const rows = await reader.all<EventRow>(
    'select * from events where site = ? and sequence > ? order by sequence limit ?',
    [site, sequence, most],
  )
  return rows.map(eventFrom)
}

/** A row as the event it stores. */
export const eventFrom = (row: EventRow): LoggedEvent => ({
  id: row.id,
  sequence: row.sequence,
  type: row.type as EventType,
  time: row.time,
  actor: row.actor,
  action: row.action,
  data: JSON.parse(row.data) as EventData,
})

/** How far back the newest event of a type is looked for, in events. */
const farBack = 10_000

/** The newest event of some types; of any that changed something public where none are named. */
export async function newestEvent(
  reader: Reader,
  site: string,
  types: readonly string[],
): Promise<LoggedEvent | undefined> {
  const [row] = await reader.all<EventRow>(
    `select * from events where site = ?1 and sequence > (select sequence from sites where id = ?1) - ?2
       and (?3 = '[]' and data ->> 'publicGeneration' is not null or type in (select value from json_each(?3)))
     order by sequence desc limit 1`,
    [site, farBack, JSON.stringify(types)],
  )
  return row && eventFrom(row)
}

/** How far the event log of a site reaches. */
export interface LogBounds {
  /** The number of the newest event, kept or not. */
  readonly newest: number
  /** Of the oldest that is kept; null where none is. */
  readonly oldest: number | null
  /** Of the first event after the given number; null where there is none. */
  readonly next: number | null
}

export async function logBounds(reader: Reader, site: string, sequence: number): Promise<LogBounds> {
  const [row] = await reader.all<LogBounds>(
    `select s.sequence as newest, (select min(sequence) from events where site = s.id) as oldest,
       (select min(sequence) from events where site = s.id and sequence > ?) as next from sites s where s.id = ?`,
    [sequence, site],
  )
  return row!
}

/** Events of a site with a public part, oldest first: after a number, up to another. */
export async function publicEventsBetween(
  reader: Reader,
  site: string,
  after: number,
  upTo: number,
  most: number,
): Promise<Pick<LoggedEvent, 'sequence' | 'type' | 'time' | 'data'>[]> {
  const rows = await reader.all<Pick<EventRow, 'sequence' | 'type' | 'time' | 'data'>>(
    `select sequence, type, time, data from events where site = ? and sequence > ? and sequence <= ?
     and data ->> 'publicGeneration' is not null order by sequence limit ?`,
    [site, after, upTo, most],
  )
  return rows.map((row) => ({ ...row, type: row.type as EventType, data: JSON.parse(row.data) as EventData }))
}
