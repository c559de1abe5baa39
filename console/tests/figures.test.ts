import { describe, expect, it } from 'vitest'

import { separated } from '../src/figures/charting'
import { locate } from '../src/figures/locate'
import { look, type ShownCell } from '../src/figures/look'
import {
  bracketed,
  counted,
  currencyOf,
  eachCounted,
  figure,
  headingScale,
  unitOf,
} from '../src/figures/numbers'
import { step } from '../src/figures/steps'

const plain: ShownCell = {
  value: 1_500_000,
  reason: null,
  currency: null,
  marks: [],
  restated: false,
  restated_later: false,
  known_at: null,
}

describe('a figure', () => {
  it('is in a scale, with brackets when negative and a percent sign left to its head', () => {
    expect(figure(1_234_567_890, 'money', false)).toBe('1,234.6')
    expect(figure(-1_234_567_890, 'money', false, 'bn')).toBe('(1.235)')
    expect(figure(1234, 'money', false, 'units')).toBe('1,234')
    expect(figure(-0.0567, 'pure', true)).toBe('(5.7)')
    expect(figure(2.5, 'money_per_share', false)).toBe('2.50')
    expect(figure(12, 'count', false)).toBe('12')
    expect(figure('bank', 'text', false)).toBe('bank')
    expect(bracketed(1_000_000, 2, 0)).toBe('1,000,000')
  })

  it('has its unit beside it or in the head of its column', () => {
    expect(unitOf('money', false, 'EUR')).toBe('EUR mn')
    expect(unitOf('money_per_share', false, 'EUR')).toBe('EUR')
    expect(unitOf('pure', true, null)).toBe('%')
    expect(headingScale({ unit: 'shares', percent: false })).toBe('mn shares')
  })

  it('is counted with its noun, one or many', () => {
    const nouns = ['company', 'new row', 'batch', 'index', 'series', 'day', 'kept document']
    expect(nouns.map((noun) => counted(1, noun))).toEqual(nouns.map((noun) => `1 ${noun}`))
    const many = ['companies', 'new rows', 'batches', 'indexes', 'series', 'days', 'kept documents']
    expect(nouns.map((noun) => counted(2_014, noun))).toEqual(many.map((noun) => `2,014 ${noun}`))
    expect(eachCounted(Object.fromEntries(many.map((noun) => [noun, 1])))).toBe(
      nouns.map((noun) => `1 ${noun}`).join(', '),
    )
  })

  it('says its currency where its row has several (M2)', () => {
    const [eur, yen] = [
      { ...plain, currency: 'EUR' },
      { ...plain, currency: 'JPY' },
    ]
    expect([currencyOf([plain, eur]), currencyOf([plain]), currencyOf([eur, yen])]).toEqual([
      'EUR',
      '',
      'several',
    ])
    const reading = { unit: 'money', percent: false, currency: currencyOf([eur, yen, plain]) }
    expect([eur, yen, plain].map((cell) => look(cell, reading).currency)).toEqual([
      'EUR',
      'JPY',
      '',
    ])
    expect(look(yen, { ...reading, currency: 'JPY' }).currency).toBe('')
  })

  it('that is missing says why, with the template that has no such line (N)', () => {
    const missing = look(
      { ...plain, value: null, reason: 'not_applicable' },
      { unit: 'money', percent: false, template: 'bank' },
    )
    expect(missing).toMatchObject({ text: 'n/a bank', missing: true, negative: false })
    expect(look({ ...plain, value: 'bank' }, { unit: 'text', percent: false })).toMatchObject({
      text: 'bank',
      words: true,
    })
    expect(missing.about).toContain('no such line')
  })

  it('is either restated or restated later, and says so (T9: later only with hindsight)', () => {
    const reading = { unit: 'money', percent: false }
    expect(look({ ...plain, restated: true, restated_later: true }, reading)).toMatchObject({
      restated: true,
      later: false,
    })
    expect(look({ ...plain, restated_later: true }, reading)).toMatchObject({
      restated: false,
      later: true,
    })
    expect(look({ ...plain, restated_later: null }, reading).later).toBe(false)
    expect(look({ ...plain, marks: ['flagged'], flags: ['scale'] }, reading)).toMatchObject({
      flagged: true,
    })
  })
})

describe('the table', () => {
  it('moves by arrows and leaves every other key alone', () => {
    expect(step('2:3', 'ArrowUp', 9, 5)[0]).toBe('1:3')
    expect(step('2:3', 'ArrowRight', 9, 5)[0]).toBe('2:4')
    expect(step('2:3', 'Home', 9, 5)[0]).toBe('2:-1') // what stands before the figures, else the first of them
    expect(step('2:3', 'End', 9, 5).slice(0, 2)).toEqual(['2:5', '2:4'])
    expect(step('2:3', 'PageDown', 9, 5)[0]).toBe('8:3')
    expect(step('8:3', 'ArrowDown', 9, 5)).toEqual([])
    expect(step('2:3', 'Enter', 9, 5)).toEqual([])
  })
})

describe('the place of a figure in its document', () => {
  const text = '{"facts": [{"a": 1}, {"b": 2}]}'
  it('is the object that the pointer counts to', () => {
    const found = locate(text, '/facts/1')
    expect(text.slice(...found!)).toBe('{"b": 2}')
  })
  it('is nowhere for a pointer that leads nowhere', () => {
    expect(locate(text, '/facts/7')).toBeNull()
    expect(locate(text, '/others/0')).toBeNull()
    expect(locate(text, '')).toBeNull()
  })
})

describe('a table to take away', () => {
  it('has text that a spreadsheet would reckon with as text, numbers as they are, and quotes where they are needed', () => {
    const rows = [
      ['=1+1', '-Co', '@x', '\tx'],
      [-1.5, 'a,b', 'say "so"', 'plain'],
    ]
    expect(separated(rows)).toBe(`'=1+1,'-Co,'@x,'\tx\n-1.5,"a,b","say ""so""",plain`)
  })
})
