import { onErrorCaptured, ref, watch, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { Problem } from '../api/http'

/**
 * What went wrong in the page itself, until another one is opened: where it stands empty, it says
 * so. A page that was built anew since this one was loaded cannot be fetched: it is there after a
 * reload.
 */
export function useBroken(): Ref<Problem | null> {
  const broken = ref<Problem | null>(null) as Ref<Problem | null>
  const say = (title: string, error: unknown): void => {
    const problem = new Problem(0, title, `Load the page again (${String(error).slice(0, 200)})`)
    problem.again = () => location.reload()
    broken.value = problem
  }
  onErrorCaptured((error) => say('The page met an error of its own', error))
  useRouter().onError((error) => say('The page could not be opened', error))
  const route = useRoute()
  watch(
    () => route.path,
    () => (broken.value = null),
  )
  return broken
}
