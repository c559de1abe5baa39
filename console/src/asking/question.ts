import { computed, getCurrentScope, onScopeDispose, ref, shallowRef, watch } from 'vue'

import { isAbort, Problem } from '../api/http'

/** Whatever went wrong as a Problem, so that a page never fails in silence. */
export function asProblem(error: unknown): Problem {
  if (error instanceof Problem) return error
  return new Problem(0, 'The answer cannot be shown', error instanceof Error ? error.message : String(error))
}

/**
 * A question and its answer: asked whenever the question changes, and only then; the one before is given up.
 *
 * `question` gives a plain value, or null while there is nothing to ask. The answer to an earlier question stays until
 * the next one comes, unless `keep` is false: then no answer ever stands beside a question that it does not belong to.
 * `shown` is the question that the answer belongs to.
 */
export function useQuestion<Q, A>(
  question: () => Q | null,
  ask: (question: Q, signal: AbortSignal) => Promise<A>,
  { keep = true }: { keep?: boolean } = {},
) {
  const answer = shallowRef<A | null>(null)
  const shown = shallowRef<Q | null>(null)
  const problem = shallowRef<Problem | null>(null)
  const loading = ref(false)
  let abort = new AbortController()

  async function again(): Promise<void> {
    abort.abort()
    const mine = (abort = new AbortController())
    const asked = question()
    if (!keep) answer.value = shown.value = null
    if (asked === null) {
      loading.value = false
      return
    }
    loading.value = true
    try {
      const found = await ask(asked, mine.signal)
      if (mine.signal.aborted) return
      answer.value = found
      shown.value = asked
      problem.value = null
    } catch (error) {
      if (mine.signal.aborted || isAbort(error)) return
      problem.value = asProblem(error)
    } finally {
      if (abort === mine) loading.value = false
    }
  }

  // Compared by what it says: a page's address moves for many reasons that no answer depends on.
  watch(() => JSON.stringify(question()), again, { immediate: true })
  if (getCurrentScope()) onScopeDispose(() => abort.abort())
  return { answer, shown, problem, loading, again }
}

/** Work that changes something: one at a time is fine, what goes wrong stands in `problem`. */
export function useAttempt() {
  const problem = shallowRef<Problem | null>(null)
  const underway = ref(0)

  async function attempt(work: () => Promise<unknown>): Promise<boolean> {
    underway.value += 1
    try {
      await work()
      problem.value = null
      return true
    } catch (error) {
      if (!isAbort(error)) problem.value = asProblem(error)
      return false
    } finally {
      underway.value -= 1
    }
  }

  return { attempt, problem, busy: computed(() => underway.value > 0) }
}
