import { describe, expect, it } from 'vitest'

import type { ScreenAnswer, Statement } from '../src/api/types'
import { moved } from '../src/screens/moved'
import { figureKey, openFigure, partOf } from '../src/statements/open'
import { comparable, drawn } from '../src/statements/trend'
import { instant } from '../src/time/format'

const cell = { value: 1, reason: null, marks: [], formed: false, restated: false, restated_later: null, known_at: null, flags: [] }
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
    { item: 'revenue', title: 'Revenue', unit: 'money', nature: 'flow', cells: [{ ...cell, value: 5e6 }, { ...cell, value: 7e6 }] },
    { item: 'employees', title: 'Employees', unit: 'count', nature: 'level', cells: [cell, { ...cell, value: 3 }] },
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
    expect(drawn([statement], ['revenue', 'nothing'], 'mn')).toEqual([{ name: 'Revenue', values: [null, 7] }])
    expect(drawn([statement, statement], ['employees'], 'mn')[0]!.name).toBe('Ashgrove Kilnworks, Employees')
  })

  it('opens the figure of its address, in the form of its frequency, and no other', () => {
    const key = figureKey(statement.lines[0]!, statement, 1, 0)
    expect(openFigure(key, [statement])).toMatchObject({
      column: { expression: 'revenue.ttm' },
      cell: { value: 7e6, currency: 'USD', period: 'FY2023Q1' },
    })
    expect(openFigure('employees:2023-03-31:0', [statement])!.column.expression).toBe('employees')
    for (const nowhere of [null, 'revenue:2019-12-31:0', 'cash:2023-03-31:0', 'revenue:2023-03-31:4', 'x']) {
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
