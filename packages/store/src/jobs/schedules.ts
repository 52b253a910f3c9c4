import type { Reader, Transaction } from '../connection/reader.js'
import type { Site } from '../sites/sites.js'
import type { ScheduleRow } from '../tables/tables.js'

/** An action on an entry at a time. */
export interface Schedule {
  readonly id: string
  readonly site: string
  readonly entry: string
  readonly does: ScheduleRow['does']
  /** null for all locales with content, or all that are public. */
  readonly locales: readonly string[] | null
  /** ISO instant. */
  readonly at: string
  /** The time zone in which the time was chosen. */
  readonly zone: string
  readonly state: ScheduleRow['state']
  readonly message: string
  readonly actor: string
  readonly createdAt: string
  readonly endedAt: string | null
  /** How often it was begun. */
  readonly tries: number
}

/** A schedule with how its entry is shown; undefined where that has no working copy. */
export interface ScheduleWithEntry extends Schedule {
  readonly title: string | undefined
  /** Internal id. */
  readonly type: string | undefined
}

const scheduleFrom = (row: ScheduleRow): Schedule => ({
  id: row.id,
  site: row.site,
  entry: row.entry,
  does: row.does,
  locales: row.locales === null ? null : (JSON.parse(row.locales) as string[]),
  at: row.at,
  zone: row.zone,
  state: row.state,
  message: row.message,
  actor: row.actor,
  createdAt: row.created_at,
  endedAt: row.ended_at,
  tries: row.tries,
})

const localesText = (locales: readonly string[] | null): string | null =>
  locales === null ? null : JSON.stringify(locales)

async function withEntries(
  reader: Reader,
  site: Site,
  where: string,
  bindings: readonly string[],
): Promise<ScheduleWithEntry[]> {
  const rows = await reader.all<ScheduleRow & { title: string | null; type: string | null }>(
    `select s.*, d.title, d.type from schedules s left join drafts d on d.projection = ? and d.entry = s.entry and d.locale = ? where ${where}`,
    [site.projection, site.settings.defaultLocale, ...bindings],
  )
  return rows.map((row) => ({ ...scheduleFrom(row), title: row.title ?? undefined, type: row.type ?? undefined }))
}

/** Schedules of a site, of one entry or of all: future ones, soonest first, or ended ones, newest first. */
export function schedulesOf(
  reader: Reader,
  site: Site,
  asked: { readonly entry?: string | undefined; readonly ended: boolean },
): Promise<ScheduleWithEntry[]> {
  const terms = [
    asked.entry === undefined ? 's.site = ?' : '+s.site = ?',
    asked.ended ? "s.state <> 'scheduled'" : "s.state = 'scheduled'",
    ...(asked.entry === undefined ? [] : ['s.entry = ?']),
  ]
  const order = asked.ended ? 'order by s.ended_at desc, s.id limit 200' : 'order by s.at, s.id limit 500'
  return withEntries(reader, site, `${terms.join(' and ')} ${order}`, [
    site.id,
    ...(asked.entry === undefined ? [] : [asked.entry]),
  ])
}

export async function scheduleWithEntry(
  reader: Reader,
  site: Site,
  id: string,
): Promise<ScheduleWithEntry | undefined> {
  return (await withEntries(reader, site, 's.id = ?', [id]))[0]
}

export async function scheduleOnSite(reader: Reader, site: string, id: string): Promise<Schedule | undefined> {
  const [row] = await reader.all<ScheduleRow>('select * from schedules where site = ? and id = ?', [site, id])
  return row && scheduleFrom(row)
}

/** A schedule that has not ended: it may have been moved or cancelled since it was looked for. */
export async function openSchedule(reader: Reader, id: string): Promise<Schedule | undefined> {
  const [row] = await reader.all<ScheduleRow>("select * from schedules where id = ? and state = 'scheduled'", [id])
  return row && scheduleFrom(row)
}

/** Due schedules, soonest first. @param skipped ids that are left out. */
export async function dueSchedules(
  reader: Reader,
  at: string,
  most: number,
  skipped: readonly string[],
): Promise<Schedule[]> {
  const rows = await reader.all<ScheduleRow>(
    `select * from schedules where state = 'scheduled' and at <= ? and id not in (select value from json_each(?))
     order by at, id limit ?`,
    [at, JSON.stringify(skipped), most],
  )
  return rows.map(scheduleFrom)
}

/** The time of the next schedule; undefined where there is none. */
export async function nextScheduleAt(reader: Reader, skipped: readonly string[]): Promise<string | undefined> {
  const [row] = await reader.all<{ at: string }>(
    `select at from schedules where state = 'scheduled' and id not in (select value from json_each(?)) order by at limit 1`,
    [JSON.stringify(skipped)],
  )
  return row?.at
}

export async function insertSchedule(transaction: Transaction, schedule: Schedule): Promise<void> {
  const { locales, createdAt, endedAt, ...same } = schedule
  await transaction.tables.schedules.create({
    ...same,
    locales: localesText(locales),
    created_at: createdAt,
    ended_at: endedAt,
  })
  transaction.touch('schedules')
}

/** Gives a schedule another time or other locales, and resets its attempts. */
export async function moveSchedule(
  transaction: Transaction,
  { id, at, zone, locales, actor }: Pick<Schedule, 'id' | 'at' | 'zone' | 'locales' | 'actor'>,
): Promise<void> {
  await transaction.run('update schedules set at = ?, zone = ?, locales = ?, actor = ?, tries = 0 where id = ?', [
    at,
    zone,
    localesText(locales),
    actor,
    id,
  ])
  transaction.touch('schedules')
}

export async function countScheduleTry(transaction: Transaction, id: string): Promise<void> {
  await transaction.run('update schedules set tries = tries + 1 where id = ?', [id])
}

export async function endSchedule(
  transaction: Transaction,
  id: string,
  state: Exclude<ScheduleRow['state'], 'scheduled'>,
  at: string,
  message = '',
): Promise<void> {
  await transaction.run('update schedules set state = ?, message = ?, ended_at = ? where id = ?', [
    state,
    message,
    at,
    id,
  ])
}

/** Cancels a schedule. */
export async function cancelSchedulesOf(
  transaction: Transaction,
  entry: string,
  at: string,
  message: string,
): Promise<void> {
  await transaction.run(
    "update schedules set state = 'cancelled', message = ?, ended_at = ? where entry = ? and state = 'scheduled'",
    [message, at, entry],
  )
}
