/** Figures and dates as people read them. */

import type { Column } from './api/types'

const REASONS: Record<string, [short: string, full: string]> = {
  not_applicable: ['n/a', 'The statements of this kind of company have no such line.'],
  not_reported: ['not reported', 'The statement was known, but never with this line.'],
  not_known: ['not known', 'No such statement was known by this date.'],
  withdrawn: ['withdrawn', 'The company took the figure back.'],
  stale: ['stale', 'The newest period ended more than 550 days before this date.'],
  incomplete: ['incomplete', 'Not all figures that it is formed from were known by this date.'],
  not_derivable: ['not derivable', 'Figures of this kind are neither added nor subtracted.'],
  not_meaningful: ['not meaningful', 'The result would say nothing, such as growth from a loss.'],
  zero_denominator: ['zero denominator', 'It would be a division by zero.'],
  no_rate: ['no rate', 'The amounts are in different currencies and there is no rate between them.'],
  inactive: ['inactive', 'The company was no longer active.'],
  no_estimates: ['no estimates', 'Nobody had an estimate standing.'],
}

export function reasonShort(reason: string | null, template?: string | null): string {
  const short = REASONS[reason ?? '']?.[0] ?? reason ?? ''
  return reason === 'not_applicable' && template ? `${short} ${template}` : short
}

export function reasonFull(reason: string | null): string {
  return REASONS[reason ?? '']?.[1] ?? ''
}

export const MARKS: Record<string, string> = {
  assumed: 'The source gave no publication date: one was assumed from the end of the period.',
  approximate: 'Formed from per-share figures, which add up only approximately.',
  mixed_basis: 'One figure behind it was restated, another that covers the same time was not.',
  implied: 'Not on the statement, which means zero.',
  flagged: 'A check found something about a figure behind it: see Quality.',
}

function grouped(value: number, digits: number): string {
  const text = Math.abs(value).toLocaleString('en-GB', { minimumFractionDigits: digits, maximumFractionDigits: digits })
  return value < 0 ? `(${text})` : text
}

/** A value in the scale of its column: percents x 100, money and shares in millions. */
/** What amounts can be shown in: the power of ten. */
export const SCALES: Record<string, number> = { mn: 6, bn: 9, k: 3, units: 0 }

export function figure(value: number | string, unit: string, percent: boolean, scale = 'mn'): string {
  if (typeof value === 'string') return value
  if (percent) return grouped(value * 100, 1)
  if (unit === 'money' || unit === 'shares') return grouped(value / 10 ** SCALES[scale]!, { bn: 3, mn: 1 }[scale] ?? 0)
  return grouped(value, unit === 'pure' ? 3 : unit === 'count' ? 0 : 2)
}

/** What stands beside a single figure. */
export function unitOf(unit: string, percent: boolean, currency: string | null): string {
  if (percent) return '%'
  if (unit === 'money') return `${currency ?? ''} mn`
  if (unit === 'money_per_share') return currency ?? ''
  return unit === 'shares' ? 'mn shares' : ''
}

export function headingScale(column: Column): string {
  if (column.percent) return '%'
  return { money: 'mn', shares: 'mn shares' }[column.unit] ?? ''
}

const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' })
const SHORT = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' })
const TIME = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', timeZone: 'UTC' })

export function longDay(iso: string): string {
  return DAY.format(new Date(iso))
}

export function shortDay(iso: string): string {
  return SHORT.format(new Date(iso))
}

export function instant(iso: string): string {
  const at = new Date(iso)
  const wholeDay = at.getUTCHours() === 23 && at.getUTCMinutes() === 59
  return wholeDay ? SHORT.format(at) : `${SHORT.format(at)}, ${TIME.format(at)} UTC`
}
