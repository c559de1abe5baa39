import { shortDay } from '../time/format'
import { figure, SEVERAL } from './numbers'
import { MARKS, reasonFull, reasonShort } from './reasons'

/** A figure of any table: of a screen, a list, a statement. */
export interface ShownCell {
  value: number | string | null
  reason: string | null
  currency?: string | null
  marks: string[]
  restated: boolean
  restated_later: boolean | null
  known_at: string | null
  period?: string | null
  formed?: boolean
  flags?: string[]
}

/**
 * How a cell is to be read: its column's unit, the scale of amounts, the template of its company.
 */
export interface Reading {
  unit: string
  percent: boolean
  scale?: string
  template?: string | null
  /** Of the whole row: where it has several, a figure says its own. */
  currency?: string
  /** -1 where it is taken from its subtotal: it stands in brackets. */
  sign?: 1 | -1
  decimals?: number
}

/**
 * A cell as it is drawn: its text, its signs, and the words that a pointer or a screen reader
 * gets.
 */
export interface Look {
  text: string
  /** The currency before the figure, where the row has several. */
  currency: string
  /** Words of an attribute: nothing to look into, and aligned to the left. */
  words: boolean
  missing: boolean
  negative: boolean
  formed: boolean
  restated: boolean
  later: boolean
  flagged: boolean
  /** What it was on the day that it is compared with, where that differs. */
  was?: string
  about: string
}

function about(cell: ShownCell): string {
  const marks = cell.marks.map((mark) => MARKS[mark] ?? mark)
  const lines = [cell.period ?? '', ...marks]
  if (cell.formed && !cell.marks.includes('implied')) lines.push('Derived from other figures.')
  if (cell.restated) lines.push('Restated: it first read differently.')
  else if (cell.restated_later) lines.push('Restated later: after this date it reads differently.')
  lines.push(reasonFull(cell.reason))
  if (cell.flags?.length) lines.push(`Flagged: ${cell.flags.join(', ').replaceAll('_', ' ')}.`)
  if (cell.known_at) lines.push(`Reads like this since ${shortDay(cell.known_at)}.`)
  return lines.filter(Boolean).join(' · ')
}

export function look(cell: ShownCell, reading: Reading): Look {
  const { value } = cell
  const text =
    value === null
      ? reasonShort(cell.reason, reading.template)
      : figure(
          typeof value === 'number' ? value * (reading.sign ?? 1) : value,
          reading.unit,
          reading.percent,
          reading.scale,
          reading.decimals,
        )
  return {
    text,
    currency: reading.currency === SEVERAL ? (cell.currency ?? '') : '',
    words: reading.unit === 'text',
    missing: value === null,
    negative: typeof value === 'number' && value < 0,
    formed: cell.formed ?? false,
    restated: cell.restated,
    later: !cell.restated && !!cell.restated_later,
    flagged: cell.marks.includes('flagged') || cell.marks.includes('extreme'),
    about: about(cell),
  }
}
