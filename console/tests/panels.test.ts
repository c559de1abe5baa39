import { describe, expect, it } from 'vitest'

import type { PanelQuestion } from '../src/api/panels'
import type { PanelRequest, QuestionInfo } from '../src/api/types'
import { addressOf, datesUpTo, FREQUENCIES, partsOf, questionOf } from '../src/panels/state'

type Query = Record<string, string | string[] | undefined>

const read = (query: Query) => ({
  one: (name: string) => [query[name]].flat()[0],
  several: (name: string) => [query[name] ?? []].flat(),
})
const ask = (query: Query): PanelQuestion | null => questionOf(read(query), '2024-06-30')

/** Every way in which the parts of a question may be there or not. */
const PARTS: Query[] = [
  { co: ['AGK@ZALD', 'DMB@ZALD'] },
  { list: 'first-look' },
  { periods: 'FY2020/FY2023' },
  { dates: ['2020-01-01/2022-12-31 monthly', '2023-12-31'] },
  { where: 'revenue > 1mn EUR', lag: '30' },
  { close: 'on', first: 'on' },
  { ahead: ['total 3mo', 'price 1y'], currency: 'EUR' },
  { leave: ['assumed', 'mixed_basis'], batch: '7' },
]

describe('a panel in an address', () => {
  it('asks nothing without a column', () => {
    expect(ask({ list: 'first-look' })).toBeNull()
  })

  it('is of companies before a list, by periods before dates, and over ten years without either', () => {
    const asked = ask({
      c: 'revenue',
      co: 'AGK@ZALD',
      list: 'x',
      periods: 'FY2023',
      dates: '2023-12-31',
    })
    expect([asked?.companies, asked?.list, asked?.periods, asked?.dates]).toEqual([
      ['AGK@ZALD'],
      undefined,
      'FY2023',
      undefined,
    ])
    expect(ask({ c: 'revenue' })?.dates).toEqual(['2015-01-01/2024-06-30 yearly'])
  })

  it('says all that can be asked but how it is laid out', () => {
    const all: Record<Exclude<keyof PanelRequest, 'beside' | 'layout' | 'hindsight'>, unknown> = {
      expressions: 0,
      known_on: 0,
      list: 0,
      companies: 0,
      dates: 0,
      periods: 0,
      where: 0,
      lag: 0,
      at_close: 0,
      first_reported: 0,
      ahead: 0,
      currency: 0,
      leave_out: 0,
      recorded_by: 0,
    }
    const asked = ask(Object.assign({ c: 'revenue' }, ...PARTS) as Query)!
    expect(Object.keys(asked).sort()).toEqual(Object.keys(all).sort())
  })

  it('is the same question after it was kept and opened again', () => {
    for (let some = 0; some < 1 << PARTS.length; some++) {
      const query = PARTS.reduce<Query>(
        (all, part, n) => ((some >> n) & 1 ? { ...all, ...part } : all),
        { c: ['revenue', 'm: net_margin'] },
      )
      const asked = ask(query)!
      const kept = { name: 'kept', question: asked } as unknown as QuestionInfo
      expect(ask(addressOf(kept) as Query)).toEqual(asked)
    }
  })

  it('is as known at an instant while the stamp stands on its day', () => {
    const kept = {
      name: 'kept',
      question: { expressions: ['revenue'], known_on: '2024-06-29T23:30:00-02:00' },
    } as unknown as QuestionInfo
    const opened = addressOf(kept) as Query
    expect(opened.known_on).toBe('2024-06-30')
    expect(ask(opened)?.known_on).toBe('2024-06-29T23:30:00-02:00')
    expect(questionOf(read(opened), '2024-07-31')?.known_on).toBe('2024-07-31')
    expect(ask({ c: 'revenue', at: 'nonsense' })?.known_on).toBe('2024-06-30')
  })

  it('takes apart the ranges that it offers, and no other', () => {
    for (const every of FREQUENCIES)
      expect(partsOf(`2020-01-01/2023-12-31 ${every}`)).toEqual({
        from: '2020-01-01',
        to: '2023-12-31',
        every,
      })
    expect(partsOf(datesUpTo('2024-06-30'))?.every).toBe('yearly')
    for (const other of ['2023-12-31', '2020/2023 yearly', '2020-01-01/2023-12-31', ''])
      expect(partsOf(other)).toBeNull()
  })
})
