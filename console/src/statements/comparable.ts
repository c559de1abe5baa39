import type { Statement, StatementLine } from '../api/statements'

/** The figures of a line that can be drawn as one trend: amounts only as far as they are in the newest one's currency. */
export function comparable(of: Statement, line: StatementLine): (number | null)[] {
  const newest = of.columns.at(-1)?.currency
  const money = of.show === 'amounts' && line.unit.startsWith('money')
  return line.cells.map((cell, n) => (money && of.columns[n]!.currency !== newest ? null : cell.value))
}
