const time = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' })
const dayOnly = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' })
/** A day is the same everywhere. */
const calendarDay = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  timeZone: 'UTC',
})
const dayAndYear = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })

/** `14:32`, for today. */
export const clock = (instant: string | Date): string => time.format(new Date(instant))

/** "today 14:32", "12 Mar 09:00", "12 Mar 2031". */
export function ago(instant: string, now = new Date()): string {
  const then = new Date(instant)
  if (then.toDateString() === now.toDateString()) return `today ${clock(then)}`
  return then.getFullYear() === now.getFullYear() ? `${dayOnly.format(then)} ${clock(then)}` : dayAndYear.format(then)
}

/** "12 Mar 2031". */
export const day = (date: string): string => calendarDay.format(new Date(date))

/** "12 Mar 2031, 09:00", as the clocks in a zone show it; the reader's own where it is left out. */
export function momentIn(instant: string, zone?: string): string {
  const parts = { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit' } as const
  return new Intl.DateTimeFormat('en-GB', { ...parts, ...(zone ? { timeZone: zone } : {}) }).format(new Date(instant))
}

/** "12 Mar 2031, 09:00", and with a zone, what the clocks there show: "12 Mar 2031, 09:00 (Europe/Amsterdam)". */
export const moment = (instant: string, zone?: string): string =>
  `${momentIn(instant, zone)}${zone ? ` (${zone})` : ''}`

/** A time in a site's time zone, which is said where the reader's clock shows another one. */
export const inSite = (instant: string, zone: string): string =>
  zone === ownZone() ? momentIn(instant, zone) : moment(instant, zone)

/** The time zone of whoever reads. */
export const ownZone = (): string => Intl.DateTimeFormat().resolvedOptions().timeZone
