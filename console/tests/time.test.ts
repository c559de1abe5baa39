import { describe, expect, it } from 'vitest'

import { isDay, monthEnd, monthMarks, plusDays, stepMonth, upTo } from '../src/time/days'
import { stretch } from '../src/time/format'

/** Every so many days of sixty years, leap years and ends of months among them. */
const DAYS = Array.from({ length: 1_500 }, (_, n) => plusDays('1996-02-27', n * 13 + (n % 3)))

describe('days', () => {
  it('are counted in UTC, there and back', () => {
    expect(plusDays('2024-02-28', 1)).toBe('2024-02-29')
    expect(plusDays('2023-12-31', 1)).toBe('2024-01-01')
    for (const day of DAYS) expect(plusDays(plusDays(day, 400), -400)).toBe(day)
  })

  it('are days of the calendar and nothing else', () => {
    expect(DAYS.every(isDay)).toBe(true)
    for (const other of [
      '2023-02-29',
      '2023-13-01',
      '2023-00-10',
      '2023-1-1',
      '03/04/2024',
      '',
      20240101,
      null,
      ['2024-01-01'],
    ])
      expect(isDay(other)).toBe(false)
  })

  it('step to the ends of months, one after the other, none left out', () => {
    for (const day of DAYS) {
      const [before, after] = [stepMonth(day, -1), stepMonth(day, 1)]
      expect(before < day && day < after).toBe(true)
      for (const end of [before, after]) expect(plusDays(end, 1).endsWith('-01')).toBe(true)
      // what lies between is one month, or the end of one that stood between two
      expect(stepMonth(before, 1)).toBe(monthEnd(day, 0))
      expect([after, stepMonth(after, -1)]).toContain(monthEnd(day, 0))
    }
  })

  it('name a month of an axis once, in even steps, and never too many', () => {
    for (let from = 0; from < 1_400; from += 37) {
      for (const many of [1, 2, 30, 400]) {
        const days = DAYS.slice(from, from + many)
        const named = [...monthMarks(days)].map((n) => days[n]!.slice(0, 7))
        expect(named.length).toBeGreaterThan(0)
        expect(named.length).toBeLessThanOrEqual(12)
        expect(new Set(named).size).toBe(named.length)
        const months = named.map((m) => Number(m.slice(0, 4)) * 12 + Number(m.slice(5)))
        const steps = months.slice(1).map((m, n) => m - months[n]!)
        expect(new Set(steps).size).toBeLessThanOrEqual(1)
      }
    }
    expect(monthMarks([]).size).toBe(0)
  })

  it('stretch from one to another, or are open', () => {
    expect(stretch('2020-01-01', '2021-12-31')).toBe('1 Jan 2020 – 31 Dec 2021')
    expect(stretch('2020-01-01', null)).toBe('since 1 Jan 2020')
    expect(stretch(null, '2021-12-31')).toBe('until 31 Dec 2021')
    expect(stretch(null, null)).toBe('always')
  })

  it('never pass the last one there is', () => {
    expect(upTo('2024-06-30', '2024-07-01')).toBe('2024-06-30')
    expect(upTo('2024-06-30', '2024-06-29')).toBe('2024-06-29')
    for (const odd of [undefined, '', 'today', '2024-02-30', ['2023-01-01', '2023-02-01']])
      expect(upTo('2024-06-30', odd)).toBe('2024-06-30')
  })
})
