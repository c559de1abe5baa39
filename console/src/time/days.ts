/** Days as ISO text, counted in UTC. */

export const DAY_MS = 86_400_000

export function today(): string {
  return new Date().toISOString().slice(0, 10)
}

export function isDay(text: unknown): text is string {
  if (typeof text !== 'string' || !/^\d{4}-\d{2}-\d{2}$/.test(text)) return false
  const at = new Date(`${text}T00:00:00Z`)
  return !Number.isNaN(at.getTime()) && at.toISOString().startsWith(text)
}

export function plusDays(day: string, count: number): string {
  return new Date(Date.parse(day) + count * DAY_MS).toISOString().slice(0, 10)
}

/** The last day of the month `count` months after the month of `day`. */
export function monthEnd(day: string, count: number): string {
  const at = new Date(day)
  return new Date(Date.UTC(at.getUTCFullYear(), at.getUTCMonth() + count + 1, 0))
    .toISOString()
    .slice(0, 10)
}

/** The next month end before (-1) or after (1) a day. */
export function stepMonth(day: string, direction: number): string {
  const own = monthEnd(day, 0)
  if (direction > 0) return day < own ? own : monthEnd(day, 1)
  return monthEnd(day, -1)
}

/** Which of ascending days begin a month that is named on an axis: at most `most`, evenly apart. */
export function monthMarks(days: string[], most = 12): Set<number> {
  const month = (day: string): number => Number(day.slice(0, 4)) * 12 + Number(day.slice(5, 7)) - 1
  const begins = days.flatMap((day, n) => (n && month(day) === month(days[n - 1]!) ? [] : [n]))
  for (const step of [1, 2, 3, 6, 12, 24, 60, 120]) {
    const marks = begins.filter((n) => month(days[n]!) % step === 0)
    if (marks.length <= most) return new Set(marks.length ? marks : begins.slice(0, 1))
  }
  return new Set()
}

/** A day, or the last one there is: nobody knows what will be known. */
export function upTo(last: string, day: unknown): string {
  return isDay(day) && day <= last ? day : last
}
