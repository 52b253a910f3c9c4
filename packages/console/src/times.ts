import { session } from './session'
import { t } from './messages'

const formatters = new Map<string, Intl.DateTimeFormat>()

/** A formatter of the console's language, made once. */
function formatter(options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const language = t('times.language')
  const zoned = { timeZone: ownZone(), ...options }
  const key = `${language} ${JSON.stringify(zoned)}`
  let cached = formatters.get(key)
  if (!cached) formatters.set(key, (cached = new Intl.DateTimeFormat(language, zoned)))
  return cached
}

const dayAndMonth = { day: 'numeric', month: 'short' } as const
const fullDay = { ...dayAndMonth, year: 'numeric' } as const
const hours = { hour: '2-digit', minute: '2-digit' } as const

/** `14:32`, for today. */
export const clock = (instant: string | Date): string => formatter(hours).format(new Date(instant))

/** "today 14:32", "12 Mar 09:00", "12 Mar 2031". */
export function ago(instant: string, now = new Date()): string {
  const then = new Date(instant)
  const dayOf = (date: Date): string => formatter(fullDay).format(date)
  const yearOf = (date: Date): string => formatter({ year: 'numeric' }).format(date)
  if (dayOf(then) === dayOf(now)) return t('times.today', { time: clock(then) })
  return yearOf(then) === yearOf(now)
    ? `${formatter(dayAndMonth).format(then)} ${clock(then)}`
    : formatter(fullDay).format(then)
}

/** "12 Mar 2031". A day is the same everywhere. */
export const day = (date: string): string => formatter({ ...fullDay, timeZone: 'UTC' }).format(new Date(date))

/** "12 Mar 2031, 09:00", as the clocks in a zone show it; the reader's own where it is left out. */
export const momentIn = (instant: string, zone?: string): string =>
  formatter({ ...fullDay, ...hours, ...(zone ? { timeZone: zone } : {}) }).format(new Date(instant))

/** "12 Mar 2031, 09:00", and with a zone, the local time there: "12 Mar 2031, 09:00 (Europe/Amsterdam)". */
export const moment = (instant: string, zone?: string): string =>
  `${momentIn(instant, zone)}${zone ? ` (${zone})` : ''}`

/** A time in a site's time zone, which is named if the reader's differs. */
export const inSite = (instant: string, zone: string): string =>
  zone === ownZone() ? momentIn(instant, zone) : moment(instant, zone)

/** The time zone of the user: the chosen one, or that of the browser. */
export const ownZone = (): string => session.value?.account.timeZone ?? Intl.DateTimeFormat().resolvedOptions().timeZone
