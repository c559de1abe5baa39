/** Contributions to a period as one line a contributor. */

import type { Contribution } from '../api/types'

export type Point = [string, number | null]

/**
 * Each contributor's values by day from `begin` to `end`, the last one that stands drawn to the
 * end; a hole where one was withdrawn.
 */
export function byHouse(
  contributions: Contribution[],
  begin: string,
  end: string,
): [string, Point[]][] {
  const found = new Map<string, Point[]>()
  const before = [...contributions]
    .filter((c) => c.state !== 'after the actual')
    .sort((a, b) => a.published_at.localeCompare(b.published_at))
  for (const c of before) {
    const day = c.published_at.slice(0, 10)
    const points = found.get(c.contributor) ?? []
    if (day < begin) points.length = 0 // only what stands at the beginning is drawn from before it
    points.push([day < begin ? begin : day, c.value])
    found.set(c.contributor, points)
  }
  for (const c of before) {
    const points = found.get(c.contributor) ?? []
    if (c.state === 'in' && points[points.length - 1]?.[0] !== end) points.push([end, c.value])
  }
  return [...found]
}
