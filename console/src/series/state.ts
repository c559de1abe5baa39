/**
 * A sheet of series in an address: each as its key and, behind a bar, its steps; and what can be
 * said of many.
 */

import type { SeriesAsked, SeriesLine } from '../api/types'

/** Steps that are offered; the service reads any other that is written the same way. */
export const STEPS = [
  'growth on a year ago',
  'growth on the period before',
  'change on a year ago',
  'change on the period before',
  'log growth on the period before',
  'growth over 3 periods annualised',
  'monthly mean',
  'quarterly mean',
  'quarterly sum',
  'quarterly last',
  'yearly mean',
  'yearly sum',
  'yearly last',
  'log',
  'rebased to 2010',
  'rebased to 2015',
  'rebased to 2020',
]

/** A series of the address: `KEY|step, step|title`. */
export function readSeries(text: string): SeriesAsked {
  const [key, steps, ...title] = text.split('|')
  return {
    key: key!,
    title: title.join('|'),
    transforms: (steps ?? '')
      .split(',')
      .map((s) => s.trim())
      .filter(Boolean),
  }
}

export function written(series: {
  key: string
  transforms?: string[] | null
  title?: string
}): string {
  const steps = (series.transforms ?? []).join(', ')
  if (series.title) return `${series.key}|${steps}|${series.title}`
  return steps ? `${series.key}|${steps}` : series.key
}

/**
 * One key that stands for all of several, where they differ in a part or two:
 * `HOUSE_PRICES/M.*.SA`.
 */
export function keyOfAll(keys: string[]): string | null {
  if (keys.length < 2) return null
  const split = keys.map((k) => k.split('/'))
  if (split.some((s) => s.length !== 2 || s[0] !== split[0]![0])) return null
  const parts = split.map((s) => s[1]!.split('.'))
  if (parts.some((p) => p.length !== parts[0]!.length)) return null
  const made = parts[0]!.map((_, n) => {
    const codes = [...new Set(parts.map((p) => p[n]!))]
    return codes.length === 1 ? codes[0]! : codes.join('+')
  })
  // Only where the parts put together give these keys and no others.
  const product = parts[0]!.reduce((count, _, n) => count * new Set(parts.map((p) => p[n])).size, 1)
  return product === keys.length ? `${split[0]![0]}/${made.join('.')}` : null
}

/** Of titles made of parts the parts that distinguish them. */
export function distinctParts(titles: string[]): string[] {
  if (titles.length < 2) return titles
  const parts = titles.map((t) => t.split(',').map((p) => p.trim()))
  const shared = parts.reduce((all, own) => all.filter((p) => own.includes(p)))
  return parts.map((own, n) => own.filter((p) => !shared.includes(p)).join(', ') || titles[n]!)
}

/** What all of several titles have in common. */
export function common(titles: string[]): string {
  if (titles.length < 2) return titles[0] ?? ''
  const parts = titles.map((t) => t.split(',').map((p) => p.trim()))
  return parts.reduce((all, own) => all.filter((p) => own.includes(p))).join(', ')
}

/** What a line is stated in: percent, or its unit with the base of an index. */
export function unitOfLine(line: Pick<SeriesLine, 'percent' | 'unit' | 'base' | 'head'>): string {
  if (line.percent) return '%'
  return line.unit === 'index' && line.base && line.head === 'level' ? line.base : line.unit
}

/** Values of people's size: one precision for all of a column. */
export function decimals(values: (number | null)[], percent: boolean): number {
  if (percent) return 2
  const most = Math.max(0, ...values.map((v) => Math.abs(v ?? 0)))
  return most >= 100_000 ? 0 : most >= 10 ? 2 : 3
}

/** A key whose parts are `*` where they name every code that there is. */
export function wholly(key: string, dimensions: { codes: unknown[] }[]): string {
  const [family, rest] = key.split('/')
  const parts = rest!
    .split('.')
    .map((part, n) =>
      part.includes('+') && part.split('+').length === dimensions[n]?.codes.length ? '*' : part,
    )
  return `${family}/${parts.join('.')}`
}
