// Moments by the clock of a place. A stall knows Unix time alone; where its dates are read is the reader's choice.

const HERE = Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC'

/** The zones that are offered: UTC, the reader's own, then all that the browser knows. */
export const zonesShown = (): string[] => [
  ...new Set(['UTC', HERE, ...Intl.supportedValuesOf('timeZone')]),
]

export function isZone(zone: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: zone })
    return true
  } catch {
    return false
  }
}

/** Date and time of a moment there: "2031-04-01", "12:00". */
export function clockOf(moment: number, zone: string): { day: string; time: string } {
  const parts = new Map(
    new Intl.DateTimeFormat('en-GB', {
      timeZone: zone,
      hourCycle: 'h23',
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit',
      second: '2-digit',
    })
      .formatToParts(moment)
      .map(({ type, value }) => [type, value]),
  )
  const part = (name: Intl.DateTimeFormatPartTypes) => parts.get(name) ?? '00'
  const year = part('year').padStart(4, '0')
  const seconds = part('second') === '00' ? '' : `:${part('second')}`
  return {
    day: `${year}-${part('month')}-${part('day')}`,
    time: `${part('hour')}:${part('minute')}${seconds}`,
  }
}

/** The moment at which a day begins there, or at which its clock says a time; null of what is no day. */
export function momentOf(text: string, zone: string): number | null {
  const match = /^\s*(\d{4}-\d\d-\d\d)(?:[T ]+(\d\d:\d\d))?\s*$/.exec(text)
  const wanted = match ? Date.parse(`${match[1]}T${match[2] ?? '00:00'}:00Z`) : NaN
  if (Number.isNaN(wanted)) return null
  // The clock's distance from UTC at about that time, then at that very moment: it may change between.
  let at = wanted
  for (let tries = 0; tries < 3; tries += 1) {
    const { day, time } = clockOf(at, zone)
    at += wanted - Date.parse(`${day}T${time.slice(0, 5)}:00Z`)
  }
  return at
}
