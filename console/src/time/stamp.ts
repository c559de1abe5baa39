import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { useAddress } from '../asking/address'
import { today, upTo } from './days'

/**
 * The date stamp: the cut-off of every page, kept in the address so that a view can be sent to a
 * colleague.
 */
export function useStamp() {
  const route = useRoute()
  const { set, coming } = useAddress()
  const knownOn = computed(() => upTo(today(), route.query.known_on))
  const isToday = computed(() => knownOn.value === today())

  /** Moves are steps in the browser's history, but for those of one drag. */
  function move(wanted: string, replace = false): void {
    const day = upTo(today(), wanted)
    if (day !== knownOn.value) set({ known_on: day }, replace)
  }

  /**
   * From the day that the last move leads to, though the page may not be there yet: no press is
   * lost.
   */
  function step(to: (day: string) => string): void {
    const from = upTo(today(), coming('known_on'))
    const day = upTo(today(), to(from))
    if (day !== from) set({ known_on: day })
  }

  return { knownOn, isToday, move, step }
}
