import { describe, expect, it } from 'vitest'

import type { PanelAnswer } from '../src/api/types'
import { bins, coverage, quantile, valuesOn } from '../src/measures/lies'
import { completed, placeOf, wordAt } from '../src/measures/words'

describe('completing a word of an expression', () => {
  it('takes the word that ends at the caret, and none inside another', () => {
    expect(wordAt('net_in / rev', 12)).toBe('rev')
    expect(wordAt('net_in / rev', 3)).toBe('')
    expect(wordAt('5 + ', 4)).toBe('')
    expect(completed('2 * rev > 1', 7, 'revenue')).toEqual({ text: '2 * revenue > 1', caret: 11 })
  })
  it('finds the place of a mistake by line and column', () => {
    const problem = { at: 'line 2, column 3', value: 'revnue', problem: '', mend: '', line: '' }
    expect(placeOf('1 +\n  revnue', problem)).toEqual({ begin: 6, end: 12 })
    expect(placeOf('x', { ...problem, at: 'expressions' })).toBeNull()
  })
})

describe('how values lie', () => {
  const row = (date: string, m: number | null) => ({
    date,
    m,
    'm.reason': m === null ? 'stale' : null,
  })
  const answer = {
    records: [row('2020-12-31', 1), row('2020-12-31', null), row('2021-12-31', 3)],
  } as unknown as PanelAnswer
  it('counts what is filled by date, and the reasons of the rest', () => {
    expect(coverage(answer, 'm')).toEqual([
      { date: '2020-12-31', filled: 1, all: 2 },
      { date: '2021-12-31', filled: 1, all: 1 },
    ])
    expect(valuesOn(answer, 'm', '2020-12-31')).toEqual({ values: [1], reasons: [['stale', 1]] })
  })
  it('has quantiles between values, and bins of the middle nine tenths', () => {
    expect(quantile([1, 2, 3, 4], 0.5)).toBe(2.5)
    const made = bins([...Array(101).keys()], 10)
    expect(made.reduce((n, b) => n + b.n, 0)).toBe(91)
    expect(bins([])).toEqual([])
    expect(bins([2, 2]).reduce((n, b) => n + b.n, 0)).toBe(2)
  })
})
