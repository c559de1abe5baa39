/**
 * Figures as people read them: percents times 100, amounts and shares in a scale, negative ones in
 * brackets.
 */

/** What amounts can be shown in: the power of ten. */
export const SCALES: Record<string, number> = { mn: 6, bn: 9, k: 3, units: 0 }

/** In the place of a row's currency. */
export const SEVERAL = 'several'

/** Decimals of what is shown in no scale. */
const DECIMALS: Record<string, number> = { pure: 3, count: 0, money_per_count: 0 }

const writers = new Map<string, Intl.NumberFormat>()

/** Making one takes as long as writing a hundred numbers. */
function writer(most: number, least: number): Intl.NumberFormat {
  const key = `${most} ${least}`
  let found = writers.get(key)
  if (!found) {
    found = new Intl.NumberFormat('en-GB', {
      minimumFractionDigits: least,
      maximumFractionDigits: most,
    })
    writers.set(key, found)
  }
  return found
}

/** A number with its thousands parted, at most so many decimals, in brackets when negative. */
export function bracketed(value: number, most: number, least = most): string {
  const text = writer(most, least).format(Math.abs(value))
  return value < 0 ? `(${text})` : text
}

/** A count with its thousands parted. */
export function grouped(count: number): string {
  return writer(0, 0).format(count)
}

/** So many of a kind: "1 company", "2,014 companies". */
export function counted(count: number, kind: string): string {
  const several = /(s|x|ch)$/.test(kind)
    ? `${kind}es`
    : /[^aeiou]y$/.test(kind)
      ? `${kind.slice(0, -1)}ies`
      : `${kind}s`
  return `${grouped(count)} ${count === 1 || kind.endsWith('series') ? kind : several}`
}

/** Several kinds, given by their plurals: "1,200 prices, 1 company". */
export function eachCounted(counts: Record<string, number>): string {
  const singular = (kind: string): string => {
    if (kind.endsWith('series')) return kind
    return kind.endsWith('ies') ? `${kind.slice(0, -3)}y` : kind.replace(/(?<=s|x|ch)es$|s$/, '')
  }
  return Object.entries(counts)
    .map(([kind, count]) => counted(count, singular(kind)))
    .join(', ')
}

export function figure(
  value: number | string,
  unit: string,
  percent: boolean,
  scale = 'mn',
  decimals?: number,
): string {
  if (typeof value === 'string') return value
  if (percent) return bracketed(value * 100, 1)
  if (unit === 'money' || unit === 'shares') {
    return bracketed(value / 10 ** SCALES[scale]!, decimals ?? { bn: 3, mn: 1 }[scale] ?? 0)
  }
  return bracketed(value, DECIMALS[unit] ?? 2)
}

/** The decimals that amounts of a table need in a scale: about four digits of the largest. */
export function decimalsFor(values: (number | null)[], scale: string): number {
  const largest = Math.max(0, ...values.map((value) => Math.abs(value ?? 0))) / 10 ** SCALES[scale]!
  if (scale === 'units' || largest >= 10_000) return 0
  return largest >= 100 ? 1 : largest >= 10 ? 2 : 3
}

/** What stands beside a single figure. */
export function unitOf(unit: string, percent: boolean, currency: string | null): string {
  if (percent) return '%'
  if (unit === 'money') return `${currency ?? ''} mn`.trim()
  if (unit === 'money_per_share') return currency ?? ''
  if (unit === 'money_per_count') return `${currency ?? ''} each`.trim()
  return unit === 'shares' ? 'mn shares' : ''
}

/**
 * What the amounts of a row are in; where that is more than one currency, each figure says its
 * own.
 */
export function currencyOf(cells: { currency?: string | null }[]): string {
  const met = new Set(cells.map((cell) => cell.currency).filter((c) => !!c))
  return met.size > 1 ? SEVERAL : ([...met][0] ?? '')
}

/** A column's name with what its figures are in. */
export const heading = (column: { name: string; unit: string; percent: boolean }): string =>
  [column.name, headingScale(column)].filter(Boolean).join(', ')

/** What a column's figures are in, for its head. */
export function headingScale(column: { unit: string; percent: boolean }): string {
  if (column.percent) return '%'
  return { money: 'mn', shares: 'mn shares' }[column.unit] ?? ''
}
