import { describe, expect, it } from 'vitest'

import {
  common,
  decimals,
  keyOfAll,
  readSeries,
  distinctParts,
  unitOfLine,
  wholly,
  written,
} from '../src/series/state'

describe('a sheet of series', () => {
  it('stands in the address as it is read', () => {
    for (const text of ['CPI/M.XA.00', 'CPI/M.*.00|quarterly mean, growth on a year ago'])
      expect(written(readSeries(text))).toBe(text)
    expect(readSeries('CPI/M.XA|log').transforms).toEqual(['log'])
    // and as it was kept, whatever it is called
    for (const title of ['', 'Prices at home', 'a | b', ' '])
      for (const transforms of [[], ['log'], ['quarterly mean', 'growth on a year ago']]) {
        const kept = { key: 'CPI/M.XA.00', title, transforms }
        expect(readSeries(written(kept))).toEqual(kept)
      }
  })

  it('takes a family as one key only where the key stands for these and no others', () => {
    expect(keyOfAll(['H/M.R1.SA', 'H/M.R2.SA'])).toBe('H/M.R1+R2.SA')
    expect(keyOfAll(['H/M.R1.SA', 'H/M.R2.NSA'])).toBeNull()
    expect(keyOfAll(['H/M.R1.SA', 'P/M.R2.SA'])).toBeNull()
    expect(keyOfAll(['PLAIN'])).toBeNull()
  })

  it('says * for a part that names every code that there is', () => {
    const dimensions = [{ codes: ['M'] }, { codes: ['R1', 'R2'] }, { codes: ['SA', 'NSA', 'T'] }]
    expect(wholly('H/M.R1+R2.SA+NSA', dimensions)).toBe('H/M.*.SA+NSA')
    expect(wholly('H/M.R1.SA', dimensions)).toBe('H/M.R1.SA')
  })

  it('keeps series apart by the parts of their titles that differ', () => {
    const titles = ['House prices, Isken, adjusted', 'House prices, Lindle, adjusted']
    expect(distinctParts(titles)).toEqual(['Isken', 'Lindle'])
    expect(common(titles)).toBe('House prices, adjusted')
    expect(distinctParts(['One title, alone'])).toEqual(['One title, alone'])
  })

  it('says what a line is stated in, with one precision', () => {
    const line = { unit: 'index', base: '2015=100', percent: false, head: 'level' }
    expect(unitOfLine(line)).toBe('2015=100')
    expect(unitOfLine({ ...line, percent: true, head: 'growth on a year ago' })).toBe('%')
    expect(unitOfLine({ ...line, head: 'rebased to 2020' })).toBe('index')
    expect([
      decimals([123_456.7], false),
      decimals([12.3], false),
      decimals([0.5, null], false),
    ]).toEqual([0, 2, 3])
  })
})
