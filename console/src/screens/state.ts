import { computed } from 'vue'
import { type LocationQueryRaw, useRoute, useRouter } from 'vue-router'

import type { Verdict } from '../api/types'
import { FIRST_RULE } from '../router'

export interface Opened {
  company: string
  column: number
}

function text(value: unknown): string | undefined {
  return typeof value === 'string' && value !== '' ? value : undefined
}

/** What the screen page shows, all of it in the address: rule, list, verdict shown, figure opened, hindsight. */
export function useScreenState() {
  const route = useRoute()
  const router = useRouter()

  function set(values: LocationQueryRaw): void {
    void router.push({ query: { ...route.query, ...values } })
  }

  const rule = computed(() => text(route.query.rule) ?? FIRST_RULE)
  const list = computed(() => text(route.query.list))
  const show = computed<Verdict>(() => {
    const asked = route.query.show
    return asked === 'fail' || asked === 'unknown' ? asked : 'pass'
  })
  const currency = computed(() => text(route.query.currency))
  const hindsight = computed(() => route.query.hindsight !== 'off')
  const opened = computed<Opened | null>(() => {
    const [company, column] = (text(route.query.figure) ?? '').split(':')
    return company ? { company, column: Number(column ?? 0) || 0 } : null
  })

  return {
    rule,
    list,
    show,
    hindsight,
    currency,
    opened,
    setRule: (value: string) => set({ rule: value, figure: undefined }),
    setList: (value: string) => set({ list: value, figure: undefined }),
    setShow: (value: Verdict) => set({ show: value === 'pass' ? undefined : value }),
    setCurrency: (value: string | undefined) => set({ currency: value }),
    setHindsight: (value: boolean) => set({ hindsight: value ? undefined : 'off' }),
    open: (value: Opened | null) => set({ figure: value ? `${value.company}:${value.column}` : undefined }),
  }
}
