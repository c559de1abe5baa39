import { computed } from 'vue'

import type { Query } from '../api/http'
import { useAddress } from '../asking/address'
import { isDay } from '../time/days'
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

/**
 * What can be chosen, the first being what stands when nothing was; the names are those of the
 * API.
 */
export const CHOICES = {
  frequency: {
    annual: 'Years',
    both: 'Years and quarters',
    half: 'Halves',
    quarter: 'Quarters',
    trailing: 'Trailing 12 months',
    cumulative: 'Cumulative',
  },
  periods: { '8': 'Newest 8', '': 'All periods' },
  versions: { latest: 'Latest known', first: 'First reported' },
  figures: { normalised: 'Normalised', as_reported: 'As reported' },
  show: { amounts: 'Amounts', common_size: '% of total', growth: 'Growth, %' },
  lines: { filled: 'Lines with figures', template: 'Standard lines', all: 'All lines' },
  scale: { mn: 'Millions', bn: 'Billions', k: 'Thousands', units: 'Units' },
} satisfies Record<string, Record<string, string>>

export type Choice = keyof typeof CHOICES
export const AT_SIGHT: Choice[] = ['frequency', 'periods']
export const BEHIND: Choice[] = ['versions', 'figures', 'show', 'lines', 'scale']

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

  const hindsight = computed(() => one('hindsight') !== 'off')
  const compared = computed(() => (isDay(one('compare')) ? one('compare')! : null))

  function question(company: string): Query {
    const frequency = choice('frequency')
    return {
      company,
      known_on: knownOn.value,
      statement: tab.value === 'restatements' ? 'income' : tab.value,
      frequency: frequency === 'both' ? 'annual' : frequency,
      versions: choice('versions'),
      figures: choice('figures'),
      show: choice('show'),
      lines: choice('lines'),
      periods: choice('periods') || undefined,
      currency: one('currency'),
      basis: one('basis'),
      hindsight: hindsight.value,
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
    ratios: computed(() => one('ratios') === 'yes'),
    indexed: computed(() => one('indexed') === 'yes'),
    currency: computed(() => one('currency')),
    basis: computed(() => one('basis')),
    both: computed(() => choice('frequency') === 'both'),
    hindsight,
    compared,
    choice,
    question,
    set,
  }
}
