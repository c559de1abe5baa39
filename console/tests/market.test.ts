import { describe, expect, it } from 'vitest'

import type { Contribution, TradedCompany } from '../src/api/types'
import { inOrder } from '../src/figures/sorting'
import { columnName } from '../src/lists/state'
import { amount, amountIn } from '../src/market/amounts'
import { byHouse } from '../src/market/fan'
import { rebased, yearsBefore } from '../src/market/rebased'
import { around, sorted } from '../src/market/sorting'
import { countsOf, GROUPS, groupOf } from '../src/matching/outcomes'

const said = (
  contributor: string,
  published_at: string,
  value: number | null,
  state: Contribution['state'],
): Contribution => ({
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
      [
        'A',
        [
          ['2024-01-01', 2],
          ['2024-02-01', 3],
          ['2024-05-01', 3],
        ],
      ],
      ['B', [['2024-01-15', 4]]],
    ])
  })
})

describe('the market', () => {
  it('sorts by a column with what is missing last, either way', () => {
    const rows = [
      { name: 'b', year: 2 },
      { name: 'c', year: null },
      { name: 'a', year: 5 },
    ] as TradedCompany[]
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

describe('amounts that are estimated', () => {
  it("are a share's to three decimals, money in millions, and what is below nothing in brackets", () => {
    expect([amount(1.23456, 'money_per_share'), amountIn('money_per_share', 'EUR')]).toEqual([
      '1.235',
      'EUR a share',
    ])
    expect([amount(-12_340_000, 'money'), amountIn('money', null)]).toEqual(['(12.3)', 'mn'])
    expect(amount(null, 'money')).toBe('')
  })
})

describe('a series laid beside another', () => {
  const on = (...values: (number | null)[]) =>
    values.map((value, n) => ({ date: `2024-01-0${n + 1}`, value }))

  it('meets it on their first common day, with the last value known by each', () => {
    expect(rebased(on(10, 11, 12), on(200, 210))).toEqual([10, 10.5, 10.5])
    expect(rebased(on(null, 11, 12), on(100, 100, 200))).toEqual([null, 11, 22])
    expect(rebased(on(10, 11), [{ date: '2024-01-02', value: 5 }])).toEqual([null, 11])
  })

  it('is never endless, whatever it begins with', () => {
    for (const value of rebased(on(10, 11, 12), on(0, null, 4)))
      expect(value === null || Number.isFinite(value)).toBe(true)
    expect(rebased(on(10), [])).toEqual([null])
  })

  it('goes back whole years, to the end of February in those that are shorter', () => {
    expect([
      yearsBefore('2024-02-29', 1),
      yearsBefore('2024-02-29', 4),
      yearsBefore('2024-06-30', 0),
    ]).toEqual(['2023-02-28', '2020-02-29', undefined])
  })
})

describe('rows in an order', () => {
  it('have what is missing last either way, and equals as they were', () => {
    const rows = [
      { n: 2, id: 'a' },
      { n: null, id: 'b' },
      { n: 1, id: 'c' },
      { n: 2, id: 'd' },
    ]
    const by = (name?: string) =>
      inOrder(rows, name, (row) => row.n)
        .map((row) => row.id)
        .join('')
    expect([by('n'), by('-n'), by()]).toEqual(['cadb', 'adcb', 'abcd'])
  })
})

describe('what became of a term', () => {
  it('is to be settled where somebody may be meant, and every row is in one group', () => {
    const candidate = [{}] as never[]
    expect(groupOf({ outcome: 'not_found', candidates: candidate })).toBe('to_settle')
    expect(groupOf({ outcome: 'not_found', candidates: [] })).toBe('not_found')
    expect(groupOf({ outcome: 'ambiguous', candidates: [] })).toBe('to_settle')
    const rows = (['matched', 'renamed', 'inactive', 'invalid', 'ambiguous'] as const).map(
      (outcome) => ({ outcome, candidates: [] }),
    )
    const counts = countsOf({ rows } as never)
    expect(GROUPS.reduce((sum, group) => sum + counts[group], 0)).toBe(rows.length)
    expect(countsOf(null).matched).toBe(0)
  })
})
