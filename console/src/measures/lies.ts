/**
 * How the values of a measure lie: what a panel's rows say of coverage by date and of one date's
 * spread.
 */

import type { PanelAnswer } from '../api/types'

export interface Filled {
  date: string
  filled: number
  all: number
}

/** Of each date, how many companies there were and how many have a value. */
export function coverage(answer: PanelAnswer, name: string): Filled[] {
  const out = new Map<string, Filled>()
  for (const row of answer.records) {
    const date = String(row.date)
    const own = out.get(date) ?? { date, filled: 0, all: 0 }
    own.all += 1
    if (row[name] !== null) own.filled += 1
    out.set(date, own)
  }
  return [...out.values()]
}

/** The values of one date, and why the others are missing, the commonest reason first. */
export function valuesOn(
  answer: PanelAnswer,
  name: string,
  date: string,
): { values: number[]; reasons: [string, number][] } {
  const values: number[] = []
  const reasons = new Map<string, number>()
  for (const row of answer.records) {
    if (row.date !== date) continue
    const value = row[name]
    if (typeof value === 'number') values.push(value)
    else if (value === null) {
      const reason = String(row[`${name}.reason`] ?? '')
      reasons.set(reason, (reasons.get(reason) ?? 0) + 1)
    }
  }
  return { values: values.sort((a, b) => a - b), reasons: [...reasons].sort((a, b) => b[1] - a[1]) }
}

/** A quantile of ascending values, by linear interpolation. */
export function quantile(values: number[], share: number): number {
  const place = share * (values.length - 1)
  const low = Math.floor(place)
  const high = Math.min(low + 1, values.length - 1)
  return values[low]! + (values[high]! - values[low]!) * (place - low)
}

/** So many bins between the 5th and the 95th percentile; the tails are left out. */
export function bins(values: number[], count = 24): { from: number; to: number; n: number }[] {
  if (!values.length) return []
  const low = quantile(values, 0.05)
  const high = quantile(values, 0.95)
  const width = (high - low) / count || 1
  const out = Array.from({ length: count }, (_, n) => ({
    from: low + n * width,
    to: low + (n + 1) * width,
    n: 0,
  }))
  for (const value of values)
    if (value >= low && value <= high)
      out[Math.min(count - 1, Math.floor((value - low) / width))]!.n += 1
  return out
}
