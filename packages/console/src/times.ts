const time = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' })
const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' })
const dayAndYear = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })

/** `14:32`, for today. */
export const clock = (instant: string | Date): string => time.format(new Date(instant))

/** "today 14:32", "12 Mar 09:00", "12 Mar 2031". */
export function ago(instant: string, now = new Date()): string {
  const then = new Date(instant)
  if (then.toDateString() === now.toDateString()) return `today ${clock(then)}`
  return then.getFullYear() === now.getFullYear() ? `${day.format(then)} ${clock(then)}` : dayAndYear.format(then)
}
