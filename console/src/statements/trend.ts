import type { Statement, StatementLine } from '../api/types'
import { SCALES } from '../figures/numbers'

/** The figures of a line that can be drawn as one trend: amounts only while they are in the newest one's currency. */
export function comparable(of: Statement, line: StatementLine): (number | null)[] {
  const newest = of.columns.at(-1)?.currency
  const money = of.show === 'amounts' && line.unit.startsWith('money')
  return line.cells.map((cell, n) => (money && of.columns[n]!.currency !== newest ? null : cell.value))
}

/** The lines chosen, of every statement shown, in the scale of the page: percents, or amounts in thousands, millions … */
export function drawn(
  statements: Statement[],
  chosen: string[],
  scale: string,
): { name: string; values: (number | null)[] }[] {
  return statements.flatMap((of) =>
    chosen.flatMap((code) => {
      const line = of.lines.find((l) => l.item === code)
      if (!line) return []
      const scaled = ['money', 'shares'].includes(line.unit)
      const by = of.show !== 'amounts' ? 100 : scaled ? 10 ** -SCALES[scale]! : 1
      const values = comparable(of, line).map((value) => (value === null ? null : value * by))
      return [{ name: statements.length > 1 ? `${of.name}, ${line.title}` : line.title, values }]
    }),
  )
}
