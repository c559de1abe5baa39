/** A series laid beside another: at its first common day it has the other's value. */

import { isDay } from '../time/days'

export interface Point {
  date: string
  value: number | null
}

/**
 * The values of `other` on the days of `base`, the last one known by then, scaled to meet `base`
 * on its first day.
 */
export function rebased(base: Point[], other: Point[]): (number | null)[] {
  const out: (number | null)[] = []
  let at = 0
  let last: number | null = null
  let factor: number | null = null
  for (const point of base) {
    while (at < other.length && other[at]!.date <= point.date) last = other[at++]!.value ?? last
    if (factor === null && last && point.value !== null) factor = point.value / last
    out.push(last === null || factor === null ? null : last * factor)
  }
  return out
}

/** A date so many years before another; none for all there is. */
export function yearsBefore(day: string, years: number): string | undefined {
  if (!years) return undefined
  const then = `${Number(day.slice(0, 4)) - years}${day.slice(4)}`
  const there: boolean = isDay(then)
  return there ? then : `${then.slice(0, 4)}-02-28`
}
