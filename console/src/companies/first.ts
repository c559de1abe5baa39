import { watch } from 'vue'

import { companies } from '../api/ledger'
import { useAddress } from '../asking/address'
import { useQuestion } from '../asking/question'
import { useStamp } from '../time/stamp'

/**
 * A page about one company that was opened without one shows the first there is; what is wrong
 * where none can be asked for.
 */
export function useFirstCompany(named: () => boolean) {
  const { set } = useAddress()
  const { knownOn } = useStamp()
  const { answer, problem } = useQuestion(
    () => (named() ? null : { query: '', on: knownOn.value, with_inactive: false }),
    companies,
  )
  watch(answer, (found) => {
    const first = found?.companies[0]
    if (first && !named()) set({ company: first.id }, true)
  })
  return problem
}
