import type { StatementLine } from '../api/types'
import type { OpenFigure } from '../figures/FigurePanel.vue'
import { type Arranged, periodKey } from './arranged'

const FORMS: Record<string, string> = {
  annual: 'fy',
  half: 'h',
  quarter: 'q',
  trailing: 'ttm',
  cumulative: 'ytd',
}

/** The address of a figure: item, period, which of the statements shown. */
export function figureKey(line: StatementLine, of: Arranged, column: number, at: number): string {
  return `${line.item}:${periodKey(of.columns[column]!)}:${at}`
}

/** The figure of an address among the statements shown, or null where it does not stand there. */
export function openFigure(key: string | null, statements: Arranged[]): OpenFigure | null {
  const [item, period, at] = (key ?? '').split(':')
  const of = statements[Number(at ?? 0)]
  const line = of?.lines.find((l) => l.item === item)
  const n = of?.columns.findIndex((c) => periodKey(c) === period) ?? -1
  const cell = line?.cells[n]
  if (!of || !line || !cell) return null
  const column = of.columns[n]!
  const expression =
    line.nature === 'flow' ? `${line.item}.${FORMS[column.of ?? of.frequency]}` : line.item
  return {
    company: of.company,
    name: of.name,
    template: of.template,
    column: { expression, name: expression, unit: line.unit, percent: of.show !== 'amounts' },
    cell: {
      ...cell,
      currency: cell.currency ?? column.currency,
      period: column.label,
      period_end: column.nominal_end,
    },
  }
}

/** A basis in short: `tvf:SegmentAxis=agk:Home` is Home. */
export function partOf(basis: string): string {
  return basis
    .split(';')
    .map((part) => part.split(/[=:]/).at(-1))
    .join(', ')
}
