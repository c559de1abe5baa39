import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { isDay, today } from './days'

/** The date stamp: the cut-off of every page, kept in the address so that a view can be sent to a colleague. */
export function useStamp() {
  const route = useRoute()
  const router = useRouter()
  const knownOn = computed(() => (isDay(route.query.known_on) ? route.query.known_on : today()))
  const isToday = computed(() => knownOn.value === today())

  /** Moves are steps in the browser's history, but for those of one drag. */
  function move(day: string, replace = false): void {
    if (day === knownOn.value) return
    const to = { query: { ...route.query, known_on: day } }
    void (replace ? router.replace(to) : router.push(to))
  }

  return { knownOn, isToday, move }
}
