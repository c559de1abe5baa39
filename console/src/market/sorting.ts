/**
 * The companies of a market in an order: by a column, `-` before it for the highest first; what is
 * missing comes last.
 */

import type { TradedCompany } from '../api/types'
import { inOrder } from '../figures/sorting'

export const CHANGES = [
  ['day', 'Day'],
  ['week', 'Week'],
  ['month', 'Month'],
  ['year', 'Year'],
  ['year_to_date', 'To date'],
] as const

export function sorted(rows: TradedCompany[], by: string): TradedCompany[] {
  return inOrder(rows, by, (row, name) => row[name as keyof TradedCompany])
}

/** The days so many before and after one. */
export function around(day: string, days: number): { start: string; end: string } {
  const at = (n: number): string =>
    new Date(Date.parse(`${day}T00:00:00Z`) + n * 86_400_000).toISOString().slice(0, 10)
  return { start: at(-days), end: at(days) }
}
