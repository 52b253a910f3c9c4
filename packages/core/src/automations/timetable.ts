import { addDays, dayIn, instantOf, wallTimeIn, withOffset } from '../text/time.js'

/** When something happens again and again, on the clocks of a time zone. */
export interface Timetable {
  readonly every: 'hour' | 'day' | 'week' | 'month'
  /** `07:30`; midnight when left out. Of an hour only the minutes count. */
  readonly at?: string | undefined
  /** Days of the week by name, or of the month by number; Monday and the first when left out. */
  readonly on?: readonly (string | number)[] | undefined
}

const dayNames = ['sunday', 'monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday']

/** Whether a timetable has a day of the calendar. A month that is too short has its last day instead. */
function has({ every, on }: Timetable, day: string): boolean {
  if (every === 'day') return true
  const date = new Date(`${day}T00:00:00Z`)
  if (every === 'week') return (on ?? ['monday']).includes(dayNames[date.getUTCDay()]!)
  const isLast = addDays(day, 1).slice(8) === '01'
  const number = date.getUTCDate()
  return (on ?? [1]).some((asked) => asked === number || (isLast && Number(asked) > number))
}

/**
 * The next time of a timetable after an instant. A time that a clock change skips comes right after it; one that comes twice counts
 * once.
 * @param after milliseconds.
 * @returns an ISO instant.
 */
export function nextTime(timetable: Timetable, after: number, timeZone: string): string {
  const { every, at = '00:00' } = timetable
  if (every === 'hour') {
    // Zones are whole quarters of hours apart: the minutes of the local clock decide.
    const now = wallTimeIn(new Date(after).toISOString(), timeZone)
    const minutes = (Number(at.slice(3)) - Number(now.slice(14, 16)) + 60) % 60
    const next = Math.floor(after / 60_000) * 60_000 + minutes * 60_000
    return new Date(next > after ? next : next + 3_600_000).toISOString()
  }
  for (let day = dayIn(after, timeZone); ; day = addDays(day, 1)) {
    if (!has(timetable, day)) continue
    const instant = instantOf(withOffset(`${day}T${at}:00`, timeZone))!
    if (Date.parse(instant) > after) return instant
  }
}
