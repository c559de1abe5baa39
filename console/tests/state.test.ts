import { beforeEach, describe, expect, it, vi } from 'vitest'

import type { ListChange, ListInfo, ListMembers } from '../src/api/types'
import { createMemoryHistory, createRouter, type Router } from 'vue-router'

let router: Router
vi.mock('vue-router', async (whole) => ({
  ...(await whole<typeof import('vue-router')>()),
  useRouter: () => router,
  useRoute: () => ({
    get query() {
      return router.currentRoute.value.query
    },
  }),
}))
const { useAddress } = await import('../src/asking/address')
const { keptBy, memberRows, takenBack } = await import('../src/lists/members')
const { columnName, useListState } = await import('../src/lists/state')
const { useScreenState } = await import('../src/screens/state')
const { CHOICES, useStatementState } = await import('../src/statements/state')

const settled = (): Promise<void> => new Promise((soon) => setTimeout(soon, 20))
const at = async (query: Record<string, string | string[]>): Promise<void> =>
  void (await router.replace({ query }))

beforeEach(async () => {
  router = createRouter({ history: createMemoryHistory(), routes: [{ path: '/', component: {} }] })
  await router.push('/')
})

describe('the address', () => {
  it('takes what several write at once, and a step among them stays a step', async () => {
    const { set, coming, one } = useAddress()
    const went = vi.spyOn(router, 'push')
    set({ list: 'first-look' }, true)
    set({ rule: 'revenue > 0' })
    set({ sort: '-revenue', list: undefined }, true)
    expect(coming('rule')).toBe('revenue > 0')
    await settled()
    expect(router.currentRoute.value.query).toEqual({ rule: 'revenue > 0', sort: '-revenue' })
    expect(one('list')).toBeUndefined()
    expect(went).toHaveBeenCalled()
  })
})

describe('a screen in its address', () => {
  it('reads what was set, and what stands when nothing was is not written', async () => {
    const state = useScreenState()
    const odd = 'close / eps > 3 and name != "a & b = c?#"'
    state.setRule(odd)
    state.setColumns(['m: revenue', 'a,b'])
    state.open({ company: 'co-000001', column: 3 })
    state.setShow('unknown')
    state.setHindsight(false)
    await settled()
    expect([
      state.rule.value,
      state.columns.value,
      state.opened.value,
      state.show.value,
      state.hindsight.value,
    ]).toEqual([odd, ['m: revenue', 'a,b'], { company: 'co-000001', column: 3 }, 'unknown', false])
    state.setShow('pass')
    state.setHindsight(true)
    state.setList('first-look') // the figure that was open is of another table
    await settled()
    expect(Object.keys(router.currentRoute.value.query).sort()).toEqual(['column', 'list', 'rule'])
    expect(state.opened.value).toBeNull()
  })

  it('takes what nobody offers for what stands first', async () => {
    await at({ show: 'everything', figure: 'co-1:x' })
    expect(useScreenState().show.value).toBe('pass')
    expect(useScreenState().opened.value).toEqual({ company: 'co-1', column: 0 })
  })
})

describe('a list in its address', () => {
  it('is read again after so many minutes of a day, whatever stands there', async () => {
    for (const [text, minutes] of [
      ['5', 5],
      ['2.6', 3],
      ['-3', 0],
      ['1e9', 1440],
      ['soon', 0],
      ['NaN', 0],
      ['', 0],
    ] as const) {
      await at({ every: text })
      expect(useListState().every.value).toBe(minutes)
    }
  })

  it('has a figure open where row and column are said', async () => {
    for (const [text, opened] of [
      ['a:2', { row: 'a', column: '2' }],
      ['a', null],
      [':2', null],
      ['', null],
    ] as const) {
      await at({ figure: text })
      expect(useListState().opened.value).toEqual(opened)
    }
    expect([' pe : close / eps', 'close / eps', 'Pe: x', 'pe:'].map(columnName)).toEqual([
      'pe',
      'close / eps',
      'Pe: x',
      'pe:',
    ])
  })
})

describe('a change of a list', () => {
  const members = [{ id: 'co-1', name: 'Amber' }]

  it('is taken back where something was lost by it', () => {
    const undone = (asked: ListChange) => takenBack('mine', 'My list', members, asked)
    expect(undone({ add: ['co-1'] })).toBeNull()
    expect(undone({ remove: ['co-1', 'co-2'] })).toEqual({
      words: 'Amber, co-2 removed.',
      list: 'mine',
      back: { add: ['co-1', 'co-2'] },
    })
    expect(undone({ archived: true })?.back).toEqual({ archived: false })
    expect(undone({ archived: false })?.words).toBe('My list is back.')
  })

  it('is said by whom it may be made', () => {
    const list = { rule: null, kept_by: null } as ListInfo
    expect(keptBy(list)).toBe('Kept by hand.')
    expect(keptBy({ ...list, rule: 'pe < 10', kept_by: 'me' })).toBe('Kept by a rule.')
    expect(keptBy({ ...list, kept_by: 'Fernmark' })).toContain('Fernmark: copy it')
  })

  it('leaves rows to take away: every figure with its currency, period and reason', () => {
    const cells = [
      { value: 1.5, currency: 'EUR', period: 'FY2023', reason: null },
      { value: null, currency: null, period: null, reason: 'stale' },
    ]
    const of = {
      columns: [{ name: 'a' }, { name: 'b' }],
      members: [{ ...members[0], listings: [{ symbol: 'AMB', mic: 'ZALD' }], cells }],
    } as unknown as ListMembers
    const [heads, row] = memberRows(of)
    expect(Object.fromEntries(heads!.map((head, n) => [head, row![n]]))).toMatchObject({
      company: 'co-1',
      listing: 'AMB@ZALD',
      weight: '',
      a: 1.5,
      'a currency': 'EUR',
      'a period': 'FY2023',
      'a reason': '',
      b: '',
      'b reason': 'stale',
    })
    expect(row).toHaveLength(heads!.length)
  })
})

describe('a statement in its address', () => {
  it('asks what is chosen, by the names of the API, and the first of each choice when nothing was', async () => {
    const state = useStatementState()
    const first = state.question('AGK@ZALD')
    expect(first).toMatchObject({
      frequency: 'annual',
      versions: 'latest',
      figures: 'normalised',
      show: 'amounts',
      lines: 'filled',
      periods: '8',
    })
    for (const [name, choices] of Object.entries(CHOICES)) {
      if (name === 'scale') continue // of the page alone
      for (const value of Object.keys(choices)) {
        await at({ [name]: value })
        const asked = state.question('AGK@ZALD')
        expect({ ...first, [name]: value === 'both' ? 'annual' : value || undefined }).toEqual(
          asked,
        )
      }
    }
  })

  it('compares with a day of the calendar and nothing else, and draws several items', async () => {
    for (const [text, day] of [
      ['2023-12-31', '2023-12-31'],
      ['2023-02-30', null],
      ['yesterday', null],
    ] as const) {
      await at({ compare: text, draw: 'revenue,,net_income' })
      expect(useStatementState().compared.value).toBe(day)
      expect(useStatementState().chosen.value).toEqual(['revenue', 'net_income'])
    }
    await at({ statement: 'restatements' })
    expect(useStatementState().question('AGK@ZALD').statement).toBe('income')
  })
})
