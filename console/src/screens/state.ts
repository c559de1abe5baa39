import { computed } from 'vue'

import type { Verdict } from '../api/types'
import { useAddress } from '../asking/address'

export const FIRST_RULE = 'operating_income / revenue > 15%'

/** The figure opened: whose, and which column of the answer. */
export interface Opened {
  company: string
  column: number
}

/**
 * What the screen page shows, all of it in the address: rule, list, verdict shown, figure opened,
 * hindsight.
 */
export function useScreenState() {
  const { one, several, set } = useAddress()

  const rule = computed(() => one('rule') ?? FIRST_RULE)
  const list = computed(() => one('list'))
  const show = computed<Verdict>(() => {
    const asked = one('show')
    return asked === 'fail' || asked === 'unknown' ? asked : 'pass'
  })
  const currency = computed(() => one('currency'))
  const hindsight = computed(() => one('hindsight') !== 'off')
  const opened = computed<Opened | null>(() => {
    const [company, column] = (one('figure') ?? '').split(':')
    return company ? { company, column: Number(column ?? 0) || 0 } : null
  })

  return {
    rule,
    list,
    show,
    hindsight,
    currency,
    opened,
    columns: computed(() => several('column')),
    sort: computed(() => one('sort')),
    setColumns: (value: string[]) => set({ column: value, figure: undefined }),
    setSort: (value: string | undefined) => set({ sort: value }, true),
    settleList: (value: string) => set({ list: value }, true),
    setRule: (value: string) => set({ rule: value, figure: undefined }),
    setList: (value: string) => set({ list: value, figure: undefined }),
    setShow: (value: Verdict) => set({ show: value === 'pass' ? undefined : value }),
    setCurrency: (value: string | undefined) => set({ currency: value }),
    setHindsight: (value: boolean) => set({ hindsight: value ? undefined : 'off' }),
    open: (value: Opened | null) =>
      set({ figure: value ? `${value.company}:${value.column}` : undefined }),
  }
}
