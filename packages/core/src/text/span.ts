const form = /^P(?:(\d{1,6})W)?(?:(\d{1,6})D)?(?:T(?:(\d{1,6})H)?(?:(\d{1,6})M)?(?:(\d{1,6})S)?)?$/

/** The seconds of an ISO 8601 duration of fixed length (weeks, days of 24 hours, hours, minutes, seconds), or undefined. */
export function secondsIn(text: string): number | undefined {
  const match = form.exec(text)
  if (!match || text.endsWith('P') || text.endsWith('T')) return undefined
  const [weeks, days, hours, minutes, seconds] = match.slice(1).map((part) => Number(part ?? 0)) as [
    number,
    number,
    number,
    number,
    number,
  ]
  return (((weeks * 7 + days) * 24 + hours) * 60 + minutes) * 60 + seconds
}

/** The shortest duration of so many seconds: 5400 is `PT1H30M`. Days stay hours below two of them. */
export function spanOf(seconds: number): string {
  const days = seconds >= 172_800 ? Math.floor(seconds / 86_400) : 0
  const left = seconds - days * 86_400
  const [hours, minutes, rest] = [Math.floor(left / 3600), Math.floor((left % 3600) / 60), left % 60]
  const time = `${hours ? hours + 'H' : ''}${minutes ? minutes + 'M' : ''}${rest ? rest + 'S' : ''}`
  return days === 0 && time === '' ? 'PT0S' : `P${days ? days + 'D' : ''}${time ? 'T' + time : ''}`
}

/** For people: `1 h 30 min`. */
export function printSpan(text: string): string {
  const seconds = secondsIn(text) ?? 0
  const days = seconds >= 172_800 ? Math.floor(seconds / 86_400) : 0
  const left = seconds - days * 86_400
  const parts: [number, string][] = [
    [days, 'd'],
    [Math.floor(left / 3600), 'h'],
    [Math.floor((left % 3600) / 60), 'min'],
    [left % 60, 's'],
  ]
  return (
    parts
      .filter(([amount]) => amount > 0)
      .map(([amount, unit]) => `${amount} ${unit}`)
      .join(' ') || '0 s'
  )
}
