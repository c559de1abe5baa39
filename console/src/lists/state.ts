import { computed } from 'vue'

import { useAddress } from '../asking/address'
import { useStamp } from '../time/stamp'

/**
 * What the lists page shows, all of it in the address: list, filter, columns, the figure opened.
 */
export function useListState() {
  const { route, router, one, several, set } = useAddress()
  const { knownOn } = useStamp()
  return {
    route,
    router,
    set,
    knownOn,
    list: computed(() => one('list')),
    archived: computed(() => one('archived') === 'yes'),
    history: computed(() => one('view') === 'history'),
    where: computed(() => one('where')),
    show: computed(() => several('show')),
    sort: computed(() => one('sort')),
    currency: computed(() => one('currency')),
    every: computed(() => Math.min(1440, Math.max(0, Math.round(Number(one('every') ?? 0)) || 0))),
    opened: computed(() => {
      const [row, column] = (one('figure') ?? '').split(':')
      return row && column ? { row, column } : null
    }),
  }
}

/**
 * What a column is called: `pe: close / diluted_eps` is pe, an expression alone is called as it is
 * written.
 */
export function columnName(shown: string): string {
  return /^\s*([a-z][a-z0-9_]*)\s*:\s*\S/.exec(shown)?.[1] ?? shown.trim()
}
