import type { Statement, StatementColumn, StatementLine } from '../api/types'
import { look, type Look } from '../figures/look'
import { decimalsFor, figure, SEVERAL } from '../figures/numbers'

/** A period of a table: of which frequency it is, where the table has several. */
export type Period = StatementColumn & { of?: 'annual' | 'quarter' }
export type Arranged = Omit<Statement, 'columns'> & { columns: Period[] }

/** What names a period: two may end on one day, a year and its last quarter. */
export const periodKey = (column: Period): string =>
  column.nominal_end + (column.of === 'quarter' ? '.q' : '')

/** Years and quarters in one table, by their ends, a year behind its last quarter. */
export function together(years: Statement, quarters: Statement): Arranged {
  const places = [
    ...years.columns.map((column, n) => ({
      column: { ...column, of: 'annual' as const },
      from: years,
      n,
    })),
    ...quarters.columns.map((column, n) => ({
      column: { ...column, of: 'quarter' as const },
      from: quarters,
      n,
    })),
  ]
  const order = (p: (typeof places)[number]): string =>
    p.column.nominal_end + (p.column.of === 'annual' ? '1' : '0')
  const first = years.columns[0]?.nominal_end ?? ''
  const kept = places
    .filter((p) => p.column.nominal_end >= first || p.column.of === 'annual')
    .sort((a, b) => order(a).localeCompare(order(b)))
  const codes = [...new Set([...years.lines, ...quarters.lines].map((line) => line.item))]
  const lines = codes.map((code) => {
    const of = (statement: Statement) => statement.lines.find((line) => line.item === code)
    const cells = kept.map((p) => of(p.from)?.cells[p.n] ?? NOTHING)
    return { ...(of(years) ?? of(quarters))!, cells }
  })
  return { ...years, columns: kept.map((p) => p.column), lines }
}

const NOTHING: StatementLine['cells'][number] = {
  value: null,
  reason: 'not_reported',
  marks: [],
  formed: false,
  restated: false,
  restated_later: null,
  known_at: null,
  flags: [],
  currency: null,
}

/** The cell of another statement of the company for the same line and period. */
function beside(
  of: Statement | null,
  line: StatementLine,
  column: Period,
): StatementLine['cells'][number] | undefined {
  const n = of?.columns.findIndex((c) => periodKey(c) === periodKey(column)) ?? -1
  return n < 0 ? undefined : of!.lines.find((l) => l.item === line.item)?.cells[n]
}

/** A row of the table: a line, or what is said of it in percent under it. */
export interface ShownRow {
  key: string
  line: StatementLine
  title: string
  kind: 'line' | 'growth' | 'share'
  cells: (StatementLine['cells'][number] | undefined)[]
}

const STRONG = (line: StatementLine): boolean => line.indent === 0 && line.unit === 'money'

/**
 * Lines down; under those that count growth, and of an income statement their share of the
 * revenue, where asked for.
 */
export function rowsOf(
  of: Arranged,
  growth: Statement | null,
  share: Statement | null,
): ShownRow[] {
  return of.lines.flatMap((line) => {
    const rows: ShownRow[] = [
      { key: line.item, line, title: titleOf(of, line), kind: 'line', cells: line.cells },
    ]
    if (of.show !== 'amounts' || !STRONG(line)) return rows
    for (const [kind, other, title] of [
      ['growth', growth, 'growth, %'],
      ['share', share, '% of revenue'],
    ] as const) {
      if (!other || (kind === 'share' && line.item === 'revenue')) continue
      const cells = of.columns.map((column) => beside(other, line, column))
      if (cells.some((cell) => cell?.value != null))
        rows.push({ key: `${line.item} ${kind}`, line, title, kind, cells })
    }
    return rows
  })
}

function titleOf(of: Arranged, line: StatementLine): string {
  const unit =
    line.unit === 'money_per_share' && of.show === 'amounts' && of.currency
      ? `, ${of.currency}`
      : ''
  return `${line.of_which ? 'of which ' : ''}${line.title}${unit}`
}

/** Costs stand in brackets, so that a column adds up downwards; a growth has no place in a sum. */
export const signOf = (of: Arranged, row: ShownRow): 1 | -1 =>
  row.kind === 'line' && of.show !== 'growth' && row.line.sign < 0 && !row.line.of_which ? -1 : 1

/**
 * How the figures of a statement are drawn: one number of decimals for all its amounts, and what
 * they were before.
 */
export function looksOf(of: Arranged, scale: string, earlier: Statement | null) {
  const amounts = of.lines
    .filter((l) => l.unit === 'money')
    .flatMap((l) => l.cells.map((cell) => cell.value))
  const decimals = of.show === 'amounts' ? decimalsFor(amounts, scale) : undefined

  return (row: ShownRow, n: number): Look => {
    const { line } = row
    const percent = row.kind !== 'line' || of.show !== 'amounts'
    const reading = {
      unit: line.unit,
      percent,
      scale,
      sign: signOf(of, row),
      decimals: line.unit === 'money' ? decimals : undefined,
      currency: SEVERAL, // a cell has one of its own only where it is not its column's
      template: line.applies ? null : of.template,
    }
    const found = look(row.cells[n] ?? NOTHING, reading)
    const before =
      row.kind === 'line' && earlier ? beside(earlier, line, of.columns[n]!) : undefined
    const now = row.cells[n]?.value ?? null
    const there = earlier?.columns.some((c) => periodKey(c) === periodKey(of.columns[n]!))
    if (row.kind !== 'line' || !there || (before?.value ?? null) === now) return found
    const was =
      before?.value == null
        ? 'not there'
        : figure(before.value * reading.sign, line.unit, percent, scale, reading.decimals)
    return { ...found, was, about: `Was ${was} on the other day. ${found.about}` }
  }
}
