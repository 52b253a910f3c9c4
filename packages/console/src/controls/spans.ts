import { secondsIn, spanOf } from '@wisteria/core'

const units: Record<string, number> = { w: 604_800, d: 86_400, h: 3600, m: 60, min: 60, s: 1 }

/** A length of time as people write it, `1 h 30 min` or `90 minutes`, or as it is stored, `PT90M`. */
export function readSpan(text: string): string | undefined {
  const written = text.trim()
  if (/^P/i.test(written)) return secondsIn(written.toUpperCase()) === undefined ? undefined : written.toUpperCase()
  let seconds = 0
  const rest = written.replace(
    /(\d+)\s*(weeks?|w|days?|d|hours?|hrs?|h|minutes?|mins?|min|m|seconds?|secs?|s)(?![a-z])[\s,]*/gi,
    (_, amount: string, unit: string) => {
      const name = unit.toLowerCase()
      seconds += Number(amount) * units[name.startsWith('m') ? 'm' : name[0]!]!
      return ''
    },
  )
  return written === '' || rest !== '' ? undefined : spanOf(seconds)
}
