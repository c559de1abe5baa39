import { computed } from 'vue'

import type { Query } from '../api/http'
import { useAddress } from '../asking/address'
import { useStamp } from '../time/stamp'

export const TABS = {
  income: 'Income',
  balance: 'Balance sheet',
  cash_flow: 'Cash flow',
  per_share: 'Per share',
  share_count: 'Shares',
  other: 'Other',
  restatements: 'Restatements',
}

/** What can be chosen, the first being what stands when nothing was; the names are those of the API. */
export const CHOICES = {
  frequency: {
    annual: 'Years',
    half: 'Halves',
    quarter: 'Quarters',
    trailing: 'Trailing 12 months',
    cumulative: 'Cumulative',
  },
  versions: { latest: 'Latest known', first: 'First reported' },
  figures: { normalised: 'Normalised', as_reported: 'As reported' },
  show: { amounts: 'Amounts', common_size: '% of total', growth: 'Growth, %' },
  lines: { filled: 'Filled lines', template: 'Its template', all: 'All lines' },
  periods: { '8': 'Newest 8', '': 'All periods' },
  scale: { mn: 'Millions', bn: 'Billions', k: 'Thousands', units: 'Units' },
} satisfies Record<string, Record<string, string>>

export type Choice = keyof typeof CHOICES

/** What the statements page shows, all of it in the address. */
export function useStatementState() {
  const { route, router, one, set } = useAddress()
  const { knownOn } = useStamp()
  const companies = computed(() => (one('company') ?? '').split(',').filter(Boolean))
  const tab = computed(() => one('statement') ?? 'income')

  function choice(name: Choice): string {
    // For periods nothing given and given as nothing are two things: the newest eight, and all.
    if (name === 'periods' && route.query.periods === '') return ''
    return one(name) ?? (name === 'periods' ? '8' : Object.keys(CHOICES[name])[0]!)
  }

  function question(company: string): Query {
    return {
      company,
      known_on: knownOn.value,
      statement: tab.value === 'restatements' ? 'income' : tab.value,
      frequency: choice('frequency'),
      versions: choice('versions'),
      figures: choice('figures'),
      show: choice('show'),
      lines: choice('lines'),
      periods: choice('periods') || undefined,
      currency: one('currency'),
      basis: one('basis'),
      hindsight: true,
    }
  }

  return {
    router,
    route,
    knownOn,
    companies,
    tab,
    chosen: computed(() => (one('draw') ?? '').split(',').filter(Boolean)),
    opened: computed(() => one('figure') ?? null),
    transposed: computed(() => one('transposed') === 'yes'),
    calendar: computed(() => one('calendar') === 'yes'),
    currency: computed(() => one('currency')),
    basis: computed(() => one('basis')),
    choice,
    question,
    set,
  }
}
