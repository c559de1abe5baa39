/**
 * Estimated amounts as people read them: what is a share's to three decimals, money in millions.
 */

import { bracketed } from '../figures/numbers'

/** The measures whose estimates are shown, by name. */
export const MEASURES = { eps: 'eps', revenue: 'revenue' }

export function amount(value: number | null, unit: string): string {
  if (value === null) return ''
  return unit === 'money_per_share' ? bracketed(value, 3) : bracketed(value / 1e6, 1)
}

/** What they are in. */
export function amountIn(unit: string, currency: string | null): string {
  return [currency, unit === 'money_per_share' ? 'a share' : 'mn'].filter(Boolean).join(' ')
}

/** What an amount in a table is in, whose head says what is a share's. */
export function briefAmountIn(unit: string, currency: string | null): string {
  return unit === 'money_per_share' ? (currency ?? '') : amountIn(unit, currency)
}
