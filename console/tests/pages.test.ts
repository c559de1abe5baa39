import { describe, expect, it } from 'vitest'

import type { ScreenAnswer, Statement } from '../src/api/types'
import { moved } from '../src/screens/moved'
import { figureKey, openFigure, partOf } from '../src/statements/open'
import { looksOf, rowsOf, together } from '../src/statements/arranged'
import { comparable, drawn } from '../src/statements/trend'
import { instant } from '../src/time/format'

const cell = {
  value: 1,
  reason: null,
  marks: [],
  formed: false,
  restated: false,
  restated_later: null,
  known_at: null,
  flags: [],
}
const statement = {
  company: 'c1',
  name: 'Ashgrove Kilnworks',
  template: 'industrial',
  frequency: 'trailing',
  show: 'amounts',
  columns: [
    { label: 'FY2022Q4', nominal_end: '2022-12-31', currency: 'EUR' },
    { label: 'FY2023Q1', nominal_end: '2023-03-31', currency: 'USD' },
  ],
  lines: [
    {
      item: 'revenue',
      title: 'Revenue',
      unit: 'money',
      nature: 'flow',
      cells: [
        { ...cell, value: 5e6 },
        { ...cell, value: 7e6 },
      ],
    },
    {
      item: 'employees',
      title: 'Employees',
      unit: 'count',
      nature: 'level',
      cells: [cell, { ...cell, value: 3 }],
    },
  ],
} as unknown as Statement

function screened(known_on: string, passing: string[], rule = 'r'): ScreenAnswer {
  const companies = passing.map((name) => ({ company: name, name, verdict: 'pass' }))
  return { rule, list: 'l', known_on, companies } as unknown as ScreenAnswer
}

describe('a statement', () => {
  it('draws amounts in the newest currency alone, in the scale of the page (M2)', () => {
    expect(comparable(statement, statement.lines[0]!)).toEqual([null, 7e6])
    expect(comparable(statement, statement.lines[1]!)).toEqual([1, 3])
    const [revenue] = statement.lines
    const cells = [{ ...revenue!.cells[0]!, currency: 'USD' }, revenue!.cells[1]!]
    expect(comparable(statement, { ...revenue!, cells })).toEqual([5e6, 7e6])
    expect(drawn([statement], ['revenue', 'nothing'], 'mn')).toMatchObject({
      ends: ['2022-12-31', '2023-03-31'],
      series: [{ name: 'Revenue', values: [null, 7] }],
      unit: 'USD mn',
    })
    expect(drawn([statement, statement], ['employees'], 'mn').series[0]!.name).toBe(
      'Ashgrove Kilnworks',
    )
  })

  it('draws periods of one length: years or quarters, and no transition among years', () => {
    const line = { ...statement.lines[0]!, unit: 'money', nature: 'flow' }
    const of = (labels: string[], values: (number | null)[], both: boolean) => ({
      ...statement,
      frequency: 'annual',
      columns: labels.map((label, n) => ({
        label,
        nominal_end: `20${20 + n}-12-31`,
        currency: 'USD',
        of: !both ? undefined : label.includes('Q') ? 'quarter' : 'annual',
      })),
      lines: [{ ...line, cells: values.map((value) => ({ ...line.cells[0]!, value })) }],
    })
    const shown = (labels: string[], values: (number | null)[], both = false) => {
      const made = of(labels, values, both) as unknown as Statement
      return comparable(made, made.lines[0]!)
    }
    expect(shown(['FY2018', 'TP2018', 'FY2019'], [8, 4, 9])).toEqual([8, null, 9])
    expect(shown(['Q3', 'Q4', 'FY2018', 'Q1'], [2, 3, 9, 2], true)).toEqual([2, 3, null, 2])
    expect(shown(['Q4', 'FY2018', 'FY2019'], [null, 8, 9], true)).toEqual([null, 8, 9])
  })

  it('draws several companies on one axis of time, and never two currencies on one of amounts', () => {
    const later = {
      ...statement,
      columns: [
        { label: 'FY2023Q1', nominal_end: '2023-03-31', currency: 'EUR' },
        { label: 'FY2023Q2', nominal_end: '2023-06-30', currency: 'EUR' },
      ],
    } as unknown as Statement
    expect(drawn([statement, later], ['revenue'], 'mn')).toMatchObject({
      series: [],
      currencies: ['EUR', 'USD'],
    })
    const indexed = drawn([statement, later], ['revenue'], 'mn', true)
    expect(indexed.ends).toEqual(['2022-12-31', '2023-03-31', '2023-06-30'])
    expect(indexed.series.map((s) => s.values)).toEqual([
      [null, 100, null],
      [null, 100, 140],
    ])
  })

  it('adds up downwards: what is taken from its subtotal stands in brackets, and a part of a line in none', () => {
    const lines = [
      {
        item: 'revenue',
        sign: 1,
        of_which: false,
        indent: 0,
        unit: 'money',
        cells: [{ ...cell, value: 90e6 }],
      },
      {
        item: 'cost_of_revenue',
        sign: -1,
        of_which: false,
        indent: 1,
        unit: 'money',
        cells: [{ ...cell, value: 60e6 }],
      },
      {
        item: 'personnel',
        sign: 0,
        of_which: true,
        indent: 1,
        unit: 'money',
        cells: [{ ...cell, value: 20e6 }],
      },
    ]
    const of = { ...statement, columns: [statement.columns[0]], lines } as unknown as Statement
    const look = looksOf(of, 'mn', null)
    expect(rowsOf(of, null, null).map((row) => look(row, 0).text)).toEqual([
      '90.00',
      '(60.00)',
      '20.00',
    ])
    expect(rowsOf(of, null, null)[2]!.title).toMatch(/^of which /)
    expect(look(rowsOf(of, null, null)[1]!, 0).negative).toBe(false)
    const earlier = {
      ...of,
      lines: lines.map((l) => ({ ...l, cells: [{ ...cell, value: 60e6 }] })),
    } as unknown as Statement
    expect(rowsOf(of, null, null).map((row) => looksOf(of, 'mn', earlier)(row, 0).was)).toEqual([
      '60.00',
      undefined,
      '60.00',
    ])
  })

  it('puts a year behind its last quarter, and tells the two apart', () => {
    const at = (label: string, nominal_end: string) => ({ label, nominal_end, currency: 'EUR' })
    const years = {
      ...statement,
      columns: [at('FY2022', '2022-12-31')],
      lines: [{ ...statement.lines[0], cells: [{ ...cell, value: 4 }] }],
    }
    const quarters = {
      ...statement,
      columns: [at('FY2022Q4', '2022-12-31'), at('FY2023Q1', '2023-03-31')],
      lines: [
        {
          ...statement.lines[0],
          cells: [
            { ...cell, value: 1 },
            { ...cell, value: 2 },
          ],
        },
      ],
    }
    const both = together(years as unknown as Statement, quarters as unknown as Statement)
    expect(both.columns.map((c) => c.label)).toEqual(['FY2022Q4', 'FY2022', 'FY2023Q1'])
    expect(both.lines[0]!.cells.map((c) => c.value)).toEqual([1, 4, 2])
    expect(openFigure('revenue:2022-12-31.q:0', [both])!.column.expression).toBe('revenue.q')
    expect(openFigure('revenue:2022-12-31:0', [both])!.column.expression).toBe('revenue.fy')
  })

  it('opens the figure of its address, in the form of its frequency, and no other', () => {
    const key = figureKey(statement.lines[0]!, statement, 1, 0)
    expect(openFigure(key, [statement])).toMatchObject({
      column: { expression: 'revenue.ttm' },
      cell: { value: 7e6, currency: 'USD', period: 'FY2023Q1' },
    })
    expect(openFigure('employees:2023-03-31:0', [statement])!.column.expression).toBe('employees')
    for (const nowhere of [
      null,
      'revenue:2019-12-31:0',
      'cash:2023-03-31:0',
      'revenue:2023-03-31:4',
      'x',
    ]) {
      expect(openFigure(nowhere, [statement])).toBeNull()
    }
  })

  it('names a segment in short', () => expect(partOf('tvf:SegmentAxis=agk:Home')).toBe('Home'))
})

describe('a screen', () => {
  it('says who joined and left between two days, of one question only', () => {
    const before = screened('2023-01-31', ['A', 'B'])
    expect(moved(before, screened('2023-02-28', ['B', 'C']))).toBe('joined: C · left: A')
    expect(moved(before, screened('2023-02-28', ['B'], 'other'))).toBe('')
    expect(moved(null, before)).toBe('')
  })
})

describe('an instant', () => {
  it('at the end of a day is the day, since no time was given (T1)', () => {
    expect(instant('2024-03-31T23:59:59.999999Z')).toBe('31 Mar 2024')
    expect(instant('2024-03-31T06:30:00Z')).toBe('31 Mar 2024, 06:30 UTC')
  })
})
