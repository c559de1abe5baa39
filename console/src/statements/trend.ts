import type { StatementLine } from '../api/types'
import { SCALES } from '../figures/numbers'
import type { Arranged, Period } from './arranged'

/** Of which frequency a line is drawn where a table has years and quarters: quarters if it has any. */
export function frequencyOf(of: Arranged, line: StatementLine): Period['of'] {
  const quarters = line.cells.some((c, n) => c.value !== null && of.columns[n]!.of === 'quarter')
  return of.columns.some((c) => c.of) ? (quarters ? 'quarter' : 'annual') : undefined
}

/** What the amount of a line in a period is in. */
const currencyAt = (of: Arranged, line: StatementLine, n: number): string | null =>
  line.cells[n]?.currency ?? of.columns[n]?.currency ?? null

/**
 * The figures of a line that can be drawn as one trend: of periods of one length, years or
 * quarters, no transition among years; amounts only while they are in the newest one's currency.
 */
export function comparable(of: Arranged, line: StatementLine): (number | null)[] {
  const newest = currencyAt(of, line, of.columns.length - 1)
  const amounts = of.show === 'amounts'
  const money = amounts && line.unit.startsWith('money')
  const drawn = frequencyOf(of, line)
  return line.cells.map((cell, n) => {
    const column = of.columns[n]!
    const years = (column.of ?? of.frequency) === 'annual'
    const short = amounts && years && line.nature === 'flow' && column.label.startsWith('TP')
    return column.of !== drawn || short || (money && currencyAt(of, line, n) !== newest)
      ? null
      : cell.value
  })
}

/** Lines drawn on one axis of time, by the ends of their periods. */
export interface Drawing {
  ends: string[]
  series: { name: string; values: (number | null)[] }[]
  unit: string
  /** Amounts in several currencies have no common axis: which ones. Nothing is drawn. */
  currencies: string[]
}

/**
 * The lines chosen, of every statement shown: percents, or amounts in the scale of the page, or
 * all of them as 100 where the first one begins (`indexed`), which compares what has no common
 * currency.
 */
export function drawn(
  statements: Arranged[],
  chosen: string[],
  scale: string,
  indexed = false,
): Drawing {
  const ends = [...new Set(statements.flatMap((of) => of.columns.map((c) => c.nominal_end)))].sort()
  const currencies = new Set<string>()
  const units = new Set<string>()
  const series = statements.flatMap((of) =>
    chosen.flatMap((code) => {
      const line = of.lines.find((l) => l.item === code)
      if (!line) return []
      const amounts = of.show === 'amounts'
      const money = amounts && line.unit.startsWith('money')
      if (money) currencies.add(currencyAt(of, line, of.columns.length - 1) ?? '')
      units.add(amounts ? line.unit : 'percent')
      const scaled = ['money', 'shares'].includes(line.unit)
      const by = !amounts ? 100 : scaled ? 10 ** -SCALES[scale]! : 1
      const at = new Map(
        comparable(of, line)
          .map((value, n) => [of.columns[n]!.nominal_end, value] as const)
          .filter(([, value]) => value !== null),
      )
      const values = ends
        .map((end) => at.get(end) ?? null)
        .map((value) => (value === null ? null : value * by))
      const name =
        statements.length === 1
          ? line.title
          : chosen.length === 1
            ? of.name
            : `${of.name}, ${line.title}`
      return [{ name, values }]
    }),
  )
  if (indexed)
    return {
      ends,
      series: series.map((one) => ({ ...one, values: index(one.values) })),
      unit: 'first = 100',
      currencies: [],
    }
  if (currencies.size > 1) return { ends, series: [], unit: '', currencies: [...currencies].sort() }
  const [currency] = currencies
  const unit = units.has('percent')
    ? '%'
    : currency && units.size === 1
      ? `${currency}${units.has('money') ? ` ${scale}` : ''}`
      : ''
  return { ends, series, unit, currencies: [] }
}

function index(values: (number | null)[]): (number | null)[] {
  const base = values.find((value) => value !== null)
  return values.map((value) => (value === null || !base || base < 0 ? null : (value / base) * 100))
}
