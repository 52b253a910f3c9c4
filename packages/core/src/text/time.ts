/** Whether a text is a day that exists, `YYYY-MM-DD`. */
export function isDate(text: string): boolean {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(text)) return false
  const instant = new Date(`${text}T00:00:00Z`)
  return !Number.isNaN(instant.getTime()) && instant.toISOString().startsWith(text)
}

const dateTimeForm =
  /^(\d{4}-\d{2}-\d{2})[Tt]([01]\d|2[0-3]):[0-5]\d(:[0-5]\d(\.\d{1,3})?)?([Zz]|[+-]([01]\d|2[0-3]):[0-5]\d)$/

/** An RFC 3339 date-time as the same instant in UTC with milliseconds (so that texts sort by time), or undefined. */
export function instantOf(text: string): string | undefined {
  const match = dateTimeForm.exec(text)
  if (!match || !isDate(match[1]!)) return undefined
  const instant = new Date(text)
  return Number.isNaN(instant.getTime()) || instant.getUTCFullYear() < 0 || instant.getUTCFullYear() > 9999
    ? undefined
    : instant.toISOString()
}

/** Making a formatter costs a hundred times as much as using it: one is kept for each time zone. */
const formatters = new Map<string, Intl.DateTimeFormat>()

function partsIn(instant: number, timeZone: string): (type: Intl.DateTimeFormatPartTypes) => string {
  let formatter = formatters.get(timeZone)
  if (!formatter) {
    formatter = new Intl.DateTimeFormat('en-CA', {
      timeZone,
      calendar: 'gregory',
      numberingSystem: 'latn',
      hourCycle: 'h23',
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit',
      second: '2-digit',
    })
    formatters.set(timeZone, formatter)
  }
  const parts = formatter.formatToParts(instant)
  return (type) => parts.find((part) => part.type === type)!.value
}

/** The calendar day that an instant (milliseconds) falls on in a time zone (an IANA name). */
export function dayIn(instant: number, timeZone: string): string {
  const part = partsIn(instant, timeZone)
  return `${part('year').padStart(4, '0')}-${part('month')}-${part('day')}`
}

/** A day some whole days later (or earlier). */
export function addDays(day: string, days: number): string {
  const instant = new Date(`${day}T00:00:00Z`)
  instant.setUTCDate(instant.getUTCDate() + days)
  return instant.toISOString().slice(0, 10)
}

/** The instant (UTC text) at which a day begins in a time zone. */
export function startOfDay(day: string, timeZone: string): string {
  // Walk from noon UTC back to the first instant that is on the day: exact to the minute, through any clock change.
  let earliest = Date.parse(`${day}T00:00:00Z`) - 15 * 3_600_000
  let latest = Date.parse(`${day}T00:00:00Z`) + 15 * 3_600_000
  while (latest - earliest > 60_000) {
    const middle = earliest + Math.floor((latest - earliest) / 120_000) * 60_000
    if (dayIn(middle, timeZone) < day) earliest = middle
    else latest = middle
  }
  return new Date(latest).toISOString()
}

export function isTimeZone(name: string): boolean {
  try {
    partsIn(0, name)
    return true
  } catch {
    return false
  }
}

/** The local time in a time zone at an instant: `2031-05-04T20:30:00`. */
export function wallTimeIn(instant: string, timeZone: string): string {
  const part = partsIn(Date.parse(instant), timeZone)
  return `${part('year').padStart(4, '0')}-${part('month')}-${part('day')}T${part('hour')}:${part('minute')}:${part('second')}`
}

/**
 * The offsets, such as `+02:00`, that a local time can have in a time zone: none where a clock change skips it, and two where it
 * comes twice, the earlier instant first.
 */
export function offsetsOf(wallTime: string, timeZone: string): string[] {
  const { asUtc, offsetAt, candidates } = around(wallTime, timeZone)
  return candidates
    .filter((offset) => offsetAt(asUtc - offset) === offset)
    .sort((a, b) => b - a)
    .map(printOffset)
}

/** The offsets that a time zone has a day before and a day after a time on its clocks, in milliseconds. */
function around(wallTime: string, timeZone: string) {
  const asUtc = Date.parse(wallTime + 'Z')
  const offsetAt = (instant: number): number =>
    Date.parse(wallTimeIn(new Date(instant).toISOString(), timeZone) + 'Z') - instant
  return { asUtc, offsetAt, candidates: [...new Set([-86_400_000, 86_400_000].map((far) => offsetAt(asUtc + far)))] }
}

function printOffset(offset: number): string {
  const minutes = Math.abs(offset) / 60_000
  const two = (value: number) => String(Math.floor(value)).padStart(2, '0')
  return `${offset < 0 ? '-' : '+'}${two(minutes / 60)}:${two(minutes % 60)}`
}

/**
 * A local time in a time zone, with its offset. A time that a clock change skips gets the offset before the change; one that comes
 * twice is the first.
 */
export function withOffset(wallTime: string, timeZone: string): string {
  return wallTime + (offsetsOf(wallTime, timeZone)[0] ?? printOffset(around(wallTime, timeZone).candidates[0]!))
}

/** A local time with its zone, and its instant. */
export interface ZonedTime {
  /** Local time in the zone: `2031-05-04T20:30:00`. */
  readonly local: string
  /** IANA name. */
  readonly zone: string
  /** In UTC, with milliseconds. */
  readonly instant: string
}

/**
 * Reads `2031-05-04T20:30:00+02:00[Europe/Amsterdam]` (RFC 9557). The local time is what counts: when the zone's rules have changed
 * since it was written, the instant follows the zone and not the offset. The offset decides where the local time comes twice.
 */
export function readZoned(text: string): ZonedTime | undefined {
  const match = /^(\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(?::\d{2})?)([Zz]|[+-]\d{2}:\d{2})\[([A-Za-z0-9_+/-]{1,60})\]$/.exec(
    text,
  )
  if (!match || instantOf(match[1]! + match[2]!) === undefined || !isTimeZone(match[3]!)) return undefined
  const local = match[1]!.length === 16 ? match[1]! + ':00' : match[1]!
  const [zone, written] = [match[3]!, match[2]!.replace(/[Zz]/, '+00:00')]
  const isOne = offsetsOf(local, zone).includes(written)
  return { local, zone, instant: instantOf(isOne ? local + written : withOffset(local, zone))! }
}
