import { computed } from 'vue'

import { useAddress } from '../asking/address'
import { useStamp } from '../time/stamp'

/** What the lists page shows, all of it in the address: list, filter, columns, the figure opened. */
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
    currency: computed(() => one('currency')),
    opened: computed(() => {
      const [row, column] = (one('figure') ?? '').split(':')
      return row && column ? { row, column } : null
    }),
  }
}
