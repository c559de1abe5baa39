import { computed, type InjectionKey, onScopeDispose, type Ref, shallowReactive } from 'vue'

import { longDay } from '../time/format'

/** A question of the page: whether its answer is still that of an earlier one, and of which. */
export interface Asked {
  stale: Ref<boolean>
  shown: Ref<unknown>
  loading: Ref<boolean>
  problem: Ref<unknown>
  again: () => Promise<void>
}

export interface Standing {
  add: (asked: Asked) => void
  again: () => void
}

export const STANDING: InjectionKey<Standing> = Symbol('the questions of the page')

/** The day that a question is about, where it is about one. */
function dayOf(asked: unknown): string | undefined {
  const one = (Array.isArray(asked) ? asked[0] : asked) as
    Record<string, unknown> | null | undefined
  const day = one?.known_on ?? one?.on
  return typeof day === 'string' ? day : undefined
}

/**
 * What a page says of its answers as a whole: nothing stands under a question that it does not
 * belong to unsaid, and nothing is awaited in silence.
 */
export function useStanding() {
  const questions = shallowReactive(new Set<Asked>())
  const late = computed(() => [...questions].filter((asked) => asked.stale.value))
  const awaited = computed(() =>
    [...questions].some((asked) => asked.loading.value && asked.shown.value === null),
  )
  const words = computed(() => {
    if (!late.value.length) return awaited.value ? 'Looking …' : ''
    const day = late.value.map((asked) => dayOf(asked.shown.value)).find(Boolean)
    return day ? `Still as of ${longDay(day)}` : 'Still what was asked before'
  })

  function add(asked: Asked): void {
    questions.add(asked)
    onScopeDispose(() => questions.delete(asked))
  }

  const failed = computed(() =>
    [...questions].filter((asked) => asked.problem.value && !asked.loading.value),
  )

  /**
   * Ask all again that failed: a part of a page that shows no problem of its own is not left
   * behind.
   */
  function again(): void {
    for (const asked of failed.value) void asked.again()
  }

  return {
    add,
    stale: computed(() => late.value.length > 0),
    awaited,
    words,
    failed: computed(() => failed.value.length > 0),
    again,
  }
}
