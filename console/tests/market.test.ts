import { describe, expect, it } from 'vitest'

import type { Contribution, TradedCompany } from '../src/api/types'
import { columnName } from '../src/lists/state'
import { byHouse } from '../src/market/fan'
import { around, sorted } from '../src/market/sorting'

const said = (contributor: string, published_at: string, value: number | null, state: Contribution['state']): Contribution => ({
  contributor,
  published_at: `${published_at}T09:00:00Z`,
  value,
  state,
})

describe('the fan of contributions', () => {
  it('draws what stands at the beginning from there, to the end, and nothing after the actual', () => {
    const fan = byHouse(
      [
        said('A', '2023-12-01', 1, 'replaced'),
        said('A', '2023-12-20', 2, 'replaced'),
        said('A', '2024-02-01', 3, 'in'),
        said('B', '2024-01-15', 4, 'too old'),
        said('A', '2024-06-01', 9, 'after the actual'),
      ],
      '2024-01-01',
      '2024-05-01',
    )
    expect(fan).toEqual([
      ['A', [['2024-01-01', 2], ['2024-02-01', 3], ['2024-05-01', 3]]],
      ['B', [['2024-01-15', 4]]],
    ])
  })
})

describe('the market', () => {
  it('sorts by a column with what is missing last, either way', () => {
    const rows = [{ name: 'b', year: 2 }, { name: 'c', year: null }, { name: 'a', year: 5 }] as TradedCompany[]
    expect(sorted(rows, 'year').map((r) => r.name)).toEqual(['b', 'a', 'c'])
    expect(sorted(rows, '-year').map((r) => r.name)).toEqual(['a', 'b', 'c'])
    expect(sorted(rows, 'name').map((r) => r.name)).toEqual(['a', 'b', 'c'])
  })

  it('spans the days around one, over the end of a year', () => {
    expect(around('2024-12-31', 60)).toEqual({ start: '2024-11-01', end: '2025-03-01' })
  })
})

describe('a column', () => {
  it('is called by its name, or as it is written', () => {
    expect(columnName('pe: close / diluted_eps')).toBe('pe')
    expect(columnName(' net_income ')).toBe('net_income')
  })
})
