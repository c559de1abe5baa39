import {
  computed,
  getCurrentScope,
  hasInjectionContext,
  inject,
  onScopeDispose,
  ref,
  shallowRef,
  watch,
} from 'vue'

import { isAbort, Problem } from '../api/http'
import { STANDING } from './standing'

/** Whatever went wrong as a Problem, so that a page never fails in silence. */
export function asProblem(error: unknown): Problem {
  if (error instanceof Problem) return error
  return new Problem(
    0,
    'The answer cannot be shown',
    error instanceof Error ? error.message : String(error),
  )
}

const PATIENCE = 800 // ms that a question under way may still take when another waits behind it
const COMES_BACK = 3000 // ms after which a service that did not answer is asked again

/**
 * A question and its answer: asked whenever the question changes. One is under way at a time; of
 * those that come meanwhile only the last is asked, when the one before has its answer or has
 * taken too long.
 *
 * `question` gives a plain value, or null while there is nothing to ask. The answer to an earlier
 * question stays until the next one comes, and is `stale` all that time: the page shows it dimmed,
 * and says what it belongs to (`shown`). `current` is the answer to the very question that is
 * asked now. With `keep` false no other is ever there. A question `apart` is of no page: a
 * suggestion, a count in a corner.
 */
export function useQuestion<Q, A>(
  question: () => Q | null,
  ask: (question: Q, signal: AbortSignal) => Promise<A>,
  { keep = true, apart = false }: { keep?: boolean; apart?: boolean } = {},
) {
  const answer = shallowRef<A | null>(null)
  const shown = shallowRef<Q | null>(null)
  const shownKey = ref('null')
  const problem = shallowRef<Problem | null>(null)
  const loading = ref(false)
  const key = computed(() => JSON.stringify(question()))
  const stale = computed(() => answer.value !== null && shownKey.value !== key.value)
  const current = computed(() => (stale.value ? null : answer.value))
  // All of a page that failed is asked again together.
  const standing = !apart && hasInjectionContext() ? inject(STANDING, null) : null
  let abort = new AbortController()
  let underWay: Promise<void> | null = null
  let waits = false
  let timer: ReturnType<typeof setTimeout> | undefined

  function put(found: A | null, asked: Q | null, itsKey: string): void {
    answer.value = found
    shown.value = asked
    shownKey.value = itsKey
  }

  async function once(): Promise<void> {
    const [asked, itsKey, mine] = [question(), key.value, (abort = new AbortController())]
    waits = false
    clearTimeout(timer)
    if (asked === null) {
      loading.value = false
      return
    }
    loading.value = true
    try {
      const found = await ask(asked, mine.signal)
      if (mine.signal.aborted || (!keep && itsKey !== key.value)) return
      put(found, asked, itsKey)
      problem.value = null
    } catch (error) {
      if (mine.signal.aborted || isAbort(error) || waits) return
      problem.value = asProblem(error)
      problem.value.again = () => (standing ? standing.again() : void again())
      if (problem.value.status === 0) timer = setTimeout(() => void again(), COMES_BACK)
    } finally {
      loading.value = waits
    }
  }

  /**
   * Ask again, though the question be the same; done when the last of those that wait has its
   * answer.
   */
  function again(): Promise<void> {
    if (underWay) {
      waits = true
      const late = abort
      setTimeout(() => waits && late === abort && abort.abort(), question() === null ? 0 : PATIENCE)
      return underWay
    }
    underWay = (async () => {
      try {
        do await once()
        while (waits)
      } finally {
        underWay = null // at once: a question that changes in this very moment is asked
      }
    })()
    return underWay
  }

  // Compared by what it says: a page's address moves for many reasons that no answer depends on.
  watch(
    key,
    (now) => {
      problem.value = null
      if (!keep || now === 'null') put(null, null, 'null')
      void again()
    },
    { immediate: true },
  )
  const online = (): void => {
    if (problem.value?.status === 0) void again()
  }
  addEventListener('online', online)
  standing?.add({ stale, shown, loading, problem, again })
  if (getCurrentScope()) {
    onScopeDispose(() => {
      waits = false
      abort.abort()
      clearTimeout(timer)
      removeEventListener('online', online)
    })
  }
  return { answer, current, stale, shown, problem, loading, again }
}

/**
 * Work that changes something: one at a time is fine, what goes wrong stands in `problem`, with
 * `again` where it may be tried anew.
 */
export function useAttempt() {
  const problem = shallowRef<Problem | null>(null)
  const underway = ref(0)

  async function attempt(work: () => Promise<unknown>, again?: () => void): Promise<boolean> {
    underway.value += 1
    try {
      await work()
      problem.value = null
      return true
    } catch (error) {
      if (isAbort(error)) return false
      problem.value = Object.assign(asProblem(error), { again })
      return false
    } finally {
      underway.value -= 1
    }
  }

  return { attempt, problem, busy: computed(() => underway.value > 0) }
}
